import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { makePlace } from "../../../fixtures/engine";
import { openDb } from "../db/db";
import {
  checkForm,
  checkHost,
  checkOrigin,
  cookieFor,
  hasKey,
  linkStands,
  makeLink,
  pagePolicy,
  tokenIn,
  useLink,
} from "./guard";
import { endSessions, findSession, makeSession, sessions } from "./sessions";

const data = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-guard-"));
const before = { ...process.env };
beforeAll(() => {
  Object.assign(process.env, { VUOTO_PORT: "4180", VUOTO_DATA: data, VUOTO_KEY: "the-key", VUOTO_ACCOUNT: btoa("/home/u") });
});
afterAll(() => {
  process.env = before;
  fs.rmSync(data, { recursive: true });
});

const asked = (headers: Record<string, string | undefined>) => ({
  method: "POST",
  headers: new Headers(headers as Record<string, string>),
});
const good = { host: "127.0.0.1:4180", origin: "http://127.0.0.1:4180", "content-type": "application/json" };

describe("the guard", () => {
  test("lets its one address in", () => {
    expect(() => checkHost(asked({ host: "127.0.0.1:4180" }))).not.toThrow();
  });
  // Another user may listen on the others at our port.
  test.each([
    "",
    "localhost:4180",
    "vuoto.localhost:4180",
    "[::1]:4180",
    "127.0.0.2:4180",
    "127.0.0.1",
    "127.0.0.1:80",
    "evil.example:4180",
    "localhost.evil.example:4180",
    "127.0.0.1:4180.evil.example",
  ])("keeps the host “%s” out", (host) => {
    expect(() => checkHost(asked({ host }))).toThrow(expect.objectContaining({ code: "foreign-request" }));
  });
  test("takes a change from its own page as JSON, and from no other", () => {
    expect(() => checkOrigin(asked(good))).not.toThrow();
    expect(() =>
      checkOrigin(asked({ ...good, "content-type": "application/json; charset=utf-8", "sec-fetch-site": "same-origin" })),
    ).not.toThrow();
    const foreign: Record<string, string>[] = [
      { origin: "null" },
      { origin: "" },
      { origin: "http://127.0.0.1:4181" },
      { "sec-fetch-site": "none" },
      { "content-type": "application/jsonp" },
      { "content-type": "multipart/form-data" },
    ];
    for (const change of foreign) expect(() => checkOrigin(asked({ ...good, ...change })), JSON.stringify(change)).toThrow();
  });
  test("takes a form from its own page, and from no other", () => {
    const form = { ...good, "content-type": "application/x-www-form-urlencoded" };
    expect(() => checkForm(asked(form))).not.toThrow();
    for (const change of [
      { origin: "null" },
      { origin: "http://127.0.0.1:4181" },
      { "sec-fetch-site": "cross-site" },
      { "content-type": "application/json" },
    ])
      expect(() => checkForm(asked({ ...form, ...change })), JSON.stringify(change)).toThrow();
  });
  test("knows its own sessions, whatever a cookie holds, and for thirty days unused", () => {
    const db = openDb(path.join(data, "vuoto.sqlite"));
    const day = 86_400_000;
    const token = makeSession(db, day, "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0");
    const cookie = cookieFor(token).split(";")[0]!;
    expect(cookieFor(token)).toContain("HttpOnly; SameSite=Strict");
    expect(tokenIn(asked({ cookie: `a=b; ${cookie}; c=d` }))).toBe(token);
    expect(tokenIn(asked({ cookie: `other-${cookie}` }))).toBeUndefined();
    for (const forged of ["", "x", token.slice(1), `${token}x`, token.toLowerCase(), "\u00e9".repeat(43), "'; --"])
      expect(findSession(db, day, forged), forged).toBeUndefined();
    // Used every twenty days it lasts; the record holds nothing that would let anybody in.
    for (const at of [2, 21, 41, 61]) expect(findSession(db, at * day, token), String(at)).toBeDefined();
    expect(findSession(db, 92 * day, token)).toBeUndefined();
    expect(JSON.stringify(db.prepare("SELECT * FROM session").all())).not.toContain(token);
    db.close();
  });
  test("lists who is let in, and ends one or all, of which their streams hear", async () => {
    const place = makePlace((root) => void fs.mkdirSync(path.join(root, "Desktop")));
    const engine = await place.open();
    const [one, two] = ["one", "two"].map(() => makeSession(engine.db, engine.now(), ""));
    const own = findSession(engine.db, engine.now(), one!)!;
    const heard: unknown[] = [];
    engine.events.listen(({ event }) => event.type === "ended" && heard.push(event.sessions));
    expect(
      sessions(engine, own)
        .map((line) => line.own)
        .sort(),
    ).toEqual([false, true]);
    expect(endSessions(engine, { session: own })).toEqual({ ended: 1 });
    expect(findSession(engine.db, engine.now(), one!)).toBeUndefined();
    expect(() => endSessions(engine, { session: own })).toThrow(expect.objectContaining({ code: "unknown-session" }));
    expect(findSession(engine.db, engine.now(), two!)).toBeDefined();
    expect(endSessions(engine, {})).toEqual({ ended: 1 });
    expect(sessions(engine)).toEqual([]);
    expect(heard.flat()).toHaveLength(2);
    await engine.close();
    place.remove();
  });
  test("lets a link in once, and not after its time", () => {
    const link = makeLink(1000);
    expect([linkStands(link, 2000), linkStands(link, 2000), linkStands("guessed", 2000)]).toEqual([true, true, false]);
    expect([useLink(link, 2000), useLink(link, 2000), useLink("guessed", 2000)]).toEqual([true, false, false]);
    expect(useLink(makeLink(0), 11 * 60_000)).toBe(false);
  });
  test("takes the key from who can read it, whole", () => {
    expect(hasKey(asked({ "x-vuoto-key": "the-key" }))).toBe(true);
    for (const key of ["", "the-ke", "the-key2", "THE-KEY", "th\u00e9-key", "\u00ff".repeat(7)])
      expect(hasKey(asked({ "x-vuoto-key": key }))).toBe(false);
  });
  test("lets no script run but its own", () => {
    expect(pagePolicy("abc")).toMatch(/^default-src 'none'; script-src 'nonce-abc' 'strict-dynamic';/);
    expect(pagePolicy("abc")).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline|\*/);
  });
});
