import fs from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterEach, beforeEach, expect, test } from "vitest";
import { openCloud } from "@/standins/cloud/cloud";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { pictureOf } from "../looks/forms/picture";
import { archive } from "../sitting/archive";
import { addDepot } from "./add";
import { browse } from "./browse";
import { lookInto } from "./look";
import { send } from "./send";

let place: Place;
let engine: Engine;
const disk = (...parts: string[]) => path.join(place.folder, "disk", ...parts);
const picture = (item: string) => pictureOf(engine, new URLSearchParams({ item, size: "sheet" }), new AbortController().signal);

beforeEach(async () => {
  const photo = await sharp({ create: { width: 64, height: 48, channels: 3, background: "#265" } })
    .png()
    .toBuffer();
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/trip/notes"), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/trip/shore.png"), photo);
    fs.writeFileSync(path.join(root, "Desktop/trip/notes/day.txt"), "low water at nine\n");
  });
  fs.mkdirSync(disk());
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

async function sent(location: string, words: object = {}): Promise<void> {
  await addDepot(engine, { location, title: "There", ...words });
  await archive(engine, { items: idsOn(engine), parcel: "Trip" });
  expect(await send(engine, { parcel: "Trip", depot: "There" })).toMatchObject({ done: 1, refused: [] });
}

test("a file of a parcel is looked at where it lies, with its picture; nothing of the desktop is needed for it", async () => {
  await sent(disk());
  expect((await browse(engine, { parcel: "Trip", folder: "trip" })).local).toBe(true);
  const text = await lookInto(engine, { parcel: "Trip", path: "trip/notes/day.txt" });
  expect(text).toMatchObject({ name: "day.txt", look: { form: "text", lines: expect.arrayContaining(["low water at nine"]) } });
  const shore = await lookInto(engine, { parcel: "Trip", path: "trip/shore.png" });
  expect(shore).toMatchObject({ name: "shore.png", kind: "picture", look: { form: "picture" } });
  expect(shore.facts).toContain("64 by 48 pixels");
  const made = Buffer.from(await (await picture(shore.id)).arrayBuffer());
  expect((await sharp(made).metadata()).width).toBe(64);
});

test("what is not in it, what its list leads to outside of it, and a folder are not looked at", async () => {
  await sent(disk());
  const look = (at: string) => lookInto(engine, { parcel: "Trip", path: at });
  for (const at of ["trip/none.txt", "trip", "../secret"]) await expect(look(at)).rejects.toMatchObject({ code: "vanished" });
  fs.writeFileSync(path.join(place.root, "secret.txt"), "not for others");
  const payload = disk("Trip/data/trip/notes");
  fs.renameSync(payload, `${payload}-aside`);
  fs.mkdirSync(path.join(place.root, "elsewhere"));
  fs.writeFileSync(path.join(place.root, "elsewhere/day.txt"), "not for others");
  fs.symlinkSync(path.join(place.root, "elsewhere"), payload);
  await expect(look("trip/notes/day.txt")).rejects.toMatchObject({ code: "vanished" });
  fs.unlinkSync(payload);
  fs.mkdirSync(payload);
  fs.symlinkSync(path.join(place.root, "secret.txt"), path.join(payload, "day.txt"));
  await expect(look("trip/notes/day.txt")).rejects.toMatchObject({ code: "vanished" });
});

test("of a cloud it is said that it is to be brought back first", async () => {
  const cloud = await openCloud(path.join(place.folder, "cloud"));
  try {
    const { user, password } = cloud.settings;
    await sent(cloud.url, { user, password });
    expect((await browse(engine, { parcel: "Trip" })).local).toBe(false);
    await expect(lookInto(engine, { parcel: "Trip", path: "trip/shore.png" })).rejects.toMatchObject({ code: "not-near" });
  } finally {
    await cloud.close();
  }
});
