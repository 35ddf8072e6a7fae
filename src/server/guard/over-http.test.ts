import { afterAll, beforeAll, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { askedByAnother } from "../../../fixtures/another-user";
import { changedSince } from "../../../fixtures/compare-trees";
import { makePlace, type Place } from "../../../fixtures/engine";
import { type Served, serveAccount } from "../../../fixtures/served";

let place: Place;
let served: Served;
beforeAll(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 5, 20));
  served = await serveAccount(place);
});
afterAll(async () => {
  await served.close();
  place.remove();
});

const changes = (before: ReturnType<Place["tree"]>) => changedSince(before, place.root);

const act = (cookie: string, more: Record<string, string> = {}) => ({
  "content-type": "application/json",
  origin: served.base,
  "sec-fetch-site": "same-origin",
  cookie,
  ...more,
});

const form = { "content-type": "application/x-www-form-urlencoded", "sec-fetch-site": "same-origin" };
const pressed = (link: string, headers: Record<string, string> = {}) =>
  served.request("POST", "/api/guard/enter", { ...form, origin: served.base, ...headers }, `link=${link}`);
const freshLink = async () => {
  const { text } = await served.request("POST", "/api/guard/link", { "x-vuoto-key": process.env.VUOTO_KEY! });
  return (JSON.parse(text) as { link: string }).link;
};

test("the button works on our own page alone, and a foreign form uses nothing up", async () => {
  const link = await freshLink();
  for (const headers of [
    { origin: "null" },
    { origin: "https://evil.example" },
    { "sec-fetch-site": "cross-site" },
    { "content-type": "text/plain" },
    { host: `localhost:${served.port}` },
  ] as Record<string, string>[])
    expect((await pressed(link, headers)).status, JSON.stringify(headers)).toBe(403);
  expect((await pressed(link)).status).toBe(303);
});

test("another user of the computer gets no word in, with a stolen cookie or a stolen link", async () => {
  const before = place.tree();
  const cookie = await served.cookie();
  const link = await freshLink();
  const body = '{"level":"bare"}';
  const tries: [string, string, Record<string, string>, string?][] = [
    ["GET", "/api/events", { cookie }],
    ["POST", "/api/quiet/show", act(cookie), body],
    ["POST", "/api/guard/enter", { ...form, origin: served.base }, `link=${link}`],
    ["GET", `/enter?link=${link}`, {}],
    ["GET", "/_next/static/x", {}],
  ];
  for (const one of tries) expect(await askedByAnother(served.port, ...one), JSON.stringify(one)).toBe("ECONNRESET");
  expect(changes(before)).toEqual([]);
  // The same words from the person: the cookie is good, and the link was not used up.
  expect((await served.request("POST", "/api/quiet/status", act(cookie), "{}")).status).toBe(200);
  expect((await pressed(link)).status).toBe(303);
});

test("without the cookie nothing is answered, and nothing done", async () => {
  const before = place.tree();
  const cookieName = (await served.cookie()).split("=")[0];
  for (const path of ["/api/events", "/api/looks/picture?item=x"]) expect((await served.request("GET", path)).status).toBe(401);
  for (const cookie of ["", "vuoto=1", `${cookieName}=\u00e9\u00e9`, `${cookieName}=forged.forged`])
    expect((await served.request("POST", "/api/quiet/show", act(cookie), '{"level":"bare"}')).status).toBe(401);
  expect((await served.request("POST", "/api/quiet/show", { ...act(""), "x-vuoto-key": "\u00e9".repeat(32) }, "{}")).status).toBe(
    401,
  );
  expect(changes(before)).toEqual([]);
});

test("a foreign host is refused, against rebinding", async () => {
  const cookie = await served.cookie();
  const { port } = served;
  for (const host of ["evil.example", `evil.example:${port}`, "127.0.0.1", `127.0.0.1.evil.example:${port}`])
    expect((await served.request("POST", "/api/quiet/show", act(cookie, { host }), '{"level":"bare"}')).status, host).toBe(403);
  // Another user may listen on these at our port.
  for (const host of [`localhost:${port}`, `vuoto.localhost:${port}`, `[::1]:${port}`])
    expect((await served.request("GET", "/api/events", { host, cookie })).status, host).toBe(403);
});

