import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { PileItem } from "@/contract/views";
import { differences } from "../../../fixtures/compare-trees";
import { idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { realClock } from "../clock";
import { collectedIn, parcels } from "../depots/depots";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { family } from "../survey/family";
import { archive } from "./archive";
import { clash } from "./clash";
import { stillInUse } from "./in-use";
import { letGo } from "./let-go";
import { sittingNow } from "./now";
import { openFolder } from "./open";
import { undecided } from "./pile";
import { endProject, projects } from "./projects";
import { stay } from "./stay";
import { undecidedList } from "./undecided";
import { sittingView, thing } from "./view";
import { wait } from "./wait";

const day = 86_400_000;
let place: Place;
let engine: Engine;
let now: number;
const at = (rel: string) => path.join(place.root, rel);
const id = (label: string) => itemNamed(engine, label).id;
const lie = () =>
  undecided(engine)
    .map(({ label }) => label)
    .sort();

beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop/box/deep", "Downloads", "Documents/Kept"])
      fs.mkdirSync(path.join(root, folder), { recursive: true });
    for (const name of ["a.txt", "b.txt", "c.txt", "box/in.txt", "box/deep/low.txt", "box/.hidden"])
      fs.writeFileSync(path.join(root, "Desktop", name), `content of ${name}`);
  });
  now = Date.now();
  engine = await place.open({ clock: { ...realClock, now: () => now } });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("a project", () => {
  test("keeps its things lying while it is under way, and ended they come up again", async () => {
    expect((await stay(engine, { items: [id("a.txt"), id("b.txt")], project: "Harvest" })).words).toBe(
      "Left 2 things where they lie while “Harvest” is under way",
    );
    // Another joins it, however its title is written.
    await stay(engine, { items: [id("c.txt")], project: "harvest" });
    expect(projects(engine)).toMatchObject([
      { title: "Harvest", things: [{ name: "a.txt" }, { name: "b.txt" }, { name: "c.txt" }] },
    ]);
    now += 400 * day;
    expect(lie()).toEqual(["box"]);
    expect((await endProject(engine, { project: "HARVEST" })).words).toBe(
      "Ended the project “Harvest”, whose 3 things come up again",
    );
    expect(lie()).toEqual(["a.txt", "b.txt", "box", "c.txt"]);
    expect(projects(engine)).toEqual([]);
    await expect(endProject(engine, { project: "Harvest" })).rejects.toMatchObject({ code: "unknown-project" });
    await undo(engine, {});
    expect(lie()).toEqual(["box"]);
  });

  test("that was taken back keeps nothing lying, even what joined it later", async () => {
    const first = await stay(engine, { items: [id("a.txt")], project: "Harvest" });
    await stay(engine, { items: [id("b.txt")], project: "Harvest" });
    await undo(engine, { entry: first.entry! });
    expect(projects(engine)).toEqual([]);
    expect(lie()).toEqual(["a.txt", "b.txt", "box", "c.txt"]);
  });

  test("is archived as a whole: its things are collected in a parcel of its title, by one act", async () => {
    await stay(engine, { items: [id("a.txt"), id("b.txt")], project: "Harvest" });
    fs.rmSync(at("Desktop/b.txt"));
    await engine.lookAgain("all");
    await endProject(engine, { project: "Harvest", archive: true });
    const [parcel] = parcels(engine);
    expect(parcel).toMatchObject({ title: "Harvest", state: "collecting" });
    expect(collectedIn(engine, parcel!.id).map(({ label }) => label)).toEqual(["a.txt"]);
    await undo(engine, {});
    expect(projects(engine)).toMatchObject([{ title: "Harvest", things: [{ name: "a.txt" }] }]);
    expect(collectedIn(engine, parcel!.id)).toEqual([]);
  });
});

