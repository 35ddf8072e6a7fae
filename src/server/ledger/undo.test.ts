import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { makeDrives, plug } from "@/standins/drive/drives";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { addDepot } from "../depots/add";
import { check } from "../depots/check";
import { deleteParcel } from "../depots/delete";
import { send } from "../depots/send";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { addHomes } from "../homes/add";
import { gather } from "../homes/gather";
import { put } from "../homes/put";
import { addOccasion, changeOccasion } from "../quiet/occasions";
import { quiet } from "../quiet/quiet";
import { Standing } from "../quiet/standing";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { emptyTrash } from "./empty";
import { ledgerList } from "./list";
import { trashList } from "./trash-list";
import { undo } from "./undo";
import { ledgerView } from "./view";

// 26 November 2026 is a Thursday.
const at = (hours: number, minutes = 0) => new Date(2026, 10, 26, hours, minutes).getTime();
let place: Place;
let engine: Engine;
let clock: ReturnType<typeof standingClock>;
let before: ReturnType<Place["tree"]>;
const desktop = (...parts: string[]) => path.join(place.root, "Desktop", ...parts);
const inSight = () =>
  fs
    .readdirSync(desktop())
    .filter((name) => !name.startsWith("."))
    .sort();
const id = (name: string) => itemNamed(engine, name).id;
const changed = () => differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line));

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Documents"));
    fs.mkdirSync(path.join(root, "Desktop/Season"), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/Season/plan.txt"), "plan");
    for (const name of ["a.txt", "b.txt", "c.txt"]) fs.writeFileSync(path.join(root, "Desktop", name), name.repeat(100));
    for (const name of ["a.txt", "b.txt", "c.txt", "Season/plan.txt"])
      fs.utimesSync(path.join(root, "Desktop", name), 1.7e9, 1.7e9);
  });
  clock = standingClock(at(8));
  engine = await place.open({ clock });
  before = place.tree();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("after the trash was emptied", () => {
  const drive = () => path.join(place.folder, "station-drives/plugged in/station drive");
  const empty = async () => {
    await engine.close();
    fs.writeFileSync(path.join(place.data, "sample"), "");
    makeDrives(place.folder);
    engine = await place.open({ clock });
    await addDepot(engine, { location: drive(), title: "Drive" });
    await archive(engine, { items: [id("a.txt")], parcel: "P" });
    await send(engine, { parcel: "P", depot: "Drive" });
    await letGo(engine, { items: [id("b.txt")] });
    return (await emptyAll(engine)).entry!;
  };
  const offered = (entry: number) => ledgerView(engine, {}).entries.find((one) => one.id === entry)!.undo;

  test("undo is offered for what a whole parcel in reach holds, and fetches that", async () => {
    const entry = await empty();
    expect(engine.ledger.latest()?.id).toBe(entry);
    expect(offered(entry)).toEqual({ part: "1 of 2" });
    expect(frameView(engine).last?.undo).toEqual({ part: "1 of 2", other: undefined });
    expect(await undo(engine, { dryRun: true })).toMatchObject({ act: "undo", done: 1, refused: [{ name: "b.txt" }] });
    expect(await undo(engine, {})).toMatchObject({
      done: 1,
      refused: [{ code: "erased" }],
      words: expect.stringMatching(/^Undone in part: /),
    });
    // What could not be fetched will not be fetched by asking once more: undo goes on with what was done before.
    expect(engine.ledger.latest()?.id).toBeLessThan(entry);
  });

  test.each<[string, () => unknown]>([
    ["is away", () => plug(place.folder, "station drive", false)],
    [
      "was found damaged",
      async () => {
        fs.writeFileSync(path.join(drive(), "P/data/a.txt"), "other");
        await check(engine, { parcel: "P" });
      },
    ],
    [
      "was deleted",
      async () => {
        const { seen } = await deleteParcel(engine, { parcel: "P", dryRun: true });
        await deleteParcel(engine, { parcel: "P", seen });
      },
    ],
  ])("nowhere once the parcel %s: not by Z, in the ledger, or as a trial", async (_, make) => {
    const entry = await empty();
    await make();
    expect(offered(entry)).toBeUndefined();
    expect(engine.ledger.latest()?.id).not.toBe(entry);
    await expect(undo(engine, { entry, dryRun: true })).rejects.toThrow();
    await expect(undo(engine, { entry })).rejects.toThrow();
    expect(ledgerList(engine)[0]!.words).not.toMatch(/^Undone/);
    const { standing, forGood } = ledgerView(engine, {});
    expect(forGood).toBe(
      ledgerView(engine, {}).entries.filter(
        ({ of, state, undo, words }) => of === null && state === "done" && !undo && /^(Emptied|Deleted)/.test(words),
      ).length,
    );
    expect(forGood).toBeGreaterThan(0);
    expect(standing).toBeGreaterThan(forGood);
  });

  test("what was erased is offered by no act before it either: Z goes on with what can be undone, and refuses nothing", async () => {
    await stay(engine, { items: [id("c.txt")] });
    const gone = (await letGo(engine, { items: [id("b.txt")] })).entry!;
    const emptied = (await emptyAll(engine)).entry!;
    expect([offered(gone), offered(emptied)]).toEqual([undefined, undefined]);
    for (const entry of [gone, emptied]) await expect(undo(engine, { entry, dryRun: true })).rejects.toThrow("erased");
    expect(await undo(engine, {})).toMatchObject({ refused: [], words: expect.stringMatching(/^Undone: Left c\.txt/) });
    await expect(undo(engine, {})).rejects.toMatchObject({ code: "undo-nothing" });
  });

  test("nor what was sent, once its parcel is damaged: it is offered again with the parcel whole", async () => {
    const emptied = await empty();
    fs.writeFileSync(path.join(drive(), "P/data/a.txt"), "other");
    await check(engine, { parcel: "P" });
    const standing = () => ledgerView(engine, {}).entries.filter(({ undo }) => undo);
    expect(standing().map(({ words }) => words)).toEqual([
      expect.stringMatching(/^Collected/),
      expect.stringMatching(/^Made Drive a depot/),
    ]);
    fs.writeFileSync(path.join(drive(), "P/data/a.txt"), "a.txt".repeat(100));
    await check(engine, { parcel: "P" });
    expect(engine.ledger.latest()?.id).toBe(emptied);
    expect(await undo(engine, {})).toMatchObject({ done: 1 });
    expect(await undo(engine, {})).toMatchObject({ refused: [], words: expect.stringMatching(/^Undone: Archived/) });
    expect(inSight()).toEqual(["Season", "a.txt", "c.txt"]);
  });

  test("of several let go at once the ones that were erased stand in the way of no other", async () => {
    const both = (await letGo(engine, { items: [id("a.txt"), id("b.txt")] })).entry!;
    const [a] = trashList(engine).filter(({ label }) => label === "a.txt");
    await emptyTrash(engine, { things: [a!.id], lost: [a!.id] });
    expect(offered(both)).toEqual({ part: "1 of 2" });
    expect(await undo(engine, {})).toMatchObject({ done: 1, refused: [{ name: "a.txt" }] });
    expect(inSight()).toEqual(["Season", "b.txt", "c.txt"]);
  });
});