test("a foreign page cannot ask for a change, though the browser sends the cookie", async () => {
  const cookie = await served.cookie();
  const before = place.tree();
  const tries: Record<string, string>[] = [
    { origin: "https://evil.example" },
    { origin: "null" },
    { origin: served.base.replace("http:", "https:") },
    { "sec-fetch-site": "cross-site" },
    { "sec-fetch-site": "same-site" },
    { "content-type": "text/plain" },
    { "content-type": "application/x-www-form-urlencoded" },
  ];
  for (const headers of tries)
    expect(
      (await served.request("POST", "/api/quiet/show", act(cookie, headers), '{"level":"bare"}')).status,
      JSON.stringify(headers),
    ).toBe(403);
  const { origin: _, ...without } = act(cookie);
  expect((await served.request("POST", "/api/quiet/show", without, '{"level":"bare"}')).status).toBe(403);
  expect((await served.request("GET", "/api/quiet/show", { cookie })).status).toBe(405);
  expect(changes(before)).toEqual([]);
});

test("what cannot be understood is refused with problem details", async () => {
  const cookie = await served.cookie();
  for (const [path, body] of [
    ["quiet/show", "{"],
    ["quiet/show", "[]"],
    ["quiet/show", '{"level":"invisible"}'],
    ["sitting/let-go", '{"items":[]}'],
    ["sitting/let-go", '{"items":"all"}'],
    ["homes/put", '{"home":{"title":""},"items":["x"]}'],
    ["ledger/undo", '{"entry":-1}'],
  ] as const) {
    const { status, text, headers } = await served.request("POST", `/api/${path}`, act(cookie), body);
    expect(status, `${path} ${body}`).toBe(400);
    expect(headers["content-type"]).toContain("application/problem+json");
    expect(JSON.parse(text)).toMatchObject({ code: "malformed", title: expect.any(String), remedy: expect.any(String) });
    expect(text).not.toMatch(/\bat .*\.js:/);
  }
  const huge = Buffer.alloc(9_000_000, 0x20);
  expect((await served.request("POST", "/api/quiet/show", act(cookie), huge)).status).toBe(413);
  expect((await served.request("POST", "/api/quiet/show", act(cookie, { "transfer-encoding": "chunked" }), huge)).status).toBe(
    413,
  );
});

test("paths out of bounds are refused", async () => {
  const cookie = await served.cookie();
  const before = place.tree();
  const base64 = (path: string) => Buffer.from(path).toString("base64");
  const { text } = await served.request("POST", "/api/survey/survey", act(cookie), "{}");
  const [first] = (JSON.parse(text) as { worktops: { items: { path: string }[] }[] }).worktops[0]!.items;
  const items = [{ path: base64(first!.path) }];
  for (const home of [{ folder: base64("/etc") }, { folder: base64(`${place.root}/../..`) }, { folder: base64(place.root) }]) {
    const answer = await served.request("POST", "/api/homes/put", act(cookie), JSON.stringify({ home, items }));
    expect(answer.status, answer.text).toBeGreaterThanOrEqual(400);
  }
  for (const path of ["/etc/passwd", `${place.root}/Bureau/../.config/user-dirs.dirs`, `${place.root}/.config`]) {
    const answer = await served.request(
      "POST",
      "/api/sitting/let-go",
      act(cookie),
      JSON.stringify({ items: [{ path: base64(path) }] }),
    );
    expect(JSON.parse(answer.text)).toMatchObject({ code: "unknown-item" });
  }
  for (const folder of ["/", place.root, `${place.root}/Bureau`, "relative", "/no/such/folder"]) {
    const answer = await served.request("POST", "/api/depots/add", act(cookie), JSON.stringify({ location: folder }));
    expect(JSON.parse(answer.text), folder).toMatchObject({ code: "depot-unsuitable" });
  }
  const dots = await served.request(
    "POST",
    "/api/homes/put",
    act(cookie),
    JSON.stringify({ home: { title: ".. / .. / out" }, items }),
  );
  expect(changes(before).filter((line) => !/Papers\/out|Bureau/.test(line))).toEqual([]);
  if (dots.status === 200) await served.request("POST", "/api/ledger/undo", act(cookie), "{}");
  expect(changes(before)).toEqual([]);
});
