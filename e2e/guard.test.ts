import http from "node:http";
import { makeRandomAccount } from "../fixtures/accounts";
import { expect, type Running, startVuoto, test } from "./vuoto";

let running: Running;
test.beforeAll(async () => {
  running = await startVuoto((account) => void makeRandomAccount(account, 5, 20));
});
test.afterAll(() => running.stop());

/** A request exactly as given: fetch would not let a test set Host or Origin. */
function request(
  method: string,
  path: string,
  headers: Record<string, string> = {},
  body?: string | Buffer,
): Promise<{ status: number; text: string; headers: http.IncomingHttpHeaders }> {
  const { port } = new URL(running.base);
  return new Promise((resolve, reject) => {
    const sent = http.request(
      { host: "127.0.0.1", port, path, method, headers: { host: `127.0.0.1:${port}`, ...headers } },
      (answer) => {
        const parts: Buffer[] = [];
        answer.on("data", (part: Buffer) => parts.push(part));
        answer.on("end", () =>
          resolve({ status: answer.statusCode!, text: Buffer.concat(parts).toString(), headers: answer.headers }),
        );
      },
    );
    sent.on("error", reject);
    sent.end(body);
  });
}

/** Uses the link up and answers the cookie. */
async function letIn(): Promise<string> {
  const fresh = running.command("start");
  const link = /enter\?link=\S+/.exec(fresh.out)![0];
  const entered = await request("GET", `/${link}`);
  expect(entered.status).toBe(303);
  return entered.headers["set-cookie"]![0]!.split(";")[0]!;
}

const act = (cookie: string, more: Record<string, string> = {}) => ({
  "content-type": "application/json",
  origin: running.base,
  "sec-fetch-site": "same-origin",
  cookie,
  ...more,
});

test("the link lets one browser in, once, and leaves no trace in the address", async ({ page }) => {
  await page.goto(running.enter);
  await expect(page).toHaveURL(`${running.base}/survey`);
  const again = await request("GET", new URL(running.enter).pathname + new URL(running.enter).search);
  expect(again.status).toBe(403);
  expect(again.text).toContain("used already");
  expect((await request("GET", "/enter?link=guessed")).status).toBe(403);
});

test("without the cookie nothing is answered, and nothing done", async () => {
  const before = running.tree();
  for (const path of ["/survey", "/ledger", "/screen"]) {
    const { status, headers } = await request("GET", path);
    expect(status).toBe(307);
    expect(headers.location).toContain("/enter");
  }
  expect((await request("GET", "/enter")).status).toBe(401);
  for (const path of ["/api/events", "/api/survey/picture?item=x"]) expect((await request("GET", path)).status).toBe(401);
  for (const cookie of ["", "vuoto=1", `${(await letIn()).split("=")[0]}=forged.forged`])
    expect((await request("POST", "/api/quiet/show", act(cookie), '{"level":"bare"}')).status).toBe(401);
  expect(running.changes(before)).toEqual([]);
});

test("a foreign host is refused, against rebinding", async () => {
  const cookie = await letIn();
  const { port } = new URL(running.base);
  for (const host of ["evil.example", `evil.example:${port}`, "127.0.0.1", `127.0.0.1.evil.example:${port}`])
    for (const path of ["/survey", "/enter"]) expect((await request("GET", path, { host, cookie })).status).toBe(403);
  expect((await request("POST", "/api/quiet/show", act(cookie, { host: "evil.example" }), '{"level":"bare"}')).status).toBe(403);
  expect((await request("GET", "/survey", { host: `localhost:${port}`, cookie })).status).toBe(200);
});

test("a foreign page cannot ask for a change, though the browser sends the cookie", async () => {
  const cookie = await letIn();
  const before = running.tree();
  const tries: Record<string, string>[] = [
    { origin: "https://evil.example" },
    { origin: "null" },
    { origin: running.base.replace("http:", "https:") },
    { "sec-fetch-site": "cross-site" },
    { "sec-fetch-site": "same-site" },
    { "content-type": "text/plain" },
    { "content-type": "application/x-www-form-urlencoded" },
  ];
  for (const headers of tries)
    expect(
      (await request("POST", "/api/quiet/show", act(cookie, headers), '{"level":"bare"}')).status,
      JSON.stringify(headers),
    ).toBe(403);
  const { origin: _, ...without } = act(cookie);
  expect((await request("POST", "/api/quiet/show", without, '{"level":"bare"}')).status).toBe(403);
  expect((await request("GET", "/api/quiet/show", { cookie })).status).toBe(405);
  expect(running.changes(before)).toEqual([]);
});

