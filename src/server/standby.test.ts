import fs from "node:fs";
import net from "node:net";
import path from "node:path";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { runningClock } from "../../fixtures/clock";
import { makePlace, type Place } from "../../fixtures/engine";
import { rawRequest } from "../../fixtures/raw-request";
import { said } from "../../fixtures/said";
import { main } from "../cli/main";
import { type StandBy, standBy } from "./standby";

let place: Place;
let small: StandBy;
let port: number;
const key = "the-key-of-this-start";
const clock = runningClock();
const seen = () => fs.readdirSync(path.join(place.root, "Desktop")).filter((name) => !name.startsWith("."));
const vuoto = (...words: string[]) => said(main, "--account", place.root, "--data", place.data, ...words);

const freePort = () =>
  new Promise<number>((done) => {
    const server = net.createServer().listen(0, "127.0.0.1", () => {
      const { port } = server.address() as net.AddressInfo;
      server.close(() => done(port));
    });
  });

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    for (let n = 0; n < 100; n++) fs.writeFileSync(path.join(root, "Desktop", `thing-${n}.txt`), `${n}`);
  });
  port = await freePort();
  small = await standBy({ root: rawFromText(place.root), data: place.data }, port, key, clock);
});
afterEach(async () => {
  await small.end();
  place.remove();
  vi.unstubAllEnvs();
});

test("without a window it takes away, brings back, takes along what arrives, and answers what is asked of homes", async () => {
  expect((await vuoto("quiet", "on", "--along")).out).toContain("Took 100 icons out of sight");
  expect(seen()).toEqual([]);
  fs.writeFileSync(path.join(place.root, "Desktop/new.txt"), "new");
  await expect.poll(seen, { timeout: 30_000 }).toEqual([]);
  expect((await vuoto("quiet", "off")).status).toBe(0);
  expect(seen()).toHaveLength(101);
  expect((await vuoto("survey", "desktop")).out).toContain("101 things on the desktop");
  expect((await vuoto("quiet", "toggle")).status).toBe(0);
  expect((await vuoto("undo")).out).toContain("Undone: Took 101 icons out of sight");
});

test("an end comes by itself", async () => {
  expect((await vuoto("occasion", "start", "presenting", "--until", "2h")).status).toBe(0);
  expect(seen()).toEqual([]);
  clock.pass(2 * 3_600_000 - 60_000);
  const { out } = await vuoto("--json", "quiet", "status");
  expect(JSON.parse(out)).toMatchObject({ endsSoon: { title: "presenting" } });
  expect(seen()).toEqual([]);
  clock.pass(60_000);
  await expect.poll(() => seen().length, { timeout: 30_000 }).toBe(100);
});

test("who has no key gets nothing, and no page of another site wakes it", async () => {
  const ask = (headers: Record<string, string>) => rawRequest(port, "POST", "/api/quiet/show", headers, '{"level":"bare"}');
  expect((await ask({})).status).toBe(401);
  expect((await ask({ "x-vuoto-key": `${key}x`, "content-type": "application/json" })).status).toBe(401);
  expect((await ask({ host: "evil.example", "x-vuoto-key": key })).status).toBe(403);
  expect(seen()).toHaveLength(100);
  expect((await rawRequest(port, "GET", "/icon.svg", { "sec-fetch-site": "cross-site" })).status).toBe(403);
  let woken = false;
  void small.woken.then(() => {
    woken = true;
  });
  expect((await rawRequest(port, "POST", "/api/wake", { "x-vuoto-key": `${key}x` }, "{}")).status).toBe(401);
  await new Promise(setImmediate);
  expect(woken).toBe(false);
  expect((await rawRequest(port, "GET", "/survey")).text).toContain("Vuoto's window is being started.");
  await small.woken;
});