describe("what is undecided", () => {
  test("has its date and since when it waits, what is due first; another date is no new beginning", async () => {
    const began = now;
    await wait(engine, { items: [id("a.txt")], until: now + 9 * day });
    await wait(engine, { items: [id("b.txt")], until: now + 3 * day });
    const dates = () => undecidedList(engine).map(({ name, due, since }) => [name, due, Date.parse(since)]);
    expect(dates()).toEqual([
      ["b.txt", false, began],
      ["a.txt", false, began],
    ]);
    const lying = Number(frameView(engine).counts.sitting);
    now += 4 * day;
    expect(dates()[0]).toEqual(["b.txt", true, began]);
    // What is due counts in the course.
    expect(Number(frameView(engine).counts.sitting)).toBe(lying + 1);
    await wait(engine, { items: [id("b.txt")], until: now + 30 * day });
    expect(dates()).toEqual([
      ["a.txt", false, began],
      ["b.txt", false, began],
    ]);
  });

  test("tells what went or changed behind our back, and not what was put away or decided since", async () => {
    await wait(engine, { items: [id("a.txt"), id("b.txt"), id("c.txt"), id("box")] });
    fs.rmSync(at("Desktop/a.txt"));
    fs.appendFileSync(at("Desktop/b.txt"), "more");
    const states = () => Object.fromEntries(undecidedList(engine).map(({ name, state }) => [name, state]));
    expect(states()).toEqual({ "a.txt": "gone", "b.txt": "changed", "c.txt": "as it was", box: "as it was" });
    await engine.lookAgain("all");
    expect(states()).toEqual({ "a.txt": "gone", "b.txt": "changed", "c.txt": "as it was", box: "as it was" });
    await put(engine, { home: { title: "Kept" }, items: [id("b.txt")] });
    await letGo(engine, { items: [id("c.txt")] });
    await stay(engine, { items: [id("box")] });
    expect(states()).toEqual({ "a.txt": "gone" });
  });
});

describe("a folder that is opened", () => {
  test("is decided thing by thing, at any depth, and undone to where all lay", async () => {
    const before = place.tree();
    const opened = await openFolder(engine, id("box"));
    expect(opened).toMatchObject({ hidden: 1, pile: [{ name: "deep", worktop: "" }, { name: "in.txt" }] });
    const [deep, inside] = opened.pile as [PileItem, PileItem];
    expect((await thing(engine, inside.id)).facts.join()).toContain("in Desktop / box");
    const [low] = (await openFolder(engine, deep.id)).pile;
    await put(engine, { home: { title: "Kept" }, items: [low!.id], sitting: "s" });
    expect(fs.readdirSync(at("Documents/Kept"))).toEqual(["low.txt"]);
    await wait(engine, { items: [inside.id], until: now + day, sitting: "s" });
    expect(undecidedList(engine).map(({ path: of }) => of)).toEqual([at("Desktop/box/in.txt")]);
    // It does not come up twice, and on its date it does, by itself.
    expect((await openFolder(engine, id("box"))).pile.map(({ name }) => name)).toEqual(["deep"]);
    now += 2 * day;
    expect(lie()).toContain("in.txt");
    await letGo(engine, { items: [inside.id], sitting: "s" });
    expect(fs.existsSync(at("Desktop/box/in.txt"))).toBe(false);
    expect(lie()).not.toContain("in.txt");
    expect(await undo(engine, { sitting: "s" })).toMatchObject({ refused: [] });
    const rest = differences(before, place.tree(), worktopTimes).filter((line) => !line.startsWith("new: .local"));
    expect(rest).toEqual([]);
    // The same things are known by the same ids again.
    expect((await openFolder(engine, id("box"))).pile.map((one) => one.id)).toEqual([deep.id, inside.id]);
  });

  test("leaves what lies there off the worktops' lists, and what is in it can go with a parcel", async () => {
    const lying = idsOn(engine).length;
    const { pile } = await openFolder(engine, id("box"));
    const inside = pile.find(({ name }) => name === "in.txt")!;
    await engine.lookAgain("all");
    expect(idsOn(engine)).toHaveLength(lying);
    await archive(engine, { items: [inside.id], parcel: "P" });
    expect(collectedIn(engine, parcels(engine)[0]!.id).map(({ label }) => label)).toEqual(["in.txt"]);
  });

  test("may be none, not be readable, or lie elsewhere: that is said, and nothing else", async () => {
    await expect(openFolder(engine, id("a.txt"))).rejects.toMatchObject({ code: "unknown-item" });
    fs.mkdirSync(at("Desktop/many"));
    for (let n = 0; n <= 5000; n++) fs.writeFileSync(at(`Desktop/many/${n}`), "");
    await engine.lookAgain("worktops");
    await expect(openFolder(engine, id("many"))).rejects.toMatchObject({
      code: "folder-closed",
      message: expect.stringContaining("5,000"),
    });
    await put(engine, { home: { title: "Kept" }, items: [id("box")] });
    const { db } = engine;
    const box = db.prepare<[], string>("SELECT id FROM item WHERE label = 'box'").pluck().get()!;
    await expect(openFolder(engine, box)).rejects.toMatchObject({ code: "unknown-item" });
    // What was put away is not let go of by its id.
    await expect(letGo(engine, { items: [box] })).rejects.toMatchObject({ code: "unknown-item" });
  });
});