test("what was refused is not called undone, and the next undo goes on with what was done before", async () => {
  await stay(engine, { items: [id("c.txt")] });
  await letGo(engine, { items: [id("a.txt")] });
  fs.rmSync(path.join(place.root, ".local/share/Trash/files/a.txt"));
  const first = await undo(engine, {});
  expect(first).toMatchObject({ done: 0, refused: [{ code: "not-in-trash" }], words: "Not undone: Let go of a.txt" });
  expect(ledgerList(engine)[0]!.words).toBe("Not undone: Let go of a.txt");
  expect(await undo(engine, {})).toMatchObject({ refused: [], words: expect.stringMatching(/^Undone: Left c\.txt/) });
});

describe("what was done by itself never stands in the way of what somebody did", () => {
  test("an end by its time: undo goes on with what was done before, again and again", async () => {
    await put(engine, { home: { title: "New" }, items: [id("a.txt")] });
    await quiet(engine, { level: "some kinds", kinds: ["text"] });
    await quiet(engine, { level: "bare", until: at(8, 2) });
    clock.pass(180_000);
    await new Standing(engine).tick();
    expect(engine.ledger.entries.last()).toMatchObject({ by: "timetable", level: "everything" });
    for (let n = 0; n < 3; n++) {
      const report = await undo(engine, {}).catch((problem: unknown) => problem);
      if (report instanceof Error) expect(report).toMatchObject({ code: "undo-nothing" });
      else expect(report).toMatchObject({ refused: [] });
      await new Standing(engine).tick();
    }
    expect(changed()).toEqual([]);
  });

  test("an end that is taken back holds until somebody says otherwise", async () => {
    await quiet(engine, { level: "bare", until: at(8, 2) });
    clock.pass(180_000);
    const standing = new Standing(engine);
    await standing.tick();
    expect(inSight()).toHaveLength(4);
    await undo(engine, { entry: engine.ledger.entries.last()!.id });
    for (let n = 0; n < 3; n++) {
      clock.pass(600_000);
      await standing.tick();
      expect(inSight()).toEqual([]);
    }
    await quiet(engine, { level: "everything" });
    await quiet(engine, { level: "bare", until: clock.now() + 1000 });
    clock.pass(60_000);
    await standing.tick();
    expect(inSight()).toHaveLength(4);
  });

  test("the begin of an occasion: what was done before it is undone under it, and it holds on", async () => {
    await put(engine, { home: { title: "New" }, items: [id("a.txt")] });
    await addOccasion(engine, { title: "Work", level: "bare", days: ["TH"], from: "09:00", to: "17:30" });
    clock.pass(at(9, 1) - clock.now());
    const standing = new Standing(engine);
    await standing.tick();
    expect(inSight()).toEqual([]);
    // The occasion that was made, then what was put away.
    for (let n = 0; n < 2; n++) expect(await undo(engine, {})).toMatchObject({ refused: [] });
    await standing.tick();
    expect(changed()).toEqual([]);
  });

  test("a begin that is taken back does not begin again by itself; another does", async () => {
    await addOccasion(engine, { title: "Work", level: "bare", days: ["TH"], from: "09:00", to: "17:30" });
    await addOccasion(engine, { title: "Talk", level: "bare", days: ["TH"], from: "12:00", to: "13:00" });
    const standing = new Standing(engine);
    clock.pass(at(9, 1) - clock.now());
    await standing.tick();
    await undo(engine, { entry: engine.ledger.entries.last()!.id });
    for (let n = 0; n < 3; n++) {
      clock.pass(60_000);
      await standing.tick();
      expect(inSight()).toHaveLength(4);
    }
    clock.pass(at(12, 1) - clock.now());
    await standing.tick();
    expect(inSight()).toEqual([]);
    await changeOccasion(engine, { occasion: "Talk", does: "end" });
  });

  test("a home that was found again where it was gathered to: undo takes back the gathering", async () => {
    await addHomes(engine, { homes: [{ title: "Desktop / Season" }] });
    await engine.lookAgain("all");
    await gather(engine, { title: "All" });
    await engine.lookAgain("all");
    expect(ledgerList(engine)[0]!.words).toMatch(/^Found the home/);
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    expect(changed()).toEqual([]);
  });
});

