import fs from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterEach, beforeEach, expect, test } from "vitest";
import { blankInWords, blankName, clearPicture, isBlankName } from "@/core/hollow/hollow";
import { bytesOfRaw, type Raw, rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { differences } from "../../../fixtures/compare-trees";
import { makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { faultyCalls, Killed } from "../../../fixtures/faulty-calls";
import { writeRecord } from "../db/record";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { place } from "../quiet/place";
import { quiet } from "../quiet/quiet";
import { screenOf } from "../screen/screens";
import { itemsOn } from "../survey/items";
import { makeHollow, openHollow, repairHollow, seenHollow } from "./acts";
import { hollowsDrawn, listHollows } from "./hollows";

let account: Place;
let engine: Engine;
let before: ReturnType<Place["tree"]>;
const bureau = (...parts: string[]) => path.join(account.root, "Bureau", ...parts);
const blank = "\u00a0";
const changes = () =>
  differences(before, account.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line) && !/Trash/.test(line));
const only = () => listHollows(engine)[0]!;

beforeEach(async () => {
  account = makePlace((root) => makeRandomAccount(root, 3, 6));
  engine = await account.open();
  writeRecord(engine.db, "setting:screen", "simulated");
  before = account.tree();
});
afterEach(async () => {
  await engine.close();
  account.remove();
});

test("names are of blanks alone, each another; and the picture is nothing but clear", async () => {
  const names: Raw[] = [];
  for (let n = 0; n < 12; n++) names.push(blankName((name) => names.includes(name))!);
  expect(new Set(names).size).toBe(12);
  expect(names.every(isBlankName)).toBe(true);
  for (const name of ["", " ", "a\u00a0", "\u00a0.txt"]) expect(isBlankName(rawFromText(name)), JSON.stringify(name)).toBe(false);
  expect(blankInWords(names[0]!)).toBe("one no-break space (U+00A0)");
  const { data, info } = await sharp(Buffer.from(bytesOfRaw(clearPicture)))
    .ensureAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  expect(info.width).toBe(64);
  expect([...data].filter((_, n) => n % 4 === 3).every((alpha) => alpha === 0)).toBe(true);
});

test("a hollow is made at its spot, drawn as nothing, written down for whoever has no Vuoto, and undone", async () => {
  expect(await makeHollow(engine, { x: 640, y: 400, note: "Keys", dryRun: true })).toMatchObject({ entry: null });
  expect(changes()).toEqual([]);
  await makeHollow(engine, { x: 640, y: 400, note: "Keys" });
  await engine.lookAgain();
  expect(fs.readdirSync(bureau(blank)).sort()).toEqual([".clear.png", ".directory"]);
  const item = itemsOn(engine.db, "desktop").find(({ name }) => isBlankName(name))!;
  expect(screenOf(engine).positions(engine, [item])?.get(item.id)).toEqual({ x: 640, y: 400 });
  expect(hollowsDrawn(engine).get(item.path)).toEqual({ name: "hollow: Keys", blank, clear: true });
  expect(only()).toMatchObject({ number: 1, note: "Keys", undrawn: true, wrong: [], things: 0, item: item.id });
  const plain = fs.readFileSync(path.join(account.data, "hollows.txt"), "utf8");
  expect(plain).toContain("1. Keys");
  expect(plain).toContain("640, 400");
  await undo(engine, {});
  expect(changes()).toEqual([]);
  expect(listHollows(engine)).toEqual([]);
});

test("two at one spot are told apart; one with something in it is not undone over that", async () => {
  await makeHollow(engine, { x: 9, y: 9, note: "One" });
  await makeHollow(engine, { x: 9, y: 9, note: "Two" });
  expect(listHollows(engine).map(({ note, name }) => [note, name])).toEqual([
    ["One", "one no-break space (U+00A0)"],
    ["Two", "one em space (U+2003)"],
  ]);
  fs.writeFileSync(bureau("\u2003", "secret plan"), "mine");
  expect((await undo(engine, {})).refused.length).toBeGreaterThan(0);
  expect(fs.readFileSync(bureau("\u2003", "secret plan"), "utf8")).toBe("mine");
});

test.each([
  ["renamed by another program", () => fs.renameSync(bureau(blank), bureau("New folder")), "It has a name that is drawn."],
  ["with its metadata gone", () => fs.rmSync(bureau(blank, ".directory")), "Its picture is not the clear one any more."],
  [
    "with another picture",
    () => fs.writeFileSync(bureau(blank, ".clear.png"), "no"),
    "Its picture is not the clear one any more.",
  ],
] as const)("%s it is seen to be wrong, repaired by one act, and that is undone", async (_, breakIt, sentence) => {
  await makeHollow(engine, { note: "Keys" });
  fs.writeFileSync(bureau(blank, "inside"), "stays");
  breakIt();
  await engine.lookAgain();
  expect(only()).toMatchObject({ undrawn: false, wrong: [sentence] });
  const broken = account.tree();
  expect((await repairHollow(engine, { hollow: "1" })).refused).toEqual([]);
  expect(only()).toMatchObject({ undrawn: true, wrong: [], things: 1 });
  await undo(engine, {});
  expect(differences(broken, account.tree(), worktopTimes).filter((line) => !/\.local|^mtimeNs/.test(line))).toEqual([]);
});

test("moved into a home it is found there, said not to lie on the desktop, and becomes an ordinary folder", async () => {
  await makeHollow(engine, { note: "Keys" });
  fs.writeFileSync(bureau(blank, "inside"), "stays");
  await engine.lookAgain();
  const item = itemsOn(engine.db, "desktop").find(({ name }) => isBlankName(name))!;
  await put(engine, { home: { title: "Station" }, items: [item.id] });
  await engine.lookAgain("all");
  expect(only()).toMatchObject({ wrong: ["It no longer lies on the desktop."], things: 1 });
  expect(only().place).toContain("Station");
  expect((await openHollow(engine, { hollow: "keys", name: "Keys" })).refused).toEqual([]);
  expect(fs.readdirSync(path.join(account.root, "Papers/Station/Keys"))).toEqual(["inside"]);
  expect(listHollows(engine)).toEqual([]);
  await undo(engine, {});
  expect(only()).toMatchObject({ note: "Keys", things: 1 });
});

test("deleted by somebody it is said to be gone, cannot be repaired, and is taken off the list", async () => {
  await makeHollow(engine, { note: "Keys" });
  fs.rmSync(bureau(blank), { recursive: true });
  await engine.lookAgain();
  expect(only()).toMatchObject({ place: null, undrawn: false });
  await expect(repairHollow(engine, { hollow: "Keys" })).rejects.toMatchObject({ code: "hollow-gone" });
  await openHollow(engine, { hollow: "Keys", name: "Keys" });
  expect(listHollows(engine)).toEqual([]);
});

test("another folder in its place is not taken for it", async () => {
  await makeHollow(engine, { note: "Keys" });
  fs.renameSync(bureau(blank), path.join(account.root, "Papers/elsewhere"));
  fs.mkdirSync(bureau(blank));
  await engine.lookAgain("all");
  expect(only()).toMatchObject({ name: "elsewhere", place: "in ~/Papers" });
});

test("what was seen in its place is kept, until it is repaired", async () => {
  await makeHollow(engine, { note: "Keys" });
  await seenHollow(engine, { hollow: "Keys", seen: "a box" });
  expect(only().seen).toBe("a box");
  await repairHollow(engine, { hollow: "Keys" });
  expect(only().seen).toBeNull();
  await expect(seenHollow(engine, { hollow: "other", seen: "nothing" })).rejects.toMatchObject({ code: "unknown-hollow" });
});

test("killed at any call of a repair nothing in it is lost, and it is repaired after that", async () => {
  for (const how of ["kill before", "kill after"] as const)
    for (let at = 1, killed = true; killed; at++) {
      await makeHollow(engine, { note: "Keys" });
      fs.writeFileSync(bureau(blank, "inside"), "stays");
      fs.rmSync(bureau(blank, ".clear.png"));
      fs.renameSync(bureau(blank), bureau("New folder"));
      await engine.close();
      const calls = faultyCalls({ at, how });
      calls.arm(false);
      engine = await account.open({ calls });
      calls.arm(true);
      killed = await repairHollow(engine, { hollow: "1" }).then(
        () => false,
        (error) => {
          if (!(error instanceof Killed)) throw error;
          return true;
        },
      );
      await engine.close();
      engine = await account.recover();
      await engine.lookAgain();
      await repairHollow(engine, { hollow: "1" });
      expect([how, at, only()]).toMatchObject([how, at, { undrawn: true, wrong: [], things: 1 }]);
      expect(fs.readdirSync(bureau(blank)).sort()).toEqual([".clear.png", ".directory", "inside"]);
      fs.rmSync(bureau(blank, "inside"));
      await openHollow(engine, { hollow: "1", name: `was a hollow ${how} ${at}` });
    }
}, 60_000);

test("out of sight with all else it is still the one, and back it lies where it lay", async () => {
  writeRecord(engine.db, "setting:screen", null);
  await makeHollow(engine, { note: "Keys" });
  await engine.lookAgain();
  await quiet(engine, { level: "bare" });
  expect(only()).toMatchObject({ place: "out of sight", wrong: [], undrawn: true });
  await quiet(engine, { level: "everything" });
  expect(only()).toMatchObject({ place: "on the desktop", wrong: [], undrawn: true });
  expect(fs.existsSync(bureau(blank))).toBe(true);
});

test("what somebody put in the place of its own files is not followed, and hinders no view", async () => {
  await makeHollow(engine, { note: "Keys" });
  await engine.lookAgain();
  fs.rmSync(bureau(blank, ".directory"));
  fs.symlinkSync("/etc/passwd", bureau(blank, ".directory"));
  fs.rmSync(bureau(blank, ".clear.png"));
  fs.mkdirSync(bureau(blank, ".clear.png"));
  expect(only()).toMatchObject({ undrawn: false, wrong: ["Its picture is not the clear one any more."] });
  expect([...hollowsDrawn(engine).values()]).toEqual([{ name: "hollow: Keys", blank }]);
  await expect(repairHollow(engine, { hollow: "Keys" })).rejects.toBeInstanceOf(Problem);
  expect(fs.lstatSync(bureau(blank, ".directory")).isSymbolicLink()).toBe(true);
});

test("where it was dragged to is what is listed, and what cannot be written beside the record undoes nothing", async () => {
  await makeHollow(engine, { x: 640, y: 400, note: "Keys" });
  await engine.lookAgain();
  await place(engine, { spots: [{ item: only().item!, x: 90, y: 70 }] });
  expect(only()).toMatchObject({ x: 90, y: 70 });
  fs.rmSync(path.join(account.data, "hollows.txt"));
  fs.mkdirSync(path.join(account.data, "hollows.txt"));
  expect(await makeHollow(engine, { note: "Two" })).toMatchObject({ refused: [] });
  expect(listHollows(engine)).toHaveLength(2);
});
