import fs from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterEach, beforeEach, expect, test } from "vitest";
import { bestBlanks, blankInWords, blankName, blanks, fontsThatDraw, isBlankName } from "@/core/hollow/blanks";
import { clearPicture } from "@/core/hollow/hollow";
import { bytesOfRaw, type Raw, rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { differences } from "../../../fixtures/compare-trees";
import { makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { faultyCalls, Killed } from "../../../fixtures/faulty-calls";
import { writeRecord } from "../db/record";
import type { Engine } from "../engine";
import { gather } from "../homes/gather";
import { put } from "../homes/put";
import { measureBlanks } from "../jobs/work/measure-blanks";
import { undo } from "../ledger/undo";
import { place } from "../quiet/place";
import { quiet, quietNow } from "../quiet/quiet";
import { screenOf } from "../screen/screens";
import { undecided } from "../sitting/pile";
import { itemsOn } from "../survey/items";
import { sheetOf } from "../survey/survey";
import { makeHollow, openHollow, repairHollow, seenHollow } from "./acts";
import { hollowsDrawn, listHollows } from "./hollows";
import { blanksMeasured } from "./measured";

let account: Place;
let engine: Engine;
let before: ReturnType<Place["tree"]>;
const bureau = (...parts: string[]) => path.join(account.root, "Bureau", ...parts);
/** The blank that is taken first: it depends on the fonts of the computer. */
let blank: string;
const changes = () =>
  differences(before, account.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line) && !/Trash/.test(line));
const only = async () => (await listHollows(engine))[0]!;

beforeEach(async () => {
  account = makePlace((root) => makeRandomAccount(root, 3, 6));
  engine = await account.open();
  writeRecord(engine.db, "setting:screen", "simulated");
  blank = bestBlanks(await blanksMeasured(engine))[0]!;
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
  const tried = await makeHollow(engine, { x: 640, y: 400, note: "Keys", dryRun: true });
  expect([tried.entry, tried.steps?.[0]?.words]).toEqual([null, "made the folder Bureau / (a blank name)"]);
  expect(changes()).toEqual([]);
  await makeHollow(engine, { x: 640, y: 400, note: "Keys" });
  await engine.lookAgain();
  expect(fs.readdirSync(bureau(blank)).sort()).toEqual([".clear.png", ".directory"]);
  const item = itemsOn(engine.db, "desktop").find(({ name }) => isBlankName(name))!;
  expect(screenOf(engine).positions(engine, [item])?.get(item.id)).toEqual({ x: 640, y: 400 });
  expect(hollowsDrawn(engine).get(item.path)).toEqual({ name: "hollow: Keys", blank, clear: true });
  expect(await only()).toMatchObject({ number: 1, note: "Keys", undrawn: true, wrong: [], things: 0, item: item.id });
  const plain = fs.readFileSync(path.join(account.data, "hollows.txt"), "utf8");
  expect(plain).toContain("1. Keys");
  expect(plain).toContain("640, 400");
  await undo(engine, {});
  expect(changes()).toEqual([]);
  expect(await listHollows(engine)).toEqual([]);
});

test("two at one spot are told apart; one with something in it is not undone over that", async () => {
  await makeHollow(engine, { x: 9, y: 9, note: "One" });
  await makeHollow(engine, { x: 9, y: 9, note: "Two" });
  const second = bestBlanks(await blanksMeasured(engine))[1] ?? blank.repeat(2);
  expect((await listHollows(engine)).map(({ note, name }) => [note, name])).toEqual([
    ["One", blankInWords(rawFromText(blank))],
    ["Two", blankInWords(rawFromText(second))],
  ]);
  fs.writeFileSync(bureau(second, "secret plan"), "mine");
  expect((await undo(engine, {})).refused.length).toBeGreaterThan(0);
  expect(fs.readFileSync(bureau(second, "secret plan"), "utf8")).toBe("mine");
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
  expect(await only()).toMatchObject({ undrawn: false, wrong: [sentence] });
  const broken = account.tree();
  expect((await repairHollow(engine, { hollow: "1" })).refused).toEqual([]);
  expect(await only()).toMatchObject({ undrawn: true, wrong: [], things: 1 });
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
  expect(await only()).toMatchObject({ wrong: ["It no longer lies on the desktop."], things: 1 });
  expect((await only()).place).toContain("Station");
  expect((await openHollow(engine, { hollow: "keys", name: "Keys" })).refused).toEqual([]);
  expect(fs.readdirSync(path.join(account.root, "Papers/Station/Keys"))).toEqual(["inside"]);
  expect(await listHollows(engine)).toEqual([]);
  await undo(engine, {});
  expect(await only()).toMatchObject({ note: "Keys", things: 1 });
});

test("deleted by somebody it is said to be gone, cannot be repaired, and is taken off the list", async () => {
  await makeHollow(engine, { note: "Keys" });
  fs.rmSync(bureau(blank), { recursive: true });
  await engine.lookAgain();
  expect(await only()).toMatchObject({ place: null, undrawn: false });
  await expect(repairHollow(engine, { hollow: "Keys" })).rejects.toMatchObject({ code: "hollow-gone" });
  await openHollow(engine, { hollow: "Keys", name: "Keys" });
  expect(await listHollows(engine)).toEqual([]);
});

test("another folder in its place is not taken for it", async () => {
  await makeHollow(engine, { note: "Keys" });
  fs.renameSync(bureau(blank), path.join(account.root, "Papers/elsewhere"));
  fs.mkdirSync(bureau(blank));
  await engine.lookAgain("all");
  expect(await only()).toMatchObject({ name: "elsewhere", place: "in ~/Papers" });
});

test("what was seen in its place is kept, until it is repaired", async () => {
  await makeHollow(engine, { note: "Keys" });
  await seenHollow(engine, { hollow: "Keys", seen: "a box" });
  expect((await only()).seen).toBe("a box");
  await repairHollow(engine, { hollow: "Keys" });
  expect((await only()).seen).toBeNull();
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
      expect([how, at, await only()]).toMatchObject([how, at, { undrawn: true, wrong: [], things: 1 }]);
      expect(fs.readdirSync(bureau(blank)).sort()).toEqual([".clear.png", ".directory", "inside"]);
      fs.rmSync(bureau(blank, "inside"));
      await openHollow(engine, { hollow: "1", name: `was a hollow ${how} ${at}` });
    }
}, 60_000);