test("a sitting is taken back together with a later act that stands in the way, which is said first", async () => {
  await letGo(engine, { items: [id("a.txt")], sitting: "s" });
  await letGo(engine, { items: [id("b.txt")], sitting: "s" });
  // Something takes the place that one of them left.
  fs.mkdirSync(path.join(place.root, "Documents/In"));
  fs.writeFileSync(path.join(place.root, "Documents/In/a.txt"), "another");
  await engine.lookAgain("all");
  const [, other] = idsOn(engine);
  await put(engine, { home: { title: "New" }, items: [other!] });
  await undo(engine, {});
  await letGo(engine, { items: [id("c.txt")] });
  const trial = await undo(engine, { sitting: "s", dryRun: true });
  expect(trial.acts).toHaveLength(2);
  expect(await undo(engine, { sitting: "s" })).toMatchObject({ refused: [] });
  expect(inSight()).toEqual(["Season", "a.txt", "b.txt"]);
});

test("undo settles what was left half done first, and overtakes nothing of it", async () => {
  await stay(engine, { items: [id("c.txt")] });
  const end = engine.ledger.entries.end.bind(engine.ledger.entries);
  let failing = 2;
  engine.ledger.entries.end = (...args) => {
    // The record cannot be written for a while: neither the end of the act, nor of settling it.
    if (failing-- > 0) throw Object.assign(new Error("SQLITE_FULL: full"), { code: "SQLITE_FULL" });
    return end(...args);
  };
  await expect(letGo(engine, { items: [id("a.txt")] })).rejects.toMatchObject({ code: "SQLITE_FULL" });
  expect(engine.ledger.entries.running()).toHaveLength(1);
  expect(await undo(engine, {})).toMatchObject({ refused: [], words: expect.stringMatching(/^Undone: Left c\.txt/) });
  expect(engine.ledger.entries.running()).toEqual([]);
  expect(changed()).toEqual([]);
});
