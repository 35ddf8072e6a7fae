import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { stay } from "../sitting/stay";
import { addHomes } from "./add";
import { homeId, homes } from "./homes";
import { planOfHomes } from "./plan";
import { put } from "./put";
import { split } from "./split";
import { belongingTo, sweep } from "./sweep";
import { sweepView } from "./view";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const old = new Date(Date.now() - 1e9);
function write(root: string, name: string, content = name): void {
  const file = path.join(root, name);
  fs.mkdirSync(path.dirname(file), { recursive: true });
  fs.writeFileSync(file, content);
  fs.utimesSync(file, old, old);
}

beforeEach(async () => {
  place = makePlace((root) => {
    for (let n = 0; n < 10; n++) {
      write(root, `Documents/Station/Tides/high-water-${n}.csv`);
      write(root, `Documents/Letters/letter-harbour-${n}.txt`);
    }
    write(root, "Documents/.hidden/secret.csv");
    for (const name of ["high-water-october.csv", "high-water-may.csv", "letter-harbour-rent.txt", "quartz.bin", "harbour.csv"])
      write(root, `Desktop/${name}`);
    write(root, "Desktop/folder/inside.txt");
    write(root, "Downloads/high-water-june.csv");
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});
const id = (label: string) => itemNamed(engine, label).id;

describe("homes", () => {
  test("are the standard folders and all folders below them; hidden ones and the worktops are none", () => {
    expect(homes(engine).map((h) => [h.title, h.files])).toEqual([
      ["Documents", 0],
      ["Documents / Letters", 10],
      ["Documents / Station", 0],
      ["Documents / Station / Tides", 10],
    ]);
  });

  test.each([
    ["Documents / Station / Tides", "Documents/Station/Tides"],
    ["documents/station/TIDES", "Documents/Station/Tides"],
    ["Station / Tides / 2026", "Documents/Station/Tides/2026"],
    ["Brand new", "Documents/Brand new"],
    ["Brand new / deeper / still", "Documents/Brand new/deeper/still"],
    ["  spaces  /  and dots.  ", "Documents/spaces/and dots."],
  ])("typed as “%s” is %s, made where it is new", async (title, folder) => {
    const was = fs.existsSync(at(folder));
    expect(await put(engine, { home: { title }, items: [id("quartz.bin")] })).toMatchObject({ done: 1, refused: [] });
    expect(fs.existsSync(at(folder, "quartz.bin"))).toBe(true);
    await undo(engine, {});
    expect(fs.existsSync(at(folder))).toBe(was);
    expect(fs.existsSync(at("Desktop/quartz.bin"))).toBe(true);
  });

  test.each(["/", " / ", "..", "a/../..", "x".repeat(900).split("").join("/")])("cannot be called “%.12s”", async (title) => {
    await expect(put(engine, { home: { title }, items: [id("quartz.bin")] })).rejects.toMatchObject({ code: "bad-name" });
    expect(fs.existsSync(at("Desktop/quartz.bin"))).toBe(true);
  });

  test("that are gone, a file of that name, and unknown ones are said", async () => {
    const tides = homes(engine).find((h) => h.title.endsWith("Tides"))!;
    fs.renameSync(at("Documents/Station"), at("Documents/Elsewhere"));
    await expect(put(engine, { home: { id: tides.id }, items: [id("quartz.bin")] })).rejects.toMatchObject({ code: "home-gone" });
    await expect(put(engine, { home: { id: "unknown" }, items: [id("quartz.bin")] })).rejects.toMatchObject({
      code: "unknown-home",
    });
    write(place.root, "Documents/a file");
    await expect(put(engine, { home: { title: "a file" }, items: [id("quartz.bin")] })).rejects.toMatchObject({
      code: "name-taken",
    });
  });

  test("can lie on the desktop itself, and be filled again and again", async () => {
    const home = { folder: btoa(at("Desktop/folder")) };
    await expect(put(engine, { home, items: [id("quartz.bin")] })).rejects.toMatchObject({ code: "unknown-home" });
    engine.db
      .prepare("INSERT INTO record VALUES (?, ?)")
      .run(`home:${homeId(at("Desktop/folder") as never)}`, JSON.stringify({ folder: at("Desktop/folder"), at: 0 }));
    expect(await put(engine, { home, items: [id("quartz.bin"), id("folder")] })).toMatchObject({
      done: 1,
      refused: [{ name: "folder" }],
    });
    expect(fs.readdirSync(at("Desktop/folder")).sort()).toEqual(["inside.txt", "quartz.bin"]);
    expect(await put(engine, { home, items: [id("harbour.csv")] })).toMatchObject({ done: 1, refused: [] });
  });

  test("are made without anything in them, and that is undone", async () => {
    const made = await addHomes(engine, { homes: [{ title: "Ready / For later" }] });
    expect(made).toMatchObject({ refused: [], homes: [{ title: "Documents / Ready / For later" }] });
    expect(homes(engine).map((h) => h.id)).toContain(made.homes[0]!.id);
    await undo(engine, {});
    expect(fs.existsSync(at("Documents/Ready"))).toBe(false);
  });
});

describe("a sweep", () => {
  test("takes what is sure, from both worktops, as one act with one undo", async () => {
    const report = await sweep(engine, { home: { title: "Documents / Station / Tides" } });
    expect(report).toMatchObject({ done: 3, refused: [], words: "Took 3 things into Documents / Station / Tides" });
    expect(fs.readdirSync(at("Documents/Station/Tides"))).toHaveLength(13);
    expect(fs.readdirSync(at("Desktop"))).toContain("harbour.csv");
    expect(await undo(engine, {})).toMatchObject({ done: 3, refused: [] });
    expect(idsOn(engine)).toHaveLength(6);
  });

  test("of nothing does nothing, and writes no entry", async () => {
    fs.mkdirSync(at("Documents/Empty"));
    await engine.lookAgain("all");
    expect(await sweep(engine, { home: { title: "Documents / Empty" } })).toMatchObject({ done: 0, entry: null, refused: [] });
    expect(engine.ledger.latest()).toBeUndefined();
  });

  test("shows slots that keep their place while they fill, the cut at what is sure, and what was overlooked", async () => {
    const before = await sweepView(engine);
    expect(before.slots.map((s) => [s.title, s.ready, s.taken])).toEqual([
      ["Station / Tides", 3, 0],
      ["Documents / Letters", 1, 0],
    ]);
    expect(before.chosen).toMatchObject({ title: "Documents / Station / Tides", cut: 3 });
    expect(before.chosen!.rows.map((row) => row.score)).toEqual(
      before.chosen!.rows.map((row) => row.score).toSorted((a, b) => b - a),
    );
    expect(
      (await sweepView(engine, undefined, "overlooked")).overlooked.flatMap(({ tiles }) => tiles).map(({ name }) => name),
    ).toContain("quartz.bin");
    await sweep(engine, { home: { title: "Documents / Station / Tides" } });
    expect((await sweepView(engine)).slots.map((s) => [s.title, s.ready, s.taken])).toEqual([
      ["Station / Tides", 0, 3],
      ["Documents / Letters", 1, 0],
    ]);
  });
});

describe("splitting a home that is too wide", () => {
  test("is tried first, moves by year, and is undone to the nanosecond", async () => {
    for (let n = 0; n < 120; n++) {
      write(place.root, `Documents/Wide/note-${n}.txt`, `note ${n}`);
      const year = new Date(2022 + (n % 4), 5, 1);
      fs.utimesSync(at(`Documents/Wide/note-${n}.txt`), year, year);
    }
    write(place.root, "Documents/Wide/.hidden", "stays");
    write(place.root, "Documents/Wide/2022/note-0.txt", "there before");
    await engine.lookAgain("all");
    expect(planOfHomes(engine).filter(({ tooWide }) => tooWide)).toMatchObject([{ name: "Wide", files: 120, within: 121 }]);
    const before = place.tree();
    const home = { title: "Documents / Wide" };
    expect(await split(engine, { home, by: "year", dryRun: true })).toMatchObject({ done: 120, entry: null });
    expect(changesSince(before, place)).toEqual([]);
    expect(await split(engine, { home, by: "year" })).toMatchObject({ done: 120, refused: [] });
    expect(fs.readdirSync(at("Documents/Wide")).sort()).toEqual([".hidden", "2022", "2023", "2024", "2025"]);
    expect(fs.readFileSync(at("Documents/Wide/2022/note-0.txt"), "utf8")).toBe("there before");
    expect(fs.readFileSync(at("Documents/Wide/2022/note-0 (2).txt"), "utf8")).toBe("note 0");
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
    // All of one kind: nothing would be parted.
    expect(await split(engine, { home, by: "kind" })).toMatchObject({ entry: null, done: 0 });
  });
});

test("several homes are filled by one act; nothing is taken twice, and what stays on purpose stays", async () => {
  const before = place.tree();
  await stay(engine, { items: [id("letter-harbour-rent.txt")] });
  const tides = { title: "Documents / Station / Tides" };
  const named = [id("quartz.bin"), id("harbour.csv")];
  const report = await sweep(engine, {
    homes: [{ home: tides }, { home: { title: "Fresh / One" }, items: named }, { home: { title: "Fresh / Two" }, items: named }],
  });
  expect(report).toMatchObject({ done: 5, refused: [], words: "Took 5 things into 2 homes" });
  expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["folder", "letter-harbour-rent.txt"]);
  expect(fs.readdirSync(at("Documents/Fresh"))).toEqual(["One"]);
  await undo(engine, {});
  expect(changesSince(before, place)).toEqual([]);
});

test("a home that was named, and renamed or moved outside, is found again by what lies in it", async () => {
  for (let n = 0; n < 5; n++) write(place.root, `Work/Charts/chart-${n}.svg`, `<svg id="${n}"/>`);
  const folder = at("Work/Charts");
  engine.db.prepare("INSERT INTO record VALUES (?, ?)").run(`home:${homeId(folder as never)}`, JSON.stringify({ folder, at: 0 }));
  await engine.lookAgain("all");
  expect(homes(engine).map(({ title }) => title)).toContain("Work / Charts");
  fs.mkdirSync(at("Elsewhere"));
  fs.renameSync(folder, at("Elsewhere/Charts of the coast"));
  await engine.lookAgain("all");
  const titles = homes(engine).map(({ title }) => title);
  expect(titles).toContain("Elsewhere / Charts of the coast");
  expect(titles).not.toContain("Work / Charts");
  expect(engine.db.prepare("SELECT words FROM entry ORDER BY id DESC").pluck().get()).toBe(
    "Found the home Work / Charts again, as Elsewhere / Charts of the coast",
  );
  expect(await put(engine, { home: { title: "Elsewhere / Charts of the coast" }, items: [id("quartz.bin")] })).toMatchObject({
    done: 1,
  });
  // Gone altogether, it is no home, and nothing else takes its place.
  fs.rmSync(at("Elsewhere"), { recursive: true });
  await engine.lookAgain("all");
  expect(homes(engine).some(({ title }) => title.includes("Charts"))).toBe(false);
});

test("all that is sure is taken into every home at once", async () => {
  const report = await sweep(engine, { all: true });
  expect(report).toMatchObject({ done: 4, refused: [], words: "Took 4 things into 2 homes" });
  expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["folder", "harbour.csv", "quartz.bin"]);
  expect(await sweep(engine, { all: true })).toMatchObject({ entry: null, done: 0 });
});

