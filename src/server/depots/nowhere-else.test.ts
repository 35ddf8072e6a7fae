import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { emptyAll, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { archive } from "../sitting/archive";
import { protect } from "../survey/protect";
import { addDepot } from "./add";
import { check } from "./check";
import { deleteParcel } from "./delete";
import { send } from "./send";

let place: Place;
let engine: Engine;

/** All as long as one another, so that each is read and summed. */
const content = (name: string) => `${name} `.padEnd(5000, "tide ");
const disk = (name: string) => path.join(place.folder, name);

const files: Record<string, string> = {
  "Desktop/log/in a parcel": "in a parcel",
  "Desktop/log/on the desktop": "on the desktop",
  "Desktop/log/in a home": "in a home",
  "Desktop/log/in a synchronised home": "in a synchronised home",
  "Desktop/log/nowhere": "nowhere",
  "Desktop/other.txt": "in a parcel",
  "Desktop/copy.txt": "on the desktop",
  "Documents/Tides/kept.txt": "in a home",
  "Documents/Shared/kept.txt": "in a synchronised home",
};

beforeEach(async () => {
  place = makePlace((root) => {
    for (const [name, of] of Object.entries(files)) {
      fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
      fs.writeFileSync(path.join(root, name), content(of));
    }
  });
  engine = await place.open();
  await protect(engine, { folder: "Documents/Shared", protection: "synchronised" });
  for (const name of ["Disk", "Second"]) {
    fs.mkdirSync(disk(name));
    await addDepot(engine, { location: disk(name), title: name });
  }
  await archive(engine, { items: [itemNamed(engine, "log").id], parcel: "Log" });
  await send(engine, { parcel: "Log", depot: "Disk" });
  await archive(engine, { items: [itemNamed(engine, "other.txt").id], parcel: "Other" });
  await send(engine, { parcel: "Other", depot: "Second" });
  await emptyAll(engine);
  await engine.lookAgain("all");
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const lost = async () => {
  const { nowhereElse, notKnown } = await deleteParcel(engine, { parcel: "Log", dryRun: true });
  return { nowhereElse, notKnown };
};

test("before a parcel is deleted it is said what of it lies nowhere else: a synchronised home does not count", async () => {
  expect(await lost()).toEqual({
    nowhereElse: { files: 1, bytes: 5000 },
    notKnown: { files: 1, bytes: 5000, why: [expect.stringMatching(/^in .*Documents\/Shared, which is only synchronised/)] },
  });
  await protect(engine, { folder: "Documents/Shared", protection: null });
  expect(await lost()).toMatchObject({ nowhereElse: { files: 1, bytes: 5000 }, notKnown: { files: 0 } });
});

test("what lies only in a parcel that was found damaged lies nowhere else", async () => {
  fs.appendFileSync(path.join(disk("Second"), "Other/data/other.txt"), "!");
  expect(await check(engine, { parcel: "Other" })).toMatchObject({ whole: false });
  expect((await lost()).nowhereElse).toEqual({ files: 2, bytes: 2 * 5000 });
});

test("what went from the desktop meanwhile lies there no longer", async () => {
  fs.rmSync(path.join(place.root, "Desktop/copy.txt"));
  await engine.lookAgain("all");
  expect((await lost()).nowhereElse).toEqual({ files: 2, bytes: 2 * 5000 });
});
