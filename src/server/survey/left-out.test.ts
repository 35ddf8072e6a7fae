import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { homes } from "../homes/homes";
import { undo } from "../ledger/undo";
import { itemById } from "./items";
import { leaveOut, leftOutNow } from "./left-out";
import { protect } from "./protect";
import { findings, sheetOf } from "./survey";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const folder = (name: string) => ({ path: btoa(at(name)) });
beforeEach(async () => {
  place = makePlace((root) => {
    for (const file of [
      "Desktop/thing/inner/one.txt",
      "Desktop/thing/node_modules/two.txt",
      "Documents/Kept/copy of one.txt",
      "Documents/Kept/copy of two.txt",
      "Documents/node_modules/left/pad.txt",
      "Documents/Large/a.txt",
    ]) {
      fs.mkdirSync(path.join(root, path.dirname(file)), { recursive: true });
      fs.writeFileSync(path.join(root, file), file.includes("two") ? "the second" : file.includes("one") ? "the first" : file);
    }
  });
  engine = await place.open();
  await protect(engine, { folder: folder("Documents"), protection: "backed up" });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});
const titles = () => homes(engine).map(({ title }) => title);
const nowhere = async () =>
  (await findings(engine)).find(({ kind }) => kind === "nowhere else")?.each.map(({ id }) => itemById(engine.db, id)!.label) ??
  [];

test("what programs fill by themselves is left out of the homes at first, and looked into when wished", async () => {
  expect(titles()).toEqual(["Documents", "Documents / Kept", "Documents / Large"]);
  expect(leftOutNow(engine)).toMatchObject({ names: ["__pycache__", "node_modules"], folders: [], unreadable: [], enormous: [] });
  await leaveOut(engine, { name: "node_modules", out: false });
  expect(titles()).toContain("Documents / node_modules / left");
  expect(await undo(engine, {})).toMatchObject({ refused: [] });
  await engine.lookAgain("all");
  expect(titles()).not.toContain("Documents / node_modules / left");
});

test("a folder left out is no home, is listed, and comes back with an undo", async () => {
  expect(await leaveOut(engine, { folder: folder("Documents/Large"), out: true })).toMatchObject({ done: 1, refused: [] });
  expect(titles()).not.toContain("Documents / Large");
  expect(leftOutNow(engine).folders).toEqual([{ folder: folder("Documents/Large").path, title: "Documents / Large" }]);
  expect(await leaveOut(engine, { folder: folder("Documents/Large"), out: true })).toMatchObject({ entry: null, done: 0 });
  await undo(engine, {});
  await engine.lookAgain("all");
  expect(titles()).toContain("Documents / Large");
  await expect(leaveOut(engine, { folder: folder("Documents/Missing"), out: true })).rejects.toMatchObject({
    code: "folder-gone",
  });
});

test("what is left out is never said to lie elsewhere, nor to be safe", async () => {
  // A name counts in the homes, not inside what lies on a worktop: all of that would be lost.
  expect(await nowhere()).toEqual([]);
  await leaveOut(engine, { folder: folder("Desktop/thing/inner"), out: true });
  fs.writeFileSync(at("Desktop/thing/inner/three.txt"), "only here");
  await engine.lookAgain("all");
  const known = (await findings(engine)).find(({ kind }) => kind === "nowhere else");
  // Not known, so neither claimed.
  expect(known).toBeUndefined();
  await leaveOut(engine, { folder: folder("Desktop/thing/inner"), out: false });
  expect(await nowhere()).toEqual(["thing"]);
  await leaveOut(engine, { folder: folder("Documents/Kept"), out: true });
  expect(await nowhere()).toEqual(["thing"]);
});

test("of a thing that is left out it is not said for ever that it is being counted", async () => {
  await leaveOut(engine, { folder: folder("Desktop/thing"), out: true });
  await engine.lookAgain("all");
  expect(sheetOf(engine, engine.account.worktops[0]!).figures.counting).toBe(false);
});
