import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import http from "node:http";
import os from "node:os";
import path from "node:path";
import type { Page } from "@playwright/test";
import { makeRandomAccount } from "../fixtures/accounts";
import { cookieOf, expect, letIn, type Running, startVuoto, test } from "./vuoto";

const root = path.dirname(import.meta.dirname);

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

const act = (cookie: string, more: Record<string, string> = {}) => ({
  "content-type": "application/json",
  origin: running.base,
  "sec-fetch-site": "same-origin",
  cookie,
  ...more,
});

const form = { "content-type": "application/x-www-form-urlencoded", "sec-fetch-site": "same-origin" };
const linkIn = (text: string) => /enter\?link=(\S+)/.exec(text)![1]!;
const freshLink = () => linkIn(running.command("start").out);
const pressed = (link: string, headers: Record<string, string> = {}) =>
  request("POST", "/api/guard/enter", { ...form, origin: running.base, ...headers }, `link=${link}`);

test("the link lets one browser in by its button, once, and leaves no trace in the address", async ({ browser }) => {
  // Also without script.
  const context = await browser.newContext({ javaScriptEnabled: false });
  const page = await context.newPage();
  // Looked at by whatever fetches links beforehand, it is not used up.
  const link = linkIn(running.enter);
  for (const method of ["HEAD", "GET", "GET"]) {
    const looked = await request(method, `/enter?link=${link}`);
    expect(looked.status).toBe(200);
    expect(looked.headers["set-cookie"]).toBeUndefined();
  }
  await page.goto(running.enter);
  await page.getByRole("button", { name: "Let this browser in" }).click();
  await expect(page).toHaveURL(`${running.base}/survey`);
  expect((await pressed(link)).status).toBe(403);
  expect((await pressed("guessed")).status).toBe(403);
  await page.goto(running.enter);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("This link was used already, or is too old.");
  expect(await page.getByRole("button").count()).toBe(0);
  await context.close();
});

test("the button works on our own page alone, and a foreign form uses nothing up", async () => {
  const link = freshLink();
  for (const headers of [
    { origin: "null" },
    { origin: "https://evil.example" },
    { "sec-fetch-site": "cross-site" },
    { "content-type": "text/plain" },
    { host: `localhost:${new URL(running.base).port}` },
  ] as Record<string, string>[])
    expect((await pressed(link, headers)).status, JSON.stringify(headers)).toBe(403);
  expect((await pressed(link)).status).toBe(303);
});

/** What another user of this computer gets, who has a cookie or a link of ours, by the system's own client. */
function asAnother(...words: string[]): { status: number | null; out: string } {
  const ask = `
    const { request } = require("node:http");
    const [method, path, headers, body] = JSON.parse(process.argv[1]);
    const sent = request({ host: "127.0.0.1", port: ${new URL(running.base).port}, method, path, headers }, (answer) => {
      console.log(answer.statusCode); answer.resume();
    });
    sent.on("error", (error) => { console.log(error.code); process.exit(7); });
    sent.end(body);`;
  const done = spawnSync("setpriv", ["--reuid=1777", "--regid=1777", "--clear-groups", process.execPath, "-e", ask, ...words], {
    encoding: "utf8",
  });
  return { status: done.status, out: done.stdout.trim() };
}

test("another user of the computer gets no word in, with a stolen cookie or a stolen link", async () => {
  const before = running.tree();
  const cookie = await cookieOf(running);
  const link = freshLink();
  const body = '{"level":"bare"}';
  const tries = [
    ["GET", "/survey", { cookie }],
    ["POST", "/api/quiet/show", act(cookie), body],
    ["POST", "/api/guard/enter", { ...form, origin: running.base }, `link=${link}`],
    ["GET", `/enter?link=${link}`, {}],
    ["GET", "/_next/static/x", {}],
  ];
  for (const one of tries) expect(asAnother(JSON.stringify(one)), JSON.stringify(one)).toEqual({ status: 7, out: "ECONNRESET" });
  expect(running.changes(before)).toEqual([]);
  // The same words from the person: the cookie is good, and the link was not used up.
  expect((await request("GET", "/survey", { cookie })).status).toBe(200);
  expect((await pressed(link)).status).toBe(303);
});

