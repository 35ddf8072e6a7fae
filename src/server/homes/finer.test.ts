import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { stay } from "../sitting/stay";
import { itemAt } from "../survey/items";
import { finerItems } from "./areas";
import { whatIsLearnedFrom } from "./belonging";
import { finer } from "./finer";
import { homeId, homes } from "./homes";
import { put } from "./put";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const id = (label: string) => itemNamed(engine, label).id;
const area = { title: "Documents / Station" };
const queue = () => [...finerItems(engine).values()].flat().map((item) => item.label);

beforeEach(async () => {
  place = makePlace((root) => {
    const write = (name: string) => {
      fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
      fs.writeFileSync(path.join(root, name), name);
    };
    for (let n = 0; n < 10; n++) {
      write(`Documents/Station/Tides/high-water-${n}.csv`);
      write(`Documents/Letters/letter-harbour-${n}.txt`);
    }
    write("Documents/Station/lay there before.txt");
    for (const name of ["high-water-may.csv", "high-water-june.csv", "quartz.bin", "letter-harbour-rent.txt"])
      write(`Desktop/${name}`);
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("what went only to an area comes up again with the home in it that fits, and goes there by one act", async () => {
  const before = place.tree();
  expect(queue()).toEqual([]);
  await put(engine, { home: area, items: [id("high-water-may.csv"), id("high-water-june.csv"), id("quartz.bin")] });
  await put(engine, { home: { title: "Documents / Letters" }, items: [id("letter-harbour-rent.txt")] });
  await engine.lookAgain("all");
  // Where it waits says nothing of where such things belong.
  const station = homeId(at("Documents/Station") as never);
  expect((await whatIsLearnedFrom(engine)).files.filter((file) => file.home === station)).toHaveLength(1);
  // Not what lay there before, nor what is in a home that holds no other.
  expect(queue().sort()).toEqual(["high-water-june.csv", "high-water-may.csv", "quartz.bin"]);
  const groups = await finer(engine);
  expect(groups[0]).toMatchObject({
    why: "in Station, like what lies in Tides",
    home: { title: "Documents / Station / Tides" },
  });
  expect(groups[0]!.tiles.map(({ name }) => name).sort()).toEqual(["high-water-june.csv", "high-water-may.csv"]);
  expect(groups[1]).toMatchObject({ home: { title: "Documents / Station / Mixed" }, tiles: [{ name: "quartz.bin" }] });
  const [tides] = groups;
  expect(await put(engine, { home: { id: tides!.home.id! }, items: tides!.tiles.map((tile) => tile.id) })).toMatchObject({
    done: 2,
    refused: [],
  });
  expect(fs.readdirSync(at("Documents/Station/Tides"))).toHaveLength(12);
  expect(queue()).toEqual(["quartz.bin"]);
  await put(engine, { home: { title: groups[1]!.home.title }, items: groups[1]!.tiles.map((tile) => tile.id) });
  expect(fs.readdirSync(at("Documents/Station/Mixed"))).toEqual(["quartz.bin"]);
  await undo(engine, { entry: "all" });
  expect(changesSince(before, place)).toEqual([]);
});

test("what may lie there, was taken away, or was saved anew by somebody is not asked about", async () => {
  await put(engine, { home: area, items: [id("high-water-may.csv"), id("high-water-june.csv"), id("quartz.bin")] });
  await engine.lookAgain("all");
  const quartz = itemAt(engine.db, at("Documents/Station/quartz.bin") as never)!;
  expect(await stay(engine, { items: [quartz.id] })).toMatchObject({ done: 1 });
  fs.rmSync(at("Documents/Station/high-water-may.csv"));
  expect(queue()).toEqual(["high-water-june.csv"]);
  fs.renameSync(at("Documents/Station/high-water-june.csv"), at("Documents/june.csv"));
  expect(queue()).toEqual([]);
});

test("a thing is taken from one home to another by its path", async () => {
  await put(engine, { home: area, items: [id("quartz.bin")] });
  const ref = { path: btoa(at("Documents/Station/quartz.bin")) };
  expect(await put(engine, { home: { title: "Documents / Letters" }, items: [ref] })).toMatchObject({ done: 1, refused: [] });
  expect(fs.existsSync(at("Documents/Letters/quartz.bin"))).toBe(true);
  expect(homes(engine).length).toBeGreaterThan(2);
});
