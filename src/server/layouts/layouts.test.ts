import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { iconBoxes } from "@/core/screen/state";
import { overlapping } from "@/core/survey/figures";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { readScreen, writeRecord, writeScreenPart } from "../db/record";
import type { Engine } from "../engine";
import { makeHollow } from "../hollow/acts";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { addOccasion, changeOccasion, occasionList } from "../quiet/occasions";
import { place as placeIcons } from "../quiet/place";
import { quiet } from "../quiet/quiet";
import { screenOf } from "../screen/screens";
import { straighten } from "../straighten/straighten";
import { itemsOn } from "../survey/items";
import { exportLayout, importLayout } from "./document";
import { bringLayout, compareLayout, keepLayout, listLayouts, removeLayout } from "./layouts";

let account: Place;
let engine: Engine;
const bureau = (...parts: string[]) => path.join(account.root, "Bureau", ...parts);
const lies = (of = engine) => [...screenOf(of).positions(of, itemsOn(of.db, "desktop"))!].sort(([a], [b]) => (a < b ? -1 : 1));
const liesByName = (of = engine) => {
  const places = new Map(lies(of));
  return Object.fromEntries(itemsOn(of.db, "desktop").map(({ label, id }) => [label, places.get(id)]));
};

async function opened(place: Place): Promise<Engine> {
  const made = await place.open();
  writeRecord(made.db, "setting:screen", "simulated");
  return made;
}

beforeEach(async () => {
  account = makePlace((root) => makeRandomAccount(root, 9, 30));
  engine = await opened(account);
  await placeIcons(engine, { spots: idsOn(engine).map((item, n) => ({ item, x: (n * 293) % 1800, y: (n * 167) % 950 })) });
});
afterEach(async () => {
  await engine.close();
  account.remove();
});

test("a layout brings places, size of the icons and how much is shown back, as one act that is undone to the pixel", async () => {
  const before = lies();
  await keepLayout(engine, { title: "At work" });
  expect(listLayouts(engine)).toMatchObject([{ title: "At work", moved: 0, came: 0, went: 0, icons: before.length }]);
  await straighten(engine, { by: "name", icon: 32 });
  await quiet(engine, { level: "bare" });
  const straight = lies();
  const compared = compareLayout(engine, { layout: "at work" });
  expect(compared).toMatchObject({ came: [], went: [], otherLevel: true, otherIcons: true, shifted: 0 });
  expect(compared.moved.length).toBeGreaterThan(20);
  const trial = await bringLayout(engine, { layout: "At work", dryRun: true });
  expect(trial.compared.spots).toEqual(compared.spots);
  expect(lies()).toEqual(straight);
  expect((await bringLayout(engine, { layout: "At work" })).refused).toEqual([]);
  expect(lies()).toEqual(before);
  expect(readScreen(engine.db)).toMatchObject({ shown: { level: "everything", hidden: [] }, size: iconBoxes(64) });
  await undo(engine, {});
  expect(lies()).toEqual(straight);
  expect(readScreen(engine.db)).toMatchObject({ shown: { level: "bare" }, size: iconBoxes(32) });
});

test("what was renamed lies where it lay, what is gone is said, what came gets room; and it comes back by undo", async () => {
  await keepLayout(engine, { title: "Before" });
  const was = liesByName();
  const [renamed, gone, filed] = itemsOn(engine.db, "desktop").map(({ label }) => label);
  fs.writeFileSync(bureau("arrived"), "new");
  await put(engine, { home: { title: "Elsewhere" }, items: [itemNamed(engine, filed!).id] });
  fs.rmSync(bureau(gone!), { recursive: true });
  fs.renameSync(bureau(renamed!), bureau("another name"));
  await engine.lookAgain();
  await straighten(engine, { by: "date" });
  const { compared } = await bringLayout(engine, { layout: "Before" });
  expect(compared.came).toContain("arrived");
  expect(compared.went.sort()).toEqual(expect.arrayContaining([gone, filed].sort()));
  const now = liesByName();
  for (const [name, at] of Object.entries(was)) if (now[name]) expect([name, now[name]]).toEqual([name, at]);
  await undo(engine, {});
  await undo(engine, {});
  await undo(engine, {});
  await engine.lookAgain();
  expect(compareLayout(engine, { layout: "Before" }).went).not.toContain(filed);
});

test.each([
  ["smaller", 1280, 800],
  ["larger", 2560, 1440],
  ["of another scale", 1536, 864],
])("on a screen that is %s nothing is off and nothing overlaps", async (_, width, height) => {
  await straighten(engine, { by: "near", margin: 0 });
  await keepLayout(engine, { title: "Large" });
  writeScreenPart(engine.db, "size", { width, height, ...iconBoxes(64) });
  const { compared } = await bringLayout(engine, { layout: "Large" });
  expect(compared.crowded).toBe(0);
  const { size } = readScreen(engine.db);
  expect([size.width, size.height]).toEqual([width, height]);
  expect(
    overlapping(
      lies().map(([, at]) => at),
      size,
    ).size,
  ).toBe(0);
  for (const [, { x, y }] of lies()) {
    expect([x >= 0, y >= 0, x + 64 <= width, y + 104 <= height]).toEqual([true, true, true, true]);
  }
});