test("a server of another user receives no session, and what it has of ours is of no use to it, after a restart either", async ({
  page,
}) => {
  await letIn(page.context(), running);
  await page.goto(running.base);
  // It listens at another port of the same address, and the person follows one link to it.
  const listen = (port: string, header: string) =>
    `require("node:http").createServer((request, answer) => { console.log(request.headers["${header}"] ?? "none"); answer.end("a page"); })
      .listen(${port}, "127.0.0.1", function () { console.log(String(this.address().port)); });`;
  const asThief = ["--reuid=1777", "--regid=1777", "--clear-groups", process.execPath, "-e"];
  const thief = spawn("setpriv", [...asThief, listen("0", "cookie")]);
  const heard: string[] = [];
  thief.stdout.on("data", (part: Buffer) => heard.push(...String(part).trim().split("\n")));
  await expect.poll(() => heard.length).toBeGreaterThan(0);
  await page.goto(`http://127.0.0.1:${heard[0]}/`);
  await expect.poll(() => heard.length).toBeGreaterThan(1);
  // A cookie reaches every port of its address: it cannot be kept from it.
  const stolen = heard[1]!;
  expect(stolen).toContain("vuoto-");
  const before = running.tree();
  const attempt = () => asAnother(JSON.stringify(["POST", "/api/quiet/show", act(stolen), '{"level":"bare"}']));
  expect(attempt()).toEqual({ status: 7, out: "ECONNRESET" });
  await running.again();
  expect(attempt()).toEqual({ status: 7, out: "ECONNRESET" });
  expect(running.changes(before)).toEqual([]);
  // Nor does a command give its key to what listens where ours did.
  const { port } = new URL(running.base);
  await running.again();
  const pretend = spawn("setpriv", [...asThief, listen(port, "x-vuoto-key")]);
  const keys: string[] = [];
  pretend.stdout.on("data", (part: Buffer) => keys.push(String(part)));
  await expect.poll(() => keys.length).toBeGreaterThan(0);
  const file = path.join(running.data, "server.json");
  const real = fs.readFileSync(file, "utf8");
  fs.writeFileSync(file, JSON.stringify({ ...JSON.parse(real), port: Number(port) }));
  expect(running.command("quiet", "status")).toMatchObject({ status: 3 });
  fs.writeFileSync(file, real);
  expect(keys).toHaveLength(1);
  thief.kill();
  pretend.kill();
});

test("a session lasts over a restart, is listed, and is ended from here or by command: its pages are shut out at once", async ({
  browser,
}) => {
  const [one, two] = await Promise.all(
    [0, 1].map(async () => {
      const context = await browser.newContext();
      await letIn(context, running);
      const page = await context.newPage();
      await page.goto(`${running.base}/settings`);
      return page;
    }),
  );
  await running.again();
  await one!.goto(`${running.base}/settings`);
  const own = one!.getByRole("listitem").filter({ hasText: "(this one)" });
  await expect(own).toHaveCount(1);
  await expect(own).toContainText("Chrome");
  await two!.goto(`${running.base}/settings`);
  await two!.getByRole("listitem").filter({ hasText: "(this one)" }).getByRole("button").click();
  await expect(two!.getByRole("heading", { level: 1 })).toHaveText("This browser has not been let in.");
  await expect(own).toBeVisible();
  const listed = running.command("session", "list");
  expect(listed.status).toBe(0);
  expect(running.command("session", "end", "nobody")).toMatchObject({ status: 3 });
  expect(running.command("session", "end", "all")).toMatchObject({ status: 0, out: expect.stringContaining("shut out") });
  await expect(one!.getByRole("heading", { level: 1 })).toHaveText("This browser has not been let in.", { timeout: 30_000 });
  expect(running.command("session", "list").out).toContain("No browser is let in.");
});

test("thirty open pages answer as one does, and hear what happens", async ({ context }) => {
  test.setTimeout(240_000);
  await letIn(context, running);
  const pages: Page[] = [];
  for (let n = 0; n < 30; n++) {
    const page = await context.newPage();
    await page.goto(`${running.base}/quiet`);
    await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
    pages.push(page);
  }
  const streams = await Promise.all(
    pages.map((page) =>
      page.evaluate(() => performance.getEntriesByType("resource").filter((e) => e.name.includes("/api/events")).length),
    ),
  );
  const foot = (n: number) => pages[n]!.getByRole("contentinfo");
  await pages[29]!.bringToFront();
  await pages[29]!.keyboard.press("q");
  for (const n of [29, 0, 13]) await expect(foot(n), String(n)).toContainText(/\d+ out of sight/);
  // The page that listens is closed; the next one goes on.
  await pages[0]!.close();
  await pages[29]!.keyboard.press("q");
  for (const n of [29, 1, 13]) await expect(foot(n), String(n)).toContainText("icons shown");
  expect(streams.filter((count) => count > 0).length).toBeLessThanOrEqual(1);
});

test("every page hears of it when Vuoto was restarted, and keeps no job that is over", async ({ page }) => {
  await letIn(page.context(), running);
  await page.goto(`${running.base}/ledger`);
  const { port } = new URL(running.base);
  await running.again(port);
  expect(running.command("stay", fs.readdirSync(path.join(running.account, "Bureau"))[0]!).status).toBe(0);
  await expect(page.getByRole("contentinfo")).toContainText(/Left .+ where it lies/, { timeout: 30_000 });
  expect(running.command("undo").status).toBe(0);
});