test("it clutters nothing: no thing of the survey, none to be decided, and it stays where it lies while all else is out of sight", async () => {
  writeRecord(engine.db, "setting:screen", null);
  await makeHollow(engine, { note: "Keys" });
  await engine.lookAgain();
  const isHollow = ({ name }: { name: Raw }) => isBlankName(name);
  expect(itemsOn(engine.db, "desktop").filter(isHollow)).toHaveLength(1);
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop")!;
  const sheet = sheetOf(engine, desktop);
  expect([sheet.hollows.count, sheet.items.filter(isHollow), undecided(engine).filter(isHollow)]).toEqual([1, [], []]);
  const inSight = sheet.items.length;
  expect((await quiet(engine, { level: "bare" })).done).toBeGreaterThanOrEqual(inSight);
  expect(fs.readdirSync(bureau()).filter((name) => !name.startsWith("."))).toEqual([blank]);
  expect(await only()).toMatchObject({ place: "on the desktop", wrong: [], undrawn: true });
  expect(quietNow(engine)).toMatchObject({ level: "bare", left: [], arrived: 0 });
  await expect(quiet(engine, { level: "bare" })).rejects.toMatchObject({ code: "already-quiet" });
  await quiet(engine, { level: "everything" });
  await gather(engine, { home: { title: "Station" } });
  expect(await only()).toMatchObject({ place: "on the desktop" });
});

test("marked hidden it has a dot in front of its name and no spot; found without it, it is hidden again", async () => {
  await makeHollow(engine, { note: "Keys", hidden: true });
  fs.writeFileSync(bureau(".Keys", "inside"), "stays");
  await engine.lookAgain();
  expect(await only()).toMatchObject({ hidden: true, undrawn: true, name: ".Keys", place: "on the desktop", inside: ["inside"] });
  expect(itemsOn(engine.db, "desktop").some(({ label }) => label === ".Keys")).toBe(false);
  fs.renameSync(bureau(".Keys"), bureau("Keys"));
  await engine.lookAgain();
  expect(await only()).toMatchObject({ undrawn: false, wrong: ["The dot in front of its name is gone, so it is shown."] });
  await repairHollow(engine, { hollow: "Keys" });
  expect(fs.readdirSync(bureau(".Keys")).sort()).toEqual([".clear.png", ".directory", "inside"]);
  await expect(makeHollow(engine, { note: "a/b", hidden: true })).rejects.toMatchObject({ code: "bad-name" });
  await openHollow(engine, { hollow: "Keys", name: "Keys" });
  expect(fs.readdirSync(bureau("Keys"))).toEqual(["inside"]);
});

test("characters are measured in each font that is there: a letter is drawn, a blank is not, what a font does not have is passed over", async () => {
  const folders = [path.join(account.folder, "fonts")];
  fs.mkdirSync(folders[0]!);
  const files = path.resolve("node_modules/@fontsource-variable/schibsted-grotesk/files");
  for (const name of ["schibsted-grotesk-latin-wght-normal.woff2", "schibsted-grotesk-latin-wght-italic.woff2"])
    fs.copyFileSync(path.join(files, name), path.join(folders[0]!, name));
  fs.writeFileSync(path.join(folders[0]!, "torn.ttf"), "no font");
  const asked = { blanks: ["n", "\u00a0", "\u3000", "\uffff"], folders };
  const measured = await measureBlanks(asked, { tell: () => {}, cancelled: () => false });
  expect(measured.fonts).toBe(1);
  expect(measured.blanks.n!.drawnIn).toEqual([expect.stringContaining("Schibsted Grotesk")]);
  expect(measured.blanks["\u00a0"]).toMatchObject({ had: 1, drawnIn: [] });
  expect(measured.blanks["\u00a0"]!.widest).toBeGreaterThan(0.1);
  // That font has no ideographic space, and would draw a box for it; what no font has, none is said to have.
  expect(measured.blanks["\u3000"]).toMatchObject({ had: 0, drawnIn: [] });
  expect(measured.blanks["\uffff"]!.had).toBe(0);
});