test("what cannot be understood is refused with problem details", async () => {
  const cookie = await letIn();
  for (const [path, body] of [
    ["quiet/show", "{"],
    ["quiet/show", "[]"],
    ["quiet/show", '{"level":"invisible"}'],
    ["sitting/let-go", '{"items":[]}'],
    ["sitting/let-go", '{"items":"all"}'],
    ["homes/put", '{"home":{"title":""},"items":["x"]}'],
    ["ledger/undo", '{"entry":-1}'],
  ] as const) {
    const { status, text, headers } = await request("POST", `/api/${path}`, act(cookie), body);
    expect(status, `${path} ${body}`).toBe(400);
    expect(headers["content-type"]).toContain("application/problem+json");
    expect(JSON.parse(text)).toMatchObject({ code: "malformed", title: expect.any(String), remedy: expect.any(String) });
    expect(text).not.toMatch(/\bat .*\.js:/);
  }
  const huge = Buffer.alloc(9_000_000, 0x20);
  expect((await request("POST", "/api/quiet/show", act(cookie), huge)).status).toBe(413);
  expect((await request("POST", "/api/quiet/show", act(cookie, { "transfer-encoding": "chunked" }), huge)).status).toBe(413);
});

test("paths out of bounds are refused", async () => {
  const cookie = await letIn();
  const before = running.tree();
  const base64 = (path: string) => Buffer.from(path).toString("base64");
  const { text } = await request("POST", "/api/survey/survey", act(cookie), "{}");
  const [first] = (JSON.parse(text) as { worktops: { items: { path: string }[] }[] }).worktops[0]!.items;
  const items = [{ path: base64(first!.path) }];
  for (const home of [
    { folder: base64("/etc") },
    { folder: base64(`${running.account}/../..`) },
    { folder: base64(running.account) },
  ]) {
    const answer = await request("POST", "/api/homes/put", act(cookie), JSON.stringify({ home, items }));
    expect(answer.status, answer.text).toBeGreaterThanOrEqual(400);
  }
  for (const path of ["/etc/passwd", `${running.account}/Bureau/../.config/user-dirs.dirs`, `${running.account}/.config`]) {
    const answer = await request("POST", "/api/sitting/let-go", act(cookie), JSON.stringify({ items: [{ path: base64(path) }] }));
    expect(JSON.parse(answer.text)).toMatchObject({ code: "unknown-item" });
  }
  for (const folder of ["/", running.account, `${running.account}/Bureau`, "relative", "/no/such/folder"]) {
    const answer = await request("POST", "/api/depots/add", act(cookie), JSON.stringify({ folder }));
    expect(JSON.parse(answer.text), folder).toMatchObject({ code: "depot-unsuitable" });
  }
  const dots = await request("POST", "/api/homes/put", act(cookie), JSON.stringify({ home: { title: ".. / .. / out" }, items }));
  expect(running.changes(before).filter((line) => !/Papers\/out|Bureau/.test(line))).toEqual([]);
  if (dots.status === 200) await request("POST", "/api/ledger/undo", act(cookie), "{}");
  expect(running.changes(before)).toEqual([]);
});

test("pages carry a strict policy with a nonce of their own", async () => {
  const cookie = await letIn();
  const one = await request("GET", "/survey", { cookie });
  const two = await request("GET", "/survey", { cookie });
  const policy = String(one.headers["content-security-policy"]);
  expect(policy).toMatch(/default-src 'none'; script-src 'nonce-[^']+' 'strict-dynamic'/);
  expect(policy).toContain("frame-ancestors 'none'");
  expect(policy).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline/);
  expect(policy).not.toBe(String(two.headers["content-security-policy"]));
  expect(one.headers["referrer-policy"]).toBe("no-referrer");
  expect(one.headers["x-content-type-options"]).toBe("nosniff");
});

test("a second start says where the first one runs, and the port asked for must be free", async () => {
  const again = running.command("start");
  expect(again.status).toBe(0);
  expect(again.out).toContain("already runs");
  expect(again.out).toContain(running.base);
  const other = await startVuoto((account) => void makeRandomAccount(account, 6, 3));
  try {
    const taken = running.command("--data", `${running.folder}/other`, "start", "--port", new URL(other.base).port);
    expect(taken.status).toBe(3);
    expect(taken.err).toContain("is in use by another program");
  } finally {
    await other.stop();
  }
});
