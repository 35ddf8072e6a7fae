import fs from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { standingClock } from "../../../fixtures/clock";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { addDepot } from "./add";
import { depotsView } from "./view";
import { depotsSeen, doubtDepots } from "./watch";

let place: Place;
let engine: Engine;
let cloud: Cloud;
let clock: ReturnType<typeof standingClock>;
let proxy: http.Server;
/** The answer of this number is held back, until that is over. */
let held: { at: number; until: Promise<void> } | undefined;
let answered: number;

beforeEach(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop")));
  cloud = await openCloud(path.join(place.folder, "cloud"));
  const to = new URL(cloud.url);
  answered = 0;
  proxy = http.createServer((asked, answer) => {
    const { method, headers, url } = asked;
    const onward = http.request({ host: to.hostname, port: to.port, method, path: url, headers }, async (come) => {
      if (++answered === held?.at) await held.until;
      answer.writeHead(come.statusCode!, come.headers);
      come.pipe(answer);
    });
    asked.pipe(onward);
  });
  await new Promise<void>((ready) => proxy.listen(0, "127.0.0.1", ready));
  clock = standingClock(Date.now());
  engine = await place.open({ clock });
  await addDepot(engine, {
    location: `http://127.0.0.1:${(proxy.address() as AddressInfo).port}${to.pathname}`,
    title: "Cloud",
    user: cloud.settings.user,
    password: cloud.settings.password,
  });
});
afterEach(async () => {
  proxy.closeAllConnections();
  proxy.close();
  await engine.close();
  await cloud.close();
  place.remove();
});

const said = async () => (await depotsView(engine)).depots[0]!.words;
/** A page that is told of a change is drawn anew. */
function page(): { said: string; close: () => void } {
  const shown = { said: "", close: () => {} };
  const draw = () => void said().then((words) => (shown.said = words));
  shown.close = engine.events.listen(({ event }) => event.type === "changed" && event.what === "parcels" && draw(), true);
  draw();
  return shown;
}

test("what a cloud answered before it changed its mind is not what a page goes on showing", async () => {
  expect(await said()).toMatch(/free/);
  const { password } = cloud.settings;
  cloud.set({ password: "another" });
  clock.pass(10_000);
  const began = answered;
  await depotsSeen(engine);
  await expect.poll(said).toContain("does not accept the sign-in");
  const shown = page();
  clock.pass(10_000);
  let release = () => {};
  held = { at: 2 * answered - began, until: new Promise((done) => (release = done)) };
  const last = held.at;
  // It is asked, and refuses; on its way back that is overtaken by what was sent with the sign-in that it takes again.
  const drawn = depotsSeen(engine);
  await expect.poll(() => answered).toBe(last);
  cloud.set({ password });
  doubtDepots(engine);
  release();
  await drawn;
  await expect.poll(() => shown.said).toMatch(/free/);
  expect(await said()).not.toContain("sign-in");
  shown.close();
});

test("one in trouble is asked again by itself while a window is open, and not without one", async () => {
  cloud.set({ password: "another" });
  clock.pass(10_000);
  await depotsSeen(engine);
  await expect.poll(said).toContain("does not accept the sign-in");
  const shown = page();
  cloud.set({ password: "gannet" });
  await expect
    .poll(() => {
      clock.pass(5_000);
      return shown.said;
    })
    .toMatch(/free/);
  cloud.set({ password: "another" });
  clock.pass(10_000);
  await expect.poll(said).toContain("does not accept the sign-in");
  shown.close();
  const before = answered;
  for (let n = 0; n < 10; n++) {
    clock.pass(20_000);
    await new Promise((next) => setTimeout(next, 20));
  }
  expect(answered).toBe(before);
});
