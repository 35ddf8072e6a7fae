import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { jpeg } from "@/demo/draw";
import { changesSince } from "../../../fixtures/acts";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { readPosition, writePosition } from "../db/record";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { put } from "./put";
import { sweep } from "./sweep";
import { retitle, titles } from "./titles";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const id = (label: string) => itemNamed(engine, label).id;
const svg = '<svg xmlns="http://www.w3.org/2000/svg" width="60" height="40"><rect width="60" height="40" fill="teal"/></svg>';

beforeEach(async () => {
  const photos = await Promise.all(
    [new Date(2026, 5, 3, 9, 30), new Date(2026, 5, 1, 23, 59), new Date(2025, 11, 31, 0, 5)].map((taken) => jpeg(svg, taken)),
  );
  place = makePlace((root) => {
    for (const folder of ["Desktop/a folder.d", "Documents/Nests"]) fs.mkdirSync(path.join(root, folder), { recursive: true });
    for (const [n, photo] of photos.entries()) fs.writeFileSync(path.join(root, `Desktop/DSC_${n}.jpg`), photo);
    for (const name of ["Copy of letter to the council.txt", "letter to the council.txt"])
      fs.writeFileSync(path.join(root, "Desktop", name), name);
    fs.writeFileSync(path.join(root, "Documents/Nests/2026-06-03 nest.jpg"), "there before");
    const changed = new Date(2024, 1, 29, 12);
    for (const name of fs.readdirSync(path.join(root, "Desktop")))
      fs.utimesSync(path.join(root, "Desktop", name), changed, changed);
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const nests = { title: "Documents / Nests" };

describe("new titles while putting away", () => {
  test("are tried first: the day a picture was taken, numbers by that, and what is taken there gets one", async () => {
    const items = [0, 1, 2].map((n) => id(`DSC_${n}.jpg`));
    const before = place.tree();
    expect(await titles(engine, { items, title: "{date} nest", home: nests })).toMatchObject([
      { name: "DSC_0.jpg", title: "2026-06-03 nest (2).jpg", numbered: true },
      { name: "DSC_1.jpg", title: "2026-06-01 nest.jpg", numbered: false },
      { name: "DSC_2.jpg", title: "2025-12-31 nest.jpg", numbered: false },
    ]);
    expect((await titles(engine, { items, title: "nest {number}" })).map(({ title }) => title)).toEqual([
      "nest 3.jpg",
      "nest 2.jpg",
      "nest 1.jpg",
    ]);
    expect(changesSince(before, place)).toEqual([]);
    expect(await put(engine, { home: nests, items, title: "{date} nest" })).toMatchObject({ done: 3, refused: [] });
    expect(fs.readdirSync(at("Documents/Nests")).sort()).toEqual([
      "2025-12-31 nest.jpg",
      "2026-06-01 nest.jpg",
      "2026-06-03 nest (2).jpg",
      "2026-06-03 nest.jpg",
    ]);
    expect(fs.readFileSync(at("Documents/Nests/2026-06-03 nest.jpg"), "utf8")).toBe("there before");
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test("what lies in that home already keeps its title, and takes no number from the others", async () => {
    const [first, second] = [id("DSC_0.jpg"), id("DSC_1.jpg")];
    await put(engine, { home: nests, items: [first] });
    const wanted = { items: [first, second], title: "egg {number}", home: nests };
    const tried = await titles(engine, wanted);
    expect(tried.map(({ name, title }) => [name, title])).toEqual([
      ["DSC_0.jpg", "DSC_0.jpg"],
      ["DSC_1.jpg", "egg 1.jpg"],
    ]);
    expect((await put(engine, wanted)).refused).toMatchObject([{ name: "DSC_0.jpg", why: "DSC_0.jpg lies there already." }]);
    expect(fs.readdirSync(at("Documents/Nests")).sort()).toEqual(["2026-06-03 nest.jpg", "DSC_0.jpg", "egg 1.jpg"]);
  });
  test("what has no date of its own has the day it was last changed, and a folder no ending", async () => {
    const items = [id("a folder.d"), id("letter to the council.txt")];
    expect((await titles(engine, { items, title: "{date} {name}", home: nests })).map(({ title }) => title)).toEqual([
      "2024-02-29 a folder.d",
      "2024-02-29 letter to the council.txt",
    ]);
    expect(await sweep(engine, { home: nests, items, title: "{date} {name}" })).toMatchObject({ done: 2 });
    expect(fs.existsSync(at("Documents/Nests/2024-02-29 a folder.d"))).toBe(true);
  });

  test("a pattern that says what is not known is refused, with what it may say", async () => {
    await expect(put(engine, { home: nests, items: [id("DSC_0.jpg")], title: "{size}" })).rejects.toMatchObject({
      code: "bad-pattern",
      message: expect.stringContaining("{size}"),
    });
  });
});

describe("new titles where things lie", () => {
  test("one act, each at its place on the desktop still; what keeps its title is left alone", async () => {
    const before = place.tree();
    const [long, short] = [id("Copy of letter to the council.txt"), id("letter to the council.txt")];
    writePosition(engine.db, long, { x: 40, y: 60 });
    const report = await retitle(engine, { items: [long, short], title: "{short}" });
    expect(report).toMatchObject({
      done: 1,
      refused: [],
      words: "Called Copy of letter to the council.txt letter to the council (2).txt",
    });
    await engine.lookAgain("worktops");
    expect(id("letter to the council (2).txt")).toBe(long);
    expect(readPosition(engine.db, long)).toEqual({ x: 40, y: 60 });
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test("a thing saved anew meanwhile is left alone and said", async () => {
    const items = [id("DSC_0.jpg"), id("letter to the council.txt")];
    fs.writeFileSync(at("Desktop/letter to the council.txt"), "written once more");
    expect(await retitle(engine, { items, title: "{kind} {number}" })).toMatchObject({
      done: 1,
      refused: [{ name: "letter to the council.txt", code: "changed" }],
    });
  });
});
