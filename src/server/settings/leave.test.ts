import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { addOccasion, changeOccasion, occasionList } from "../quiet/occasions";
import { quiet } from "../quiet/quiet";
import { quietStatus } from "../quiet/status";
import { launcher } from "./launcher";
import { leave } from "./leave";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/a.txt"), "a");
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("all is as it was without Vuoto, the occasions that were made stay on the list, and each can be undone", async () => {
  const before = place.tree();
  await addOccasion(engine, { title: "Painting", level: "bare" });
  await addOccasion(engine, { title: "Mondays", level: "bare", days: ["MO"], from: "09:00", to: "10:00" });
  const titles = occasionList(engine).map(({ title }) => title);
  await changeOccasion(engine, { occasion: "Painting", does: "start" });
  // More than it took, by hand.
  await quiet(engine, { level: "toggle" });
  await quiet(engine, { level: "bare", until: engine.now() + 3_600_000 });
  await launcher(engine, { which: "quiet" });
  const quieted = place.tree();
  const trial = await leave(engine, { dryRun: true });
  expect(differences(quieted, place.tree(), () => true)).toEqual([]);
  expect(trial.reports.map(({ words }) => words)).toHaveLength(3);
  const { reports, begins } = await leave(engine, {});
  expect(reports.flatMap(({ refused }) => refused)).toEqual([]);
  expect(begins.map(({ title }) => title)).toEqual(["Mondays"]);
  expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["a.txt", "folder"]);
  expect(quietStatus(engine)).toMatchObject({ hidden: false, level: "everything", underWay: [] });
  expect(
    differences(before, place.tree(), (rel) => rel === "Desktop").filter(
      (line) => !/^new: \.local(\/share(\/applications)?)?$/.test(line),
    ),
  ).toEqual([]);
  expect(occasionList(engine).map(({ title }) => title)).toEqual(titles);
  expect(await leave(engine, {})).toMatchObject({ reports: [] });
  await undo(engine, {});
  expect(fs.existsSync(at(".local/share/applications/vuoto-quiet.desktop"))).toBe(true);
});