test("kept under a title that is there it is replaced; taken off the list nothing moves; both are undone", async () => {
  await keepLayout(engine, { title: "One" });
  await straighten(engine, { by: "name" });
  await keepLayout(engine, { title: "ONE" });
  expect(listLayouts(engine)).toMatchObject([{ title: "ONE", moved: 0 }]);
  const now = lies();
  await removeLayout(engine, { layout: "one" });
  expect(listLayouts(engine)).toEqual([]);
  expect(lies()).toEqual(now);
  await undo(engine, {});
  await undo(engine, {});
  expect(listLayouts(engine)).toMatchObject([{ title: "One" }]);
  await expect(bringLayout(engine, { layout: "none" })).rejects.toMatchObject({ code: "unknown-layout" });
});

test("exported, it holds no path and no id, and is brought in another account by name and content", async () => {
  const was = liesByName();
  await keepLayout(engine, { title: "For the new one" });
  const document = JSON.parse(JSON.stringify(await exportLayout(engine, { layout: "For the new one" }))) as object;
  expect(JSON.stringify(document)).not.toContain(account.root);
  const other = makePlace((root) => {
    makeRandomAccount(root, 9, 30);
    const names = fs.readdirSync(path.join(root, "Bureau"));
    const plain = names.find((name) => fs.statSync(path.join(root, "Bureau", name)).size > 0 && /\.txt$/.test(name));
    if (plain) fs.renameSync(path.join(root, "Bureau", plain), path.join(root, "Bureau", "called otherwise.txt"));
  });
  const second = await opened(other);
  try {
    const { data } = { data: document };
    await importLayout(second, { document: data, title: "Old computer" });
    const { compared } = await bringLayout(second, { layout: "Old computer" });
    const now = liesByName(second);
    const same = Object.keys(now).filter((name) => was[name] !== undefined);
    expect(same.length).toBeGreaterThan(20);
    for (const name of same) expect([name, now[name]]).toEqual([name, was[name]]);
    expect(compared.crowded).toBe(0);
  } finally {
    await second.close();
    other.remove();
  }
});

test.each([
  ["nothing", null, "no-layout"],
  ["another document", { format: "something", version: 1 }, "no-layout"],
  ["one of a newer version", { format: "vuoto-layout", version: 2, more: [] }, "layout-newer"],
  ["one with a name that leads away", { icons: [{ name: "../secret" }] }, "no-layout"],
  [
    "one with icons as large as a screen",
    { screen: { width: 800, height: 600, icon: { width: 900, height: 900 }, label: { width: 96, height: 30 } } },
    "no-layout",
  ],
  ["one with places out of all bounds", { icons: [{ x: 1e12 }] }, "no-layout"],
  ["one with more than it may hold", { icons: Array.from({ length: 20_001 }, () => ({})) }, "no-layout"],
])("%s is no layout, and nothing is kept", async (_, change, code) => {
  await keepLayout(engine, { title: "Own" });
  const own = await exportLayout(engine, { layout: "Own" });
  const icon = own.icons[0]!;
  const document =
    change === null || "format" in change
      ? change
      : { ...own, ...change, ...("icons" in change ? { icons: change.icons!.map((one) => ({ ...icon, ...one })) } : {}) };
  await expect(importLayout(engine, { document })).rejects.toMatchObject({ code });
  expect(listLayouts(engine).length).toBe(1);
});

test("an occasion brings one when it begins; one that is gone by then brings nothing", async () => {
  const before = lies();
  await keepLayout(engine, { title: "On stage" });
  await straighten(engine, { by: "name" });
  const straight = lies();
  await addOccasion(engine, { title: "talk", level: "bare", layout: "on stage" });
  expect(occasionList(engine).find(({ title }) => title === "talk")?.layout).toBe("On stage");
  expect(lies()).toEqual(straight);
  await changeOccasion(engine, { occasion: "talk", does: "start" });
  expect(lies()).toEqual(before);
  expect(readScreen(engine.db).shown.level).toBe("bare");
  await changeOccasion(engine, { occasion: "talk", does: "end" });
  expect(readScreen(engine.db).shown.level).toBe("everything");
  expect(lies()).toEqual(before);
  await removeLayout(engine, { layout: "On stage" });
  await straighten(engine, { by: "date" });
  const now = lies();
  await changeOccasion(engine, { occasion: "talk", does: "start" });
  expect(lies()).toEqual(now);
  await expect(addOccasion(engine, { title: "other", level: "bare", layout: "none" })).rejects.toMatchObject({
    code: "unknown-layout",
  });
});

test("a hollow that was made since stays where its owner knows it to be, and is not named", async () => {
  await keepLayout(engine, { title: "Before" });
  const under = lies()[0]![1];
  await makeHollow(engine, { x: under.x, y: under.y, note: "Keys" });
  await engine.lookAgain();
  expect(compareLayout(engine, { layout: "Before" })).toMatchObject({ came: [], spots: [], shifted: 0 });
});
