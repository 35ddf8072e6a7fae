import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { bringBack, hide, quiet } from "../quiet/quiet";
import { quietStatus } from "../quiet/status";
import { settingsView } from "../settings/view";
import { useScreen } from "./use";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, "Desktop", ...parts);
const list = () => (fs.existsSync(at(".hidden")) ? fs.readFileSync(at(".hidden"), "latin1") : undefined);
const away = () =>
  quietStatus(engine)
    .outOfSight.map(({ name }) => name)
    .sort();
/** What a file program that reads the list would draw. */
const drawn = () => {
  const hidden = new Set((list() ?? "").split(/\r?\n/));
  return fs
    .readdirSync(at(), "latin1")
    .filter((name) => !name.startsWith(".") && !hidden.has(name))
    .sort();
};

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    for (const name of ["a.txt", "b.txt", "two\nlines.txt"]) fs.writeFileSync(path.join(root, "Desktop", name), name);
  });
  engine = await place.open();
  await useScreen(engine, { name: "listed" });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("a screen on which names are listed", () => {
  test("takes everything out of sight without moving anything, and back; what cannot be listed is said, and stays", async () => {
    const before = place.tree();
    const report = await quiet(engine, { level: "bare" });
    expect(report.refused).toMatchObject([{ code: "not-listable" }]);
    expect(drawn()).toEqual(["two\nlines.txt"]);
    expect(away()).toEqual(["a.txt", "b.txt", "folder"]);
    expect(quietStatus(engine)).toMatchObject({ hidden: true, inUse: 0 });
    expect(fs.readdirSync(at()).filter((name) => name !== ".hidden")).toHaveLength(4);
    await quiet(engine, { level: "everything" });
    expect(list()).toBeUndefined();
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("leaves the lines of others as they are: before, after, and what they add meanwhile", async () => {
    const theirs = "b.txt\r\n\r\nno longer there\r\n\xff\xfe\r\n";
    fs.writeFileSync(at(".hidden"), theirs, "latin1");
    await quiet(engine, { level: "bare" });
    expect(list()).toBe(`${theirs}a.txt\r\nfolder\r\n`);
    // What another hides is not in sight for a program that has it open.
    expect(quietStatus(engine)).toMatchObject({ inUse: 0 });
    expect(engine.ledger.latest()?.words).toBe("Took 2 icons out of sight");
    fs.appendFileSync(at(".hidden"), "added\r\n");
    await quiet(engine, { level: "everything" });
    // What they had listed is hidden as before, by them.
    expect(list()).toBe(`${theirs}added\r\n`);
  });

  test("one thing by itself; undone, the file is what it was; edited meanwhile by another program, that edit is not lost", async () => {
    await hide(engine, { items: [itemNamed(engine, "a.txt").id] });
    expect(list()).toBe("a.txt\n");
    await hide(engine, { items: [itemNamed(engine, "folder").id] });
    await bringBack(engine, { items: [itemNamed(engine, "a.txt").id] });
    expect(list()).toBe("folder\n");
    await undo(engine, {});
    expect(list()).toBe("a.txt\nfolder\n");
    fs.appendFileSync(at(".hidden"), "mine\n");
    expect((await undo(engine, {})).refused).toMatchObject([{ name: ".hidden", code: "changed" }]);
    expect(list()).toContain("mine");
  });

  test("tells by the file how it is: a line taken out by hand, or a thing renamed, is in sight", async () => {
    await quiet(engine, { level: "bare" });
    fs.writeFileSync(at(".hidden"), "a.txt\nfolder\n");
    expect(away()).toEqual(["a.txt", "folder"]);
    fs.renameSync(at("a.txt"), at("c.txt"));
    await engine.lookAgain();
    expect(away()).toEqual(["folder"]);
    await quiet(engine, { level: "everything" });
    expect(list()).toBeUndefined();
  });
});

test("whatever somebody made of that file, how much is shown is told, and an act says what is wrong", async () => {
  await quiet(engine, { level: "bare" });
  fs.rmSync(at(".hidden"));
  fs.mkdirSync(at(".hidden"));
  expect(away()).toEqual([]);
  await expect(quiet(engine, { level: "everything" })).rejects.toMatchObject({ code: "special-file" });
  fs.rmdirSync(at(".hidden"));
  // Of one that is too large to be read nobody can say.
  fs.writeFileSync(at(".hidden"), "x\n".repeat(1 << 20));
  expect(quietStatus(engine)).toMatchObject({ believed: "asked", hidden: false });
  await expect(quiet(engine, { level: "everything" })).rejects.toMatchObject({ code: "file-too-large" });
  fs.rmSync(at(".hidden"));
  await quiet(engine, { level: "everything" });
  expect(quietStatus(engine)).toMatchObject({ hidden: false });
});

test("two screens chosen one after the other with things hidden: everything is brought back by the one that took it", async () => {
  const before = place.tree();
  await quiet(engine, { level: "bare" });
  expect(await useScreen(engine, { name: "tucked away" })).toMatchObject({
    words: "From now on icons go out of sight into a hidden folder, and 3 icons are back in sight",
    refused: [],
  });
  expect(list()).toBeUndefined();
  await quiet(engine, { level: "bare" });
  expect(drawn()).toEqual([]);
  await useScreen(engine, { name: "listed" });
  expect(drawn()).toHaveLength(4);
  expect(differences(before, place.tree(), () => true)).toEqual([]);
  expect((await settingsView(engine)).screen).toMatchObject({
    name: "listed",
    choice: [
      { name: "tucked away", cannot: 0 },
      { name: "listed", cannot: 1 },
      { name: "told", byCommandAlone: true },
    ],
  });
  // Chosen again it changes nothing; the sample account's is not for others.
  expect(await useScreen(engine, { name: "listed" })).toMatchObject({ entry: null });
  await expect(useScreen(engine, { name: "simulated" })).rejects.toMatchObject({ code: "screen-unfit" });
  expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
  expect(differences(before, place.tree(), () => true)).toEqual([]);
});