test("what is in an opened folder has its families, and is settled by them", async () => {
  for (let n = 1; n <= 4; n++) fs.writeFileSync(at(`Desktop/box/nest ${n}.csv`), `a,b\n${n},${n}`);
  const { pile, families } = await openFolder(engine, id("box"));
  const nests = pile.filter(({ name }) => name.startsWith("nest"));
  expect(nests.map((one) => families[(one.family ?? 0) - 1])).toEqual(Array(4).fill("named “nest”"));
  expect(pile.find(({ name }) => name === "in.txt")!.family).toBeUndefined();
  const its = await family(engine, nests[0]!.id);
  expect(its?.each.map(({ name }) => name).sort()).toEqual(["nest 1.csv", "nest 2.csv", "nest 3.csv", "nest 4.csv"]);
});

test("a sitting that goes on is told what was done elsewhere: what lies ahead, and what stands around it", async () => {
  const [a, b, c] = [id("a.txt"), id("b.txt"), id("c.txt")];
  const { around } = await sittingView(engine);
  expect(await sittingNow(engine, { ahead: [a, b, c] })).toMatchObject({ ...around, over: [], first: { id: a } });
  await stay(engine, { items: [a], project: "Harvest" });
  await archive(engine, { items: [b], parcel: "Season" });
  // Taken away for a moment, as where a program saves it, it is not gone.
  fs.renameSync(at("Desktop/c.txt"), at("Desktop/c.new"));
  expect((await sittingNow(engine, { ahead: [c] })).over).toEqual([]);
  fs.rmSync(at("Desktop/c.new"));
  await engine.lookAgain("all");
  expect(await sittingNow(engine, { ahead: [a, b, c] })).toEqual({
    ...around,
    parcels: ["Season"],
    parcel: "Season",
    projects: ["Harvest"],
    over: [
      { id: a, why: expect.stringMatching(/^a\.txt was decided already, .* stays while its project is under way\.$/) },
      { id: b, why: expect.stringMatching(/collected for a parcel\.$/) },
      { id: c, why: "c.txt is no longer there." },
    ],
  });
  await undo(engine, { entry: "all" });
  expect(await sittingNow(engine, { ahead: [a] })).toMatchObject({ projects: [], over: [], first: { id: a } });
  // A home that was made elsewhere meanwhile is there to be chosen.
  await put(engine, { home: { title: "Tides" }, items: [b], title: "a (2)" });
  await engine.lookAgain("all");
  const { first } = await sittingNow(engine, { ahead: [a] });
  expect(first?.homes.map(({ title }) => title)).toEqual((await thing(engine, a)).homes.map(({ title }) => title));
});

test("a name that is taken in the home: both are shown, and nothing moves until the person chose", async () => {
  fs.writeFileSync(at("Documents/Kept/a.txt"), "content of a.txt");
  fs.writeFileSync(at("Documents/Kept/b.txt"), "another text!!");
  await engine.lookAgain("all");
  const home = { title: "Documents / Kept" };
  const asked = await put(engine, { home, items: [id("a.txt")], clash: "ask" });
  expect(asked).toMatchObject({ done: 0, refused: [{ item: id("a.txt"), code: "name-there" }] });
  expect(await clash(engine, { item: id("a.txt"), home })).toMatchObject({
    same: true,
    here: { name: "a.txt", look: { form: "text", lines: ["content of a.txt"] } },
    there: { name: "a.txt" },
    home: "Documents / Kept",
  });
  expect(await clash(engine, { item: id("b.txt"), home })).toMatchObject({
    same: false,
    there: { look: { lines: ["another text!!"] } },
  });
  expect(await put(engine, { home, items: [id("b.txt")], title: "b of today", clash: "ask" })).toMatchObject({ done: 1 });
  expect(await put(engine, { home, items: [id("a.txt")] })).toMatchObject({ done: 1 });
  expect(fs.readdirSync(at("Documents/Kept")).sort()).toEqual(["a (2).txt", "a.txt", "b of today.txt", "b.txt"]);
});

test("which things are in use still is told by the same signs as an act goes by", async () => {
  fs.writeFileSync(at("Desktop/.~lock.a.txt#"), "");
  const ids = [id("a.txt"), id("b.txt"), "unknown"];
  expect(await stillInUse(engine, { items: ids })).toEqual([{ id: id("a.txt"), why: expect.stringContaining("lock file") }]);
  fs.rmSync(at("Desktop/.~lock.a.txt#"));
  expect(await stillInUse(engine, { items: ids })).toEqual([]);
});
