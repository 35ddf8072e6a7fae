import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { makeDrives, plug } from "@/standins/drive/drives";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { archive } from "../sitting/archive";
import { endProject } from "../sitting/projects";
import { stay } from "../sitting/stay";
import { sittingView } from "../sitting/view";
import { addDepot } from "./add";
import { browse, find } from "./browse";
import { check, checkDepot } from "./check";
import { deleteParcel } from "./delete";
import { collectedIn, parcels } from "./depots";
import { fitParcels } from "./fit";
import { findParcels } from "./found";
import { collectFromHome } from "./from-home";
import { listDepots, listParcels, showParcel } from "./list";
import { moveThings, renameParcel } from "./parcels";
import { listProposals, propose } from "./propose";
import { removeDepot } from "./remove";
import { restoreParcel } from "./restore";
import { cancelSending, send } from "./send";
import { checkInTurn, dueInTurn, setChecks } from "./turns";
import { depotsView } from "./view";

let place: Place;
let engine: Engine;
let before: ReturnType<Place["tree"]>;
const disk = (...parts: string[]) => path.join(place.folder, "disk", ...parts);
const at = (...parts: string[]) => path.join(place.root, ...parts);
const untouched = () =>
  differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line) && !/Trash/.test(line));
const day = 86_400_000;
/** What is shown before a parcel is deleted. */
const shown = async (of: Engine, parcel: string) => (await deleteParcel(of, { parcel, dryRun: true })).seen;