test("a whole sweep that was undone says nothing against its homes: all of it is proposed again", async () => {
  for (let n = 0; n < 6; n++) write(place.root, `Desktop/high-water-year-${n}.csv`);
  await engine.lookAgain("all");
  const count = async () => (await sweepView(engine)).ready.reduce((sum, { count: n }) => sum + n, 0);
  const before = await count();
  expect(before).toBeGreaterThan(6);
  await sweep(engine, { all: true });
  await engine.lookAgain("all");
  await undo(engine, {});
  await engine.lookAgain("all");
  expect(await count()).toBe(before);
});

test("what was put away and undone is not proposed for that home again", async () => {
  const proposed = () =>
    belongingTo(engine, homes(engine).find((home) => home.title.endsWith("Tides"))!).map(({ item }) => item.label);
  expect(proposed()).toContain("high-water-may.csv");
  await put(engine, { home: { title: "Documents / Station / Tides" }, items: [id("high-water-may.csv")] });
  await engine.lookAgain("all");
  await undo(engine, {});
  await engine.lookAgain("all");
  expect(proposed()).not.toContain("high-water-may.csv");
  expect(proposed()).toContain("high-water-october.csv");
});

test("learning is cancelled: what was learned before holds, and the next look learns anew", async () => {
  for (let n = 0; n < 3000; n++) write(place.root, `Documents/Many/record ${n} of ${n % 17}.txt`, `number ${n}`);
  const before = engine.belonging;
  const { jobs } = engine;
  const run = jobs.run.bind(jobs);
  let cancelled = 0;
  jobs.run = (words, unit, of, job) => {
    const running = run(words, unit, of, job);
    if (words.startsWith("Learning")) {
      cancelled++;
      jobs.cancelAll();
    }
    return running;
  };
  await engine.lookAgain("all");
  jobs.run = run;
  expect(cancelled).toBe(1);
  expect(engine.belonging).toBe(before);
  await engine.lookAgain("all");
  expect(engine.belonging.total).toBeGreaterThan(400);
});