/** Whether a process is the server of a data folder. */
function isServerOf(pid: number, data: string): boolean {
  try {
    const [words, settings] = ["cmdline", "environ"].map((what) => fs.readFileSync(`/proc/${pid}/${what}`, "utf8"));
    return words!.includes("dist/serve.mjs") && settings!.split("\0").includes(`VUOTO_DATA=${data}`);
  } catch {
    return false;
  }
}

test("vuoto open starts it where it does not run, and leads in by a page that only the person can read", async ({ page }) => {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-open-")));
  const account = path.join(folder, "account");
  fs.mkdirSync(account);
  makeRandomAccount(account, 9, 4);
  // The desktop's own way of opening a page, which here only writes down what it was given.
  fs.writeFileSync(path.join(folder, "xdg-open"), `#!/bin/sh\necho "$@" > ${folder}/opened\n`, { mode: 0o755 });
  const data = path.join(folder, "data");
  const open = () =>
    spawnSync(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", data, "open"], {
      env: { ...process.env, PATH: `${folder}:${process.env.PATH}` },
      encoding: "utf8",
    });
  let pid = 0;
  try {
    expect(open()).toMatchObject({ status: 0, stdout: "" });
    const { port } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8"));
    pid = fs
      .readdirSync("/proc")
      .filter((name) => /^\d+$/.test(name))
      .map(Number)
      .find((one) => isServerOf(one, data))!;
    expect(pid).toBeGreaterThan(0);
    const opened = fs.readFileSync(path.join(folder, "opened"), "utf8").trim();
    expect(opened).toBe(`file://${data}/open.html`);
    expect(fs.statSync(path.join(data, "open.html")).mode & 0o777).toBe(0o600);
    await page.goto(opened);
    await page.getByRole("button", { name: "Let this browser in" }).click();
    await expect(page).toHaveURL(`http://127.0.0.1:${port}/survey`);
    // Once more, it runs already.
    expect(open().status).toBe(0);
    expect(JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")).port).toBe(port);
  } finally {
    if (pid) process.kill(pid, "SIGTERM");
    fs.rmSync(folder, { recursive: true, force: true });
  }
});

test("without the cookie nothing is answered, and nothing done", async () => {
  const before = running.tree();
  for (const path of ["/survey", "/ledger", "/screen"]) {
    const { status, headers } = await request("GET", path);
    expect(status).toBe(307);
    expect(headers.location).toContain("/enter");
  }
  expect((await request("GET", "/enter")).text).toContain("has not been let in");
  const cookieName = (await cookieOf(running)).split("=")[0];
  for (const path of ["/api/events", "/api/looks/picture?item=x"]) expect((await request("GET", path)).status).toBe(401);
  for (const cookie of ["", "vuoto=1", `${cookieName}=\u00e9\u00e9`, `${cookieName}=forged.forged`])
    expect((await request("POST", "/api/quiet/show", act(cookie), '{"level":"bare"}')).status).toBe(401);
  expect((await request("POST", "/api/quiet/show", { ...act(""), "x-vuoto-key": "\u00e9".repeat(32) }, "{}")).status).toBe(401);
  expect(running.changes(before)).toEqual([]);
});

test("a foreign host is refused, against rebinding", async () => {
  const cookie = await cookieOf(running);
  const { port } = new URL(running.base);
  for (const host of ["evil.example", `evil.example:${port}`, "127.0.0.1", `127.0.0.1.evil.example:${port}`])
    for (const path of ["/survey", "/enter"]) expect((await request("GET", path, { host, cookie })).status).toBe(403);
  expect((await request("POST", "/api/quiet/show", act(cookie, { host: "evil.example" }), '{"level":"bare"}')).status).toBe(403);
  // Another user may listen on these at our port.
  for (const host of [`localhost:${port}`, `vuoto.localhost:${port}`, `[::1]:${port}`])
    expect((await request("GET", "/survey", { host, cookie })).status, host).toBe(403);
});

test("a foreign page cannot ask for a change, though the browser sends the cookie", async () => {
  const cookie = await cookieOf(running);
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
  const cookie = await cookieOf(running);
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
  const cookie = await cookieOf(running);
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
    const answer = await request("POST", "/api/depots/add", act(cookie), JSON.stringify({ location: folder }));
    expect(JSON.parse(answer.text), folder).toMatchObject({ code: "depot-unsuitable" });
  }
  const dots = await request("POST", "/api/homes/put", act(cookie), JSON.stringify({ home: { title: ".. / .. / out" }, items }));
  expect(running.changes(before).filter((line) => !/Papers\/out|Bureau/.test(line))).toEqual([]);
  if (dots.status === 200) await request("POST", "/api/ledger/undo", act(cookie), "{}");
  expect(running.changes(before)).toEqual([]);
});

test("pages carry a strict policy with a nonce of their own", async () => {
  const cookie = await cookieOf(running);
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