beforeEach(async () => {
  place = makePlace((root) => {
    makeRandomAccount(root, 31, 6);
    fs.mkdirSync(path.join(root, "Bureau/paper/tables"), { recursive: true });
    for (const name of ["draft.txt", "tables/one.csv", "tables/two.csv"])
      fs.writeFileSync(path.join(root, "Bureau/paper", name), `content of ${name}`);
    fs.symlinkSync("tables/one.csv", path.join(root, "Bureau/paper/latest"));
  });
  fs.mkdirSync(disk());
  engine = await place.open();
  await addDepot(engine, { location: disk(), title: "Disk" });
  before = place.tree();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const collect = (parcel: string, items = idsOn(engine)) => archive(engine, { items, parcel });
const collected = (title: string) => collectedIn(engine, parcels(engine).find((parcel) => parcel.title === title)!.id).length;

describe("parcels that are collected", () => {
  test("one that was filled from a project takes nothing else without being told to", async () => {
    const [first, second, third] = idsOn(engine);
    await stay(engine, { items: [first!], project: "Season" });
    await endProject(engine, { project: "Season", archive: true });
    expect(await sittingView(engine)).toMatchObject({ around: { parcel: null, parcels: ["Season"] } });
    await archive(engine, { items: [second!] });
    const usual = `Archive ${new Date(engine.now()).getFullYear()}`;
    expect(await sittingView(engine)).toMatchObject({ around: { parcel: usual, parcels: [usual, "Season"] } });
    await archive(engine, { items: [third!], parcel: "Season" });
    expect(collectedIn(engine, parcels(engine).find(({ title }) => title === "Season")!.id)).toHaveLength(2);
    expect(await sittingView(engine)).toMatchObject({ around: { parcel: usual } });
  });

  test("are several at once; things go from one to another, out of all, and all of that is undone", async () => {
    const [a, b, c, ...rest] = idsOn(engine);
    await collect("One", [a!, b!]);
    await collect("Two", [c!]);
    expect(await moveThings(engine, { items: [a!], parcel: "Two" })).toMatchObject({ done: 1, refused: [] });
    expect([collected("One"), collected("Two")]).toEqual([1, 2]);
    expect(await moveThings(engine, { items: [a!, rest[0]!], parcel: "New one" })).toMatchObject({
      refused: [{ item: rest[0], code: "not-collected" }],
    });
    expect([collected("Two"), collected("New one")]).toEqual([1, 1]);
    expect(await moveThings(engine, { items: [a!, b!, c!] })).toMatchObject({
      done: 3,
      words: "Took 3 things out of their parcel",
    });
    expect(listParcels(engine).map(({ things }) => things)).toEqual([0, 0, 0]);
    for (let n = 0; n < 3; n++) await undo(engine, {});
    expect([collected("One"), collected("Two")]).toEqual([2, 1]);
    expect(untouched()).toEqual([]);
  });

  test("are renamed, and two of one name there are not", async () => {
    const [a, b] = idsOn(engine);
    await collect("One", [a!]);
    await collect("Two", [b!]);
    await expect(renameParcel(engine, { parcel: "One", title: "Two" })).rejects.toMatchObject({ code: "name-taken" });
    await renameParcel(engine, { parcel: "One", title: "Season 12" });
    expect(collected("Season 12")).toBe(1);
    await undo(engine, {});
    expect(collected("One")).toBe(1);
  });

  test("take no more while they are on their way: what is collected then goes into another of that name", async () => {
    const [a, b] = idsOn(engine);
    await collect("One", [a!]);
    const sending = send(engine, { parcel: "One", depot: "Disk" });
    await new Promise((next) => setTimeout(next, 1));
    if (listParcels(engine)[0]!.state === "sending") {
      await collect("One", [b!]);
      expect(listParcels(engine).map(({ title }) => title)).toContain("One (2)");
      await expect(removeDepot(engine, { depot: "Disk" })).rejects.toMatchObject({ code: "on-its-way" });
    }
    expect(await sending).toMatchObject({ done: 1, refused: [] });
  });

  test("are proposed by year, as an ended project, and as untouched, with exceptions", async () => {
    const items = idsOn(engine);
    const old = Date.UTC(2020, 5, 1) / 1000;
    for (const name of fs.readdirSync(at("Bureau"))) fs.lutimesSync(at("Bureau", name), old, old);
    await engine.lookAgain();
    await stay(engine, { items: [itemNamed(engine, "paper").id], project: "Paper" });
    await endProject(engine, { project: "Paper" });
    const found = listProposals(engine);
    expect(found.map(({ kind, title, things }) => [kind, title, things.length])).toEqual([
      ["project", "Paper", 1],
      ["year", "Left from 2020", items.length - 1],
    ]);
    const [first] = found[1]!.things;
    await propose(engine, { proposal: found[1]!.id, except: [first!.id] });
    expect(collected("Left from 2020")).toBe(items.length - 2);
    await expect(propose(engine, { proposal: "nothing" })).rejects.toMatchObject({ code: "unknown-proposal" });
  });

  test("are fitted into what is free, and cut where nothing takes them whole", async () => {
    const cloud = await openCloud(path.join(place.folder, "cloud"), { settings: { quota: 1_000_000 } });
    try {
      await removeDepot(engine, { depot: "Disk" });
      const { user, password } = cloud.settings;
      await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
      fs.writeFileSync(at("Bureau/large.bin"), Buffer.alloc(900_000, 1));
      fs.writeFileSync(at("Bureau/huge.bin"), Buffer.alloc(2_000_000, 1));
      for (const name of ["large.bin", "huge.bin"]) fs.utimesSync(at("Bureau", name), 1, 1);
      await engine.lookAgain();
      await collect("Small", [itemNamed(engine, "paper").id]);
      await collect("Big", [itemNamed(engine, "large.bin").id, itemNamed(engine, "huge.bin").id]);
      const { parcels: fitted } = await fitParcels(engine);
      expect(fitted.find(({ title }) => title === "Small")).toMatchObject({ depot: "Cloud", parts: [] });
      expect(fitted.find(({ title }) => title === "Big")).toMatchObject({
        depot: null,
        parts: [{ depot: "Cloud", things: 1, bytes: 900_000 }],
        tooLarge: [{ name: "huge.bin" }],
      });
    } finally {
      await cloud.close();
    }
  });
});

test("what lies in a home, or did before a day, goes into a parcel, is let go there, and comes back to it", async () => {
  const home = at("Papers/Reports");
  fs.mkdirSync(path.join(home, "2019"), { recursive: true });
  for (const [name, year] of [
    ["old.txt", 2019],
    ["older.txt", 2015],
    ["new.txt", 2026],
    ["2019/inside.txt", 2019],
  ] as const) {
    fs.writeFileSync(path.join(home, name), `content of ${name}`);
    const time = Date.UTC(year, 3, 1) / 1000;
    fs.utimesSync(path.join(home, name), time, time);
  }
  await engine.lookAgain("all");
  before = place.tree();
  const ref = { folder: btoa(home) };
  const day = Date.UTC(2024, 0, 1);
  const trial = await collectFromHome(engine, { home: ref, before: day, parcel: "Old reports", dryRun: true });
  expect(trial.words).toContain("Collected 2 things from the home");
  await collectFromHome(engine, { home: ref, before: day, parcel: "Old reports" });
  expect(collected("Old reports")).toBe(2);
  expect(untouched()).toEqual([]);
  expect(await send(engine, { parcel: "Old reports", depot: "Disk" })).toMatchObject({ done: 2, refused: [] });
  expect(fs.readdirSync(home).sort()).toEqual(["2019", "new.txt"]);
  await emptyAll(engine);
  expect(await restoreParcel(engine, { parcel: "Old reports" })).toMatchObject({ done: 2, refused: [] });
  expect(untouched()).toEqual([]);
  await expect(collectFromHome(engine, { home: { title: "Papers / Nowhere" } })).rejects.toMatchObject({ code: "unknown-home" });
  await expect(collectFromHome(engine, { home: ref, before: 1 })).rejects.toMatchObject({ code: "parcel-empty" });
});

describe("a parcel that was sent", () => {
  beforeEach(async () => {
    await collect("Season 12");
    await send(engine, { parcel: "Season 12", depot: "Disk" });
  });

  test("is looked into as a tree, by what is remembered while its depot is away, and found by names", async () => {
    const top = await browse(engine, { parcel: "Season 12" });
    expect(top.entries[0]).toMatchObject({ name: "paper", type: "folder", files: 3, from: at("Bureau") });
    fs.renameSync(disk(), disk("../away"));
    const inside = await browse(engine, { parcel: "Season 12", folder: "paper" });
    expect(inside).toMatchObject({ fromRecord: true });
    expect(inside.entries.map(({ name, type }) => [name, type])).toEqual([
      ["tables", "folder"],
      ["draft.txt", "file"],
      ["latest", "link"],
    ]);
    await expect(browse(engine, { parcel: "Season 12", folder: "none" })).rejects.toMatchObject({ code: "vanished" });
    expect((await find(engine, { words: "TWO paper" })).found).toMatchObject([{ path: "paper/tables/two.csv", near: false }]);
    expect((await showParcel(engine, { parcel: "Season 12" })).contents).toHaveLength(7);
    fs.renameSync(disk("../away"), disk());
    expect((await find(engine, { words: "two.csv" })).found).toMatchObject([{ near: true }]);
    expect((await find(engine, { words: "nothing like it" })).found).toEqual([]);
  });

  test("gives back one file, several or a folder, to where they lay or into a new folder", async () => {
    await emptyAll(engine);
    const names = ["paper/tables/one.csv", "paper/latest", "no such thing"];
    const report = await restoreParcel(engine, { parcel: "Season 12", names });
    expect(report).toMatchObject({ done: 2, refused: [{ name: "no such thing", code: "not-in-parcel" }] });
    expect(fs.readFileSync(at("Bureau/paper/latest"), "utf8")).toBe("content of tables/one.csv");
    expect(fs.readdirSync(at("Bureau/paper")).sort()).toEqual(["latest", "tables"]);
    const into = at("Papers/back");
    await restoreParcel(engine, { parcel: "Season 12", names: ["paper/tables", "paper/tables/one.csv"], into });
    expect(fs.readdirSync(path.join(into, "tables")).sort()).toEqual(["one.csv", "two.csv"]);
    await restoreParcel(engine, { parcel: "Season 12", names: ["paper/tables/one.csv"] });
    // What lies there keeps its name.
    expect(fs.readdirSync(at("Bureau/paper/tables")).sort()).toEqual(["one (2).csv", "one.csv"]);
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    expect(untouched()).toEqual([]);
  });

  test("that is damaged is named with what is damaged, and where the same content still lies", async () => {
    await undo(engine, {});
    await engine.lookAgain("all");
    await collect("Again", [itemNamed(engine, "paper").id]);
    fs.mkdirSync(disk("../second"));
    await addDepot(engine, { location: disk("../second"), title: "Second" });
    await send(engine, { parcel: "Again", depot: "Second" });
    fs.writeFileSync(disk("Season 12/data/paper/draft.txt"), "other");
    const answer = await check(engine, { parcel: "Season 12" });
    expect(answer).toMatchObject({
      whole: false,
      damaged: ["data/paper/draft.txt"],
      elsewhere: [{ path: "data/paper/draft.txt", place: "the parcel “Again”" }],
    });
    expect(listParcels(engine).find(({ title }) => title === "Season 12")).toMatchObject({ state: "damaged", provenAt: null });
    expect((await depotsView(engine)).sent.find(({ title }) => title === "Season 12")).toMatchObject({
      damaged: ["data/paper/draft.txt"],
    });
    fs.writeFileSync(disk("Season 12/data/paper/draft.txt"), "content of draft.txt");
    expect(await checkDepot(engine, { depot: "Disk" })).toMatchObject([{ whole: true }]);
    expect(listParcels(engine).find(({ title }) => title === "Season 12")).toMatchObject({ state: "sent" });
  });

  test("is deleted for good, once that was tried and asked; its originals still come back from the trash", async () => {
    const trial = await deleteParcel(engine, { parcel: "Season 12", dryRun: true });
    expect(trial.nowhereElse.files + trial.notKnown.files).toBe(0);
    expect(trial.inTrash.files).toBeGreaterThan(0);
    expect(fs.existsSync(disk("Season 12"))).toBe(true);
    const { seen } = trial;
    // Of which nobody said that it may be lost.
    await expect(deleteParcel(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "copy-gone" });
    const another = seen.replace(/^\d+/, (files) => `${Number(files) + 1}`);
    await expect(deleteParcel(engine, { parcel: "Season 12", seen: another })).rejects.toMatchObject({ code: "changed" });
    fs.mkdirSync(disk("mine"));
    fs.writeFileSync(disk("mine/kept"), "kept");
    expect(await deleteParcel(engine, { parcel: "Season 12", seen })).toMatchObject({ done: 1, refused: [] });
    expect(fs.readdirSync(disk())).toEqual(["mine"]);
    expect(listParcels(engine)).toEqual([]);
    const last = engine.ledger.entries.last()!.id;
    await expect(undo(engine, { entry: last })).rejects.toMatchObject({ code: "parcel-deleted" });
    await undo(engine, { entry: last - 1 });
    expect(untouched()).toEqual([]);
  });

  test("of which another was put in its place, or that is gone, is not deleted", async () => {
    const seen = await shown(engine, "Season 12");
    const { perform } = engine.ledger;
    engine.ledger.perform = async (makePlan, options) => {
      const plan = await makePlan();
      // Between what was shown and the act.
      fs.appendFileSync(disk("Season 12/tagmanifest-sha256.txt"), "\n");
      engine.ledger.perform = perform;
      return perform.call(engine.ledger, () => plan, options);
    };
    expect(await deleteParcel(engine, { parcel: "Season 12", seen })).toMatchObject({ done: 0, refused: [{ code: "changed" }] });
    expect(fs.existsSync(disk("Season 12/data/paper/draft.txt"))).toBe(true);
    fs.rmSync(disk("Season 12"), { recursive: true });
    await expect(deleteParcel(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "parcel-damaged" });
  });

  test("is found by another Vuoto that is given its depot, looked into, checked, and restored into a new folder alone", async () => {
    const other = makePlace((root) => void makeRandomAccount(root, 5, 2));
    const theirs = await other.open();
    try {
      fs.mkdirSync(disk("Other bag/data/in"), { recursive: true });
      fs.writeFileSync(disk("Other bag/data/in/plain.txt"), "plain");
      fs.writeFileSync(disk("Other bag/bagit.txt"), "BagIt-Version: 0.97\nTag-File-Character-Encoding: UTF-8\n");
      const sum = execFileSync("sha256sum", ["data/in/plain.txt"], { cwd: disk("Other bag"), encoding: "utf8" });
      fs.writeFileSync(disk("Other bag/manifest-sha256.txt"), sum);
      await addDepot(theirs, { location: disk(), title: "Theirs" });
      fs.mkdirSync(disk("a folder of mine"));
      await findParcels(theirs);
      expect(
        listParcels(theirs)
          .map(({ title, things, files }) => [title, things, files])
          .sort(),
      ).toEqual([
        ["Other bag", 1, 1],
        ["Season 12", 7, listParcels(engine)[0]!.files],
      ]);
      expect((await find(theirs, { words: "plain" })).found).toMatchObject([{ title: "Other bag", path: "in/plain.txt" }]);
      expect(await check(theirs, { parcel: "Other bag" })).toMatchObject({ whole: true, files: 1 });
      await expect(restoreParcel(theirs, { parcel: "Season 12", programs: true })).rejects.toMatchObject({
        code: "parcel-stranger",
      });
      const into = path.join(other.root, "Papers/back");
      await restoreParcel(theirs, { parcel: "Other bag", names: ["in/plain.txt"], into });
      expect(fs.readFileSync(path.join(into, "plain.txt"), "utf8")).toBe("plain");
      await deleteParcel(theirs, { parcel: "Season 12", seen: await shown(theirs, "Season 12") });
      expect(fs.existsSync(disk("Season 12"))).toBe(false);
      expect(listParcels(theirs).map(({ title }) => title)).toEqual(["Other bag"]);
      // What is gone from there is known no longer.
      fs.rmSync(disk("Other bag"), { recursive: true });
      await findParcels(theirs);
      expect(listParcels(theirs)).toEqual([]);
    } finally {
      await theirs.close();
      other.remove();
    }
  });
});

test("a cloud is tried before it is kept, and a trial of that writes nothing there and keeps no sign-in", async () => {
  const cloud = await openCloud(path.join(place.folder, "cloud"));
  try {
    const { user, password } = cloud.settings;
    const add = (more: object) => addDepot(engine, { location: cloud.url, title: "Cloud", user, password, ...more });
    await add({ dryRun: true });
    expect([...cloud.counts.keys()]).toEqual(["PROPFIND"]);
    const kept = path.join(place.data, "sign-ins.json");
    await expect(add({ title: "Disk" })).rejects.toMatchObject({ code: "depot-unsuitable" });
    await expect(add({ user: undefined })).rejects.toMatchObject({ code: "sign-in-needed" });
    await expect(add({ password: "wrong" })).rejects.toMatchObject({ code: "sign-in-refused" });
    await expect(add({ location: "http://example.test/" })).rejects.toMatchObject({ code: "depot-unsuitable" });
    await expect(add({ location: cloud.url.replace("//", "//a:secret@") })).rejects.toMatchObject({
      message: expect.not.stringContaining("secret"),
    });
    expect(fs.existsSync(kept)).toBe(false);
    await add({});
    expect(fs.existsSync(kept)).toBe(true);
    expect(fs.readdirSync(path.join(place.folder, "cloud"))).toEqual([]);
  } finally {
    await cloud.close();
  }
});

describe("checks in turn", () => {
  test("read the parcel that was not read for longest; a cloud only where that was said, within its bound", async () => {
    await engine.close();
    const clock = standingClock(Date.parse("2026-11-27T12:00:00Z"));
    const cloud: Cloud = await openCloud(path.join(place.folder, "cloud"));
    engine = await place.open({ clock });
    try {
      const { user, password } = cloud.settings;
      await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
      const [a, b] = idsOn(engine);
      await collect("On disk", [a!]);
      await send(engine, { parcel: "On disk", depot: "Disk" });
      await collect("In the cloud", [b!]);
      await send(engine, { parcel: "In the cloud", depot: "Cloud" });
      const due = () => dueInTurn(engine).map(({ title }) => title);
      expect(due()).toEqual([]);
      clock.pass(91 * day);
      expect(due()).toEqual(["On disk"]);
      await checkInTurn(engine);
      expect(due()).toEqual([]);
      await setChecks(engine, { depot: "Cloud", on: true, bytesAMonth: 1 });
      const { bytes } = listParcels(engine).find(({ title }) => title === "In the cloud")!;
      if ((bytes ?? 0) > 1) expect(due()).toEqual([]);
      await setChecks(engine, { depot: "Cloud", on: true, bytesAMonth: 10_000_000 });
      expect(due()).toEqual(["In the cloud"]);
      // One that is away waits until it is there, and keeps nobody else waiting.
      clock.pass(91 * day);
      cloud.set({ down: true });
      expect(due()).toEqual(["In the cloud", "On disk"]);
      await checkInTurn(engine);
      expect(due()).toEqual(["In the cloud"]);
      cloud.set({ down: false });
      await checkInTurn(engine);
      expect(due()).toEqual([]);
      clock.pass(91 * day);
      await setChecks(engine, { depot: "Cloud", on: false });
      expect(due()).toEqual(["On disk"]);
    } finally {
      await cloud.close();
    }
  });
});

describe("a drive", () => {
  let base: string;
  beforeEach(async () => {
    await engine.close();
    base = place.folder;
    makeDrives(base);
    fs.writeFileSync(path.join(place.data, "sample"), "");
    engine = await place.open();
    await addDepot(engine, { location: path.join(base, "station-drives/plugged in/station drive") });
  });
  const onDrive = (...parts: string[]) => path.join(base, "station-drives/plugged in/station drive", ...parts);

  test("is known by our file on it, is away when it is pulled out, and takes what lay beside", async () => {
    fs.writeFileSync(onDrive("holiday.txt"), "mine");
    expect(fs.readFileSync(onDrive(".vuoto-depot.json"), "utf8")).toMatch(/^\{"depot":"[0-9a-f-]{36}"\}\n$/);
    await collect("Season 12");
    await send(engine, { parcel: "Season 12", depot: "station drive" });
    expect(fs.readdirSync(onDrive()).sort()).toEqual([".vuoto-depot.json", "Season 12", "holiday.txt"]);
    plug(base, "station drive", false);
    expect((await listDepots(engine)).find(({ title }) => title === "station drive")).toMatchObject({
      kind: "drive",
      state: "away",
      parcels: 1,
    });
    await expect(check(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "depot-gone" });
    plug(base, "station drive", true);
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
    expect((await depotsView(engine)).depots.find(({ title }) => title === "station drive")).toMatchObject({ standIn: true });
  });

  test("pulled out in the middle is gone on with when it is there again; nothing is written where it was mounted", async () => {
    await collect("Season 12");
    const { carrier } = engine;
    let pulled = false;
    engine.carrier = () => {
      const link = carrier();
      return {
        ...link,
        carry: async (name, input, pace) => {
          if (name === "pack" && !pulled) {
            pulled = true;
            plug(base, "station drive", false);
            fs.mkdirSync(onDrive());
          }
          return link.carry(name, input, pace);
        },
      };
    };
    await expect(send(engine, { parcel: "Season 12", depot: "station drive" })).rejects.toMatchObject({ code: "depot-gone" });
    expect(pulled).toBe(true);
    expect(fs.readdirSync(onDrive())).toEqual([]);
    expect(untouched()).toEqual([]);
    fs.rmdirSync(onDrive());
    plug(base, "station drive", true);
    expect(await send(engine, { parcel: "Season 12" })).toMatchObject({ refused: [] });
    execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: onDrive("Season 12") });
    expect(fs.readdirSync(onDrive()).sort()).toEqual([".vuoto-depot.json", "Season 12"]);
  });

  test("that is full says so, and what was sent of it goes again", async () => {
    fs.writeFileSync(at("Bureau/large.bin"), Buffer.alloc(1_000_000, 1));
    fs.utimesSync(at("Bureau/large.bin"), 1, 1);
    fs.writeFileSync(onDrive("filler"), Buffer.alloc(1000));
    fs.truncateSync(onDrive("filler"), 399_500_000);
    await engine.lookAgain();
    await collect("Large", [itemNamed(engine, "large.bin").id]);
    await expect(send(engine, { parcel: "Large", depot: "station drive" })).rejects.toMatchObject({ code: "no-space" });
    expect(listParcels(engine)[0]).toMatchObject({ state: "failed" });
    await cancelSending(engine, { parcel: "Large" });
    expect(fs.readdirSync(onDrive()).sort()).toEqual([".vuoto-depot.json", "filler"]);
  });

  test("another one with the same mark is asked about before anything is written", async () => {
    plug(base, "field card", true);
    const card = path.join(base, "station-drives/plugged in/field card");
    fs.copyFileSync(onDrive(".vuoto-depot.json"), path.join(card, ".vuoto-depot.json"));
    await expect(addDepot(engine, { location: card })).rejects.toMatchObject({ code: "asks-drive" });
    plug(base, "station drive", false);
    await collect("Season 12");
    await expect(send(engine, { parcel: "Season 12", depot: "station drive" })).rejects.toMatchObject({ code: "depot-gone" });
    expect(fs.readdirSync(card)).toEqual([".vuoto-depot.json"]);
    await addDepot(engine, { location: card, replace: true });
    expect(await send(engine, { parcel: "Season 12", depot: "station drive" })).toMatchObject({ refused: [] });
    expect(fs.existsSync(path.join(card, "Season 12"))).toBe(true);
  });
});
