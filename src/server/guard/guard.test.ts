import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { checkHost, checkOrigin, cookieName, hasKey, hasSession, makeLink, mintSession, pagePolicy, useLink } from "./guard";

const data = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-guard-"));
const before = { ...process.env };
beforeAll(() => {
  Object.assign(process.env, { VUOTO_PORT: "4180", VUOTO_DATA: data, VUOTO_KEY: "the-key", VUOTO_ACCOUNT: btoa("/home/u") });
});
afterAll(() => {
  process.env = before;
  fs.rmSync(data, { recursive: true });
});

const asked = (headers: Record<string, string>) => ({ method: "POST", headers: new Headers(headers) });
const good = { host: "127.0.0.1:4180", origin: "http://127.0.0.1:4180", "content-type": "application/json" };

describe("the guard", () => {
  test.each(["127.0.0.1:4180", "localhost:4180", "[::1]:4180"])("lets %s in", (host) => {
    expect(() => checkHost(asked({ host }))).not.toThrow();
  });
  test.each(["", "127.0.0.1", "127.0.0.1:80", "evil.example:4180", "localhost.evil.example:4180", "127.0.0.1:4180.evil.example"])(
    "keeps the host “%s” out",
    (host) => {
      expect(() => checkHost(asked({ host }))).toThrow(expect.objectContaining({ code: "foreign-request" }));
    },
  );
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
  test("knows its own sessions, and no others", () => {
    const cookie = `${cookieName()}=${mintSession()}`;
    expect(hasSession(asked({ cookie: `a=b; ${cookie}; c=d` }))).toBe(true);
    const [nonce, signature] = cookie.split("=")[1]!.split(".");
    for (const forged of [
      "",
      `${cookieName()}=`,
      `${cookieName()}=${nonce}`,
      `${cookieName()}=${nonce}x.${signature}`,
      `${cookieName()}=.${signature}`,
      `other-${cookie}`,
    ])
      expect(hasSession(asked({ cookie: forged })), forged).toBe(false);
    expect(mintSession()).not.toBe(mintSession());
  });
  test("lets a link in once, and not after its time", () => {
    const link = makeLink(1000);
    expect([useLink(link, 2000), useLink(link, 2000), useLink("guessed", 2000)]).toEqual([true, false, false]);
    expect(useLink(makeLink(0), 11 * 60_000)).toBe(false);
  });
  test("takes the key from who can read it, whole", () => {
    expect(hasKey(asked({ "x-vuoto-key": "the-key" }))).toBe(true);
    for (const key of ["", "the-ke", "the-key2", "THE-KEY"]) expect(hasKey(asked({ "x-vuoto-key": key }))).toBe(false);
  });
  test("keeps its secret for the person alone", () => {
    mintSession();
    expect(fs.statSync(path.join(data, "secret")).mode & 0o777).toBe(0o600);
  });
  test("lets no script run but its own", () => {
    expect(pagePolicy("abc")).toMatch(/^default-src 'none'; script-src 'nonce-abc' 'strict-dynamic';/);
    expect(pagePolicy("abc")).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline|\*/);
  });
});
