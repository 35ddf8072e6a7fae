import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { quiet } from "../quiet/quiet";
import { undecided } from "../sitting/pile";
import { addHomes } from "./add";
import { homes } from "./homes";
import { put } from "./put";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, "Desktop", ...parts);
const home = () => homes(engine).find(({ title }) => title === "Desktop / Nests");

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/Nests/2026"), { recursive: true });
    for (const n of [1, 2, 3]) fs.writeFileSync(path.join(root, `Desktop/Nests/nest ${n}.csv`), `nest;eggs\n${n};2\n`);
    fs.writeFileSync(path.join(root, "Desktop/Nests/2026/nest 4.csv"), "nest;eggs\n4;1\n");
    fs.mkdirSync(path.join(root, "Downloads"));
    fs.writeFileSync(path.join(root, "Downloads/nest 9.csv"), "nest;eggs\n9;2\n");
    fs.writeFileSync(path.join(root, "Desktop/loose.txt"), "loose");
  });
  engine = await place.open();
  await addHomes(engine, { homes: [{ title: "Desktop / Nests" }] });
  await engine.lookAgain("all");
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("a home on the desktop is the same home while it is out of sight: by its title, its files and what is put there", async () => {
  const before = homes(engine).map(({ id, title, files }) => ({ id, title, files }));
  expect(home()).toMatchObject({ files: 3 });
  const undecidedBefore = undecided(engine).map(({ name }) => name);
  expect(undecidedBefore).not.toContain("Nests");
  await quiet(engine, { level: "bare" });
  // At once, and after a look.
  for (const look of [async () => {}, () => engine.lookAgain("all")]) {
    await look();
    expect(homes(engine).map(({ id, title, files }) => ({ id, title, files }))).toEqual(before);
    expect(undecided(engine).map(({ name }) => name)).toEqual(undecidedBefore);
  }
  expect(await put(engine, { home: { id: home()!.id }, items: [itemNamed(engine, "nest 9.csv").id] })).toMatchObject({ done: 1 });
  expect(fs.readdirSync(at(".out-of-sight/Nests")).sort()).toContain("nest 9.csv");
  await undo(engine, {});
  await put(engine, { home: { folder: btoa(at("Nests")) }, items: [itemNamed(engine, "nest 9.csv").id] });
  await quiet(engine, { level: "everything" });
  expect(fs.readdirSync(at("Nests")).sort()).toContain("nest 9.csv");
  await engine.lookAgain("all");
  expect(home()).toMatchObject({ id: before.find(({ title }) => title === "Desktop / Nests")!.id, files: 4 });
  await undo(engine, { entry: "all" });
  await engine.lookAgain("all");
  expect(fs.existsSync(path.join(place.root, "Downloads/nest 9.csv"))).toBe(true);
});

test("and one that stays on purpose: what stays leaves it where it lies", async () => {
  await quiet(engine, { level: "what stays" });
  expect(fs.readdirSync(at()).filter((name) => !name.startsWith("."))).toEqual(["Nests"]);
  await quiet(engine, { level: "bare" });
  await quiet(engine, { level: "what stays" });
  expect(fs.readdirSync(at()).filter((name) => !name.startsWith("."))).toEqual(["Nests"]);
});
