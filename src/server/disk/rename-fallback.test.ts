import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { type Calls, realCalls } from "./calls";

/** What another program does just before a name is taken. */
let meanwhile: (to: Buffer) => void = () => {};

/** A file system whose rename cannot be told not to replace (renameat2(2): EINVAL). */
const calls: Calls = {
  ...realCalls,
  renameNoReplace() {
    throw Object.assign(new Error("EINVAL: renameat2"), { code: "EINVAL", syscall: "renameat2" });
  },
  link(from, to) {
    meanwhile(to);
    realCalls.link(from, to);
  },
};

let place: Place;
let engine: Engine;
const at = (name: string) => path.join(place.root, name);
beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    fs.mkdirSync(path.join(root, "Documents/Home"), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/a.txt"), "a");
  });
  engine = await place.open({ calls });
});
afterEach(async () => {
  meanwhile = () => {};
  await engine.close();
  place.remove();
});
const home = () => ({ folder: btoa(at("Documents/Home")) });

test("a file is linked and unlinked instead, and comes back; it stays the very same file", async () => {
  const { ino } = fs.statSync(at("Desktop/a.txt"));
  expect(await put(engine, { home: home(), items: [itemNamed(engine, "a.txt").id] })).toMatchObject({ done: 1, refused: [] });
  expect(fs.statSync(at("Documents/Home/a.txt")).ino).toBe(ino);
  expect(fs.existsSync(at("Desktop/a.txt"))).toBe(false);
  expect(await undo(engine, {})).toMatchObject({ refused: [] });
  expect(fs.statSync(at("Desktop/a.txt"))).toMatchObject({ ino, nlink: 1 });
});

test("what takes the name meanwhile is not replaced", async () => {
  const id = itemNamed(engine, "a.txt").id;
  meanwhile = (to) => fs.writeFileSync(to, "another");
  expect(await put(engine, { home: home(), items: [id] })).toMatchObject({ done: 0, refused: [{ code: "name-taken" }] });
  expect(fs.readFileSync(at("Documents/Home/a.txt"), "utf8")).toBe("another");
  expect(fs.readFileSync(at("Desktop/a.txt"), "utf8")).toBe("a");
});

test("a folder cannot be moved without the risk of replacing one: it is refused, and stays", async () => {
  const report = await put(engine, { home: home(), items: [itemNamed(engine, "folder").id] });
  expect(report).toMatchObject({ done: 0, refused: [{ name: "folder", code: "disk-error" }] });
  expect(fs.existsSync(at("Desktop/folder"))).toBe(true);
  expect(idsOn(engine)).toHaveLength(2);
});