test("on this computer no font is said to have a character that none can have, whatever they draw for it", async () => {
  const measured = await measureBlanks({ blanks: ["n", "\uffff"] }, { tell: () => {}, cancelled: () => false });
  expect(measured.blanks.n!.drawnIn).toHaveLength(measured.fonts);
  expect(measured.blanks["\uffff"]).toEqual({ had: 0, drawnIn: [], widest: 0 });
});

test("a name is one that the fonts of this computer do not draw, and it is said in how many it was measured", async () => {
  const measured = (await blanksMeasured(engine))!;
  await makeHollow(engine, {});
  const { fonts, wrong } = await only();
  expect(fonts).toEqual(measured.fonts === 0 ? null : { measured: measured.fonts, drawnIn: [] });
  expect(wrong).toEqual([]);
});

test("a blank that some font draws is passed over for one that none does; where all are drawn, the fewest fonts count", () => {
  const all = Object.keys(blanks);
  const fonts = (drawnIn: Record<string, string[]>, without: string[] = []) => ({
    fonts: 9,
    blanks: Object.fromEntries(
      all.map((blank) => [blank, { had: without.includes(blank) ? 0 : 9, drawnIn: drawnIn[blank] ?? [], widest: 1 }]),
    ),
  });
  const [first, second] = all as [string, string];
  expect(bestBlanks(undefined)).toEqual(all);
  expect(bestBlanks(fonts({ [first]: ["Dots"] }))).toEqual(all.slice(1));
  expect(bestBlanks(fonts({}, [first]))).toEqual(all.slice(1));
  expect(bestBlanks(fonts({}, all))).toEqual(all);
  const everywhere = Object.fromEntries(all.map((blank) => [blank, ["Dots", "Boxes"]]));
  expect(bestBlanks(fonts({ ...everywhere, [second]: ["Dots"] }))).toEqual([second]);
  const name = rawFromText(first + second);
  expect(fontsThatDraw(name, fonts({ [first]: ["Dots"], [second]: ["Dots", "Boxes"] }))).toEqual(["Dots", "Boxes"]);
  expect(fontsThatDraw(name, fonts({}, [second]))).toBeUndefined();
  expect(fontsThatDraw(rawFromText("Keys"), fonts({}))).toBeUndefined();
});

test("what somebody put in the place of its own files is not followed, and hinders no view", async () => {
  await makeHollow(engine, { note: "Keys" });
  await engine.lookAgain();
  fs.rmSync(bureau(blank, ".directory"));
  fs.symlinkSync("/etc/passwd", bureau(blank, ".directory"));
  fs.rmSync(bureau(blank, ".clear.png"));
  fs.mkdirSync(bureau(blank, ".clear.png"));
  expect(await only()).toMatchObject({ undrawn: false, wrong: ["Its picture is not the clear one any more."] });
  expect([...hollowsDrawn(engine).values()]).toEqual([{ name: "hollow: Keys", blank }]);
  await expect(repairHollow(engine, { hollow: "Keys" })).rejects.toBeInstanceOf(Problem);
  expect(fs.lstatSync(bureau(blank, ".directory")).isSymbolicLink()).toBe(true);
});

test("where it was dragged to is what is listed, and what cannot be written beside the record undoes nothing", async () => {
  await makeHollow(engine, { x: 640, y: 400, note: "Keys" });
  await engine.lookAgain();
  await place(engine, { spots: [{ item: (await only()).item!, x: 90, y: 70 }] });
  expect(await only()).toMatchObject({ x: 90, y: 70 });
  fs.rmSync(path.join(account.data, "hollows.txt"));
  fs.mkdirSync(path.join(account.data, "hollows.txt"));
  expect(await makeHollow(engine, { note: "Two" })).toMatchObject({ refused: [] });
  expect(await listHollows(engine)).toHaveLength(2);
});

test("a copy of it that a program which synchronises made is another folder: not taken for it, seen as a thing, left alone", async () => {
  await makeHollow(engine, { x: 640, y: 400, note: "Keys" });
  const copy = bureau(`${blank} (conflict of another computer)`);
  fs.cpSync(bureau(blank), copy, { recursive: true });
  await engine.lookAgain("all");
  expect(await only()).toMatchObject({ undrawn: true, wrong: [], place: "on the desktop", x: 640 });
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop")!;
  expect(sheetOf(engine, desktop).items.some(({ label }) => label.includes("conflict"))).toBe(true);
  // Times of its files may be set by that program, too: what counts is what they hold.
  fs.utimesSync(bureau(blank, ".directory"), new Date(0), new Date(0));
  expect(await only()).toMatchObject({ undrawn: true, wrong: [] });
  await openHollow(engine, { hollow: "Keys", name: "Keys" });
  expect(fs.readdirSync(copy).sort()).toEqual([".clear.png", ".directory"]);
  expect(await listHollows(engine)).toEqual([]);
});
