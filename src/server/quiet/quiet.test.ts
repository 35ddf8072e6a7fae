import { execFileSync, spawn } from "node:child_process";
import { once } from "node:events";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { onBehalfOf } from "../actor";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { itemsOn } from "../survey/items";
import { bringBack, hide, quiet, quietNow } from "./quiet";
import { Standing } from "./standing";
import { quietStatus } from "./status";

const began = Date.UTC(2026, 10, 26, 12);
let place: Place;
let engine: Engine;
let clock: ReturnType<typeof standingClock>;
const at = (...parts: string[]) => path.join(place.root, "Desktop", ...parts);
/** What a person sees on the desktop. */
const inSight = () =>
  fs
    .readdirSync(at())
    .filter((name) => !name.startsWith("."))
    .sort();
const id = (label: string) => itemNamed(engine, label).id;

/** Another program that has a file open for writing, until it was told what to write at its beginning. */
async function programWriting(file: string) {
  const child = spawn("sh", ["-c", 'exec 3<>"$1"; echo open; IFS= read -r text; printf %s "$text" >&3', "sh", file]);
  await once(child.stdout, "data");
  return {
    async write(text: string) {
      const ended = once(child, "exit");
      child.stdin.end(`${text}\n`);
      await ended;
    },
  };
}

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    for (const name of ["a.txt", "b.txt", "c.csv"]) {
      fs.writeFileSync(path.join(root, "Desktop", name), name);
      fs.utimesSync(path.join(root, "Desktop", name), 1.7e9, 1.7e9);
    }
    fs.writeFileSync(path.join(root, "Desktop/tool.desktop"), "[Desktop Entry]\nType=Application\nName=Tool\nExec=/bin/true\n");
  });
  clock = standingClock(began);
  engine = await place.open({ clock });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("how much is shown", () => {
  test("some kinds go, the others stay where they are, and all is exactly back", async () => {
    const before = place.tree();
    expect(await quiet(engine, { level: "some kinds", kinds: ["shortcut", "folder"] })).toMatchObject({ done: 2, refused: [] });
    expect(inSight()).toEqual(["a.txt", "b.txt", "c.csv"]);
    // Other kinds instead: only the difference is done.
    expect(await quiet(engine, { level: "some kinds", kinds: ["shortcut", "table"] })).toMatchObject({ done: 2 });
    expect(inSight()).toEqual(["a.txt", "b.txt", "folder"]);
    await expect(quiet(engine, { level: "some kinds", kinds: ["shortcut", "table"] })).rejects.toMatchObject({
      code: "already-quiet",
    });
    await quiet(engine, { level: "everything" });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("no kind is no answer to which kinds", async () => {
    await expect(quiet(engine, { level: "some kinds" })).rejects.toMatchObject({ code: "no-kind" });
    await expect(quiet(engine, { level: "some kinds", kinds: [] })).rejects.toMatchObject({ code: "no-kind" });
  });

  test("what stays on purpose remains; a trial moves nothing and says what would go", async () => {
    await stay(engine, { items: [id("a.txt")] });
    const trial = await quiet(engine, { level: "what stays", dryRun: true });
    expect(trial.steps?.filter(({ type }) => type === "move")).toHaveLength(4);
    expect(inSight()).toHaveLength(5);
    await quiet(engine, { level: "what stays" });
    expect(inSight()).toEqual(["a.txt"]);
  });
});

describe("one chosen thing", () => {
  test("goes out of sight and comes back, each for itself, and by undo", async () => {
    const before = place.tree();
    await hide(engine, { items: [id("a.txt")] });
    await hide(engine, { items: [id("c.csv"), id("folder")] });
    expect(inSight()).toEqual(["b.txt", "tool.desktop"]);
    expect(quietStatus(engine)).toMatchObject({ hidden: true, level: "everything", since: null, arrived: 0 });
    await bringBack(engine, { items: [{ path: btoa(at("c.csv")) }] });
    expect(inSight()).toEqual(["b.txt", "c.csv", "tool.desktop"]);
    await undo(engine, {});
    expect(inSight()).toEqual(["b.txt", "tool.desktop"]);
    await undo(engine, { entry: "all" });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("stays out of sight when all is taken away and brought back; everything brings it back too", async () => {
    await hide(engine, { items: [id("a.txt")] });
    await quiet(engine, { level: "toggle" });
    expect(inSight()).toEqual([]);
    await quiet(engine, { level: "toggle" });
    expect(inSight()).toEqual(["b.txt", "c.csv", "folder", "tool.desktop"]);
    // There is nothing that the last act could be undone to: what it brought back is back.
    await expect(undo(engine, {})).rejects.toMatchObject({ code: "undo-nothing" });
    await quiet(engine, { level: "everything" });
    expect(inSight()).toHaveLength(5);
  });

  test("is shown in spite of the level, and hidden again with the next one", async () => {
    await quiet(engine, { level: "bare" });
    await bringBack(engine, { items: [id("b.txt")] });
    expect(inSight()).toEqual(["b.txt"]);
    expect(quietNow(engine)).toMatchObject({ level: "bare", arrived: 0 });
    await hide(engine, { items: [id("b.txt")] });
    expect(inSight()).toEqual([]);
    await bringBack(engine, { items: [id("b.txt")] });
    await quiet(engine, { level: "what stays" });
    expect(inSight()).toEqual([]);
  });

  test("that is not on the desktop is refused by its name, and one twice is not done twice", async () => {
    await expect(hide(engine, { items: [{ path: btoa(path.join(place.root, "else.txt")) }] })).rejects.toMatchObject({
      code: "unknown-icon",
      message: expect.stringContaining("else.txt"),
    });
    await hide(engine, { items: [id("a.txt")] });
    await expect(hide(engine, { items: [id("a.txt")] })).rejects.toMatchObject({ code: "already-quiet" });
    await expect(bringBack(engine, { items: [id("b.txt")] })).rejects.toMatchObject({ code: "already-quiet" });
  });
});

describe("what a program has open", () => {
  test("stays in sight, is counted, and goes along where that is asked for", async () => {
    const program = await programWriting(at("b.txt"));
    try {
      expect((await quiet(engine, { level: "bare" })).refused).toMatchObject([{ name: "b.txt", code: "in-use" }]);
      expect(inSight()).toEqual(["b.txt"]);
      expect(quietStatus(engine)).toMatchObject({ hidden: true, inUse: 1 });
      expect(quietStatus(engine).outOfSight).toHaveLength(4);
      expect(await quiet(engine, { level: "bare", evenInUse: true })).toMatchObject({ refused: [] });
      expect(inSight()).toEqual([]);
      expect(quietStatus(engine)).toMatchObject({ inUse: 0 });
    } finally {
      // What is written through the program meanwhile is in the file that comes back.
      await program.write("new");
    }
    await engine.lookAgain();
    expect(await quiet(engine, { level: "everything" })).toMatchObject({ refused: [] });
    expect(fs.readFileSync(at("b.txt"), "utf8")).toBe("newxt");
  });
});

describe("what holds by itself", () => {
  const standing = () => new Standing(engine);
  const arrive = async (name: string, content = name) => {
    fs.writeFileSync(at(name), content);
    fs.utimesSync(at(name), 1.7e9, 1.7e9);
    await engine.lookAgain();
  };

  test("ends at its time, and not before; what was hidden by itself stays so", async () => {
    await hide(engine, { items: [id("a.txt")] });
    clock.pass(1000);
    await quiet(engine, { level: "bare", until: began + 3_600_000 });
    expect(quietStatus(engine)).toMatchObject({ until: new Date(began + 3_600_000).toISOString() });
    const holding = standing();
    clock.pass(3_590_000);
    await holding.tick();
    expect(inSight()).toEqual([]);
    clock.pass(20_000);
    await holding.tick();
    expect(inSight()).toEqual(["b.txt", "c.csv", "folder", "tool.desktop"]);
    expect(quietStatus(engine)).toMatchObject({ level: "everything", until: null });
    // Nobody pressed anything: undo neither takes it back, nor what it ended.
    expect(engine.ledger.latest()).toBeUndefined();
    await holding.tick();
    expect(inSight()).toHaveLength(4);
  });

  test("ends though nobody was there at its time, and only once", async () => {
    await quiet(engine, { level: "bare", until: began + 1000 });
    await engine.close();
    clock.pass(86_400_000);
    engine = await place.open({ clock });
    await standing().tick();
    expect(inSight()).toHaveLength(5);
    // What the person does after that holds.
    await quiet(engine, { level: "bare" });
    await standing().tick();
    expect(inSight()).toEqual([]);
  });

  test("a clock that was set back ends nothing, and that is said", async () => {
    await quiet(engine, { level: "bare", until: began + 1000 });
    await engine.close();
    engine = await place.open({ clock: standingClock(began - 86_400_000) });
    await standing().tick();
    expect(inSight()).toEqual([]);
    expect(quietNow(engine)).toMatchObject({ doubt: true });
  });

  test("a time that is past is refused", async () => {
    await expect(quiet(engine, { level: "bare", until: began - 1 })).rejects.toMatchObject({ code: "bad-words" });
    expect(inSight()).toHaveLength(5);
  });

  test("what arrives is counted, and left in sight where nobody said otherwise", async () => {
    await quiet(engine, { level: "bare" });
    clock.pass(1000);
    await arrive("new.txt");
    await standing().tick();
    expect(inSight()).toEqual(["new.txt"]);
    expect(quietStatus(engine)).toMatchObject({ arrived: 1 });
    // Nor is it taken along with a single thing that is shown, and hidden again.
    await bringBack(engine, { items: [id("a.txt")] });
    await hide(engine, { items: [id("a.txt")] });
    expect(inSight()).toEqual(["new.txt"]);
    expect(quietStatus(engine)).toMatchObject({ arrived: 1, inUse: 0 });
  });

  test("what arrives is taken along where that was said; a download once it is finished; what is in use when it no longer is", async () => {
    await quiet(engine, { level: "bare", along: true });
    clock.pass(1000);
    const holding = standing();
    for (let n = 0; n < 100; n++) fs.writeFileSync(at(`new-${n}.txt`), `${n}`);
    await arrive("film.mp4.part");
    await arrive("open.txt");
    for (let n = 0; n < 100; n++) fs.utimesSync(at(`new-${n}.txt`), 1.7e9, 1.7e9);
    await engine.lookAgain();
    const program = await programWriting(at("open.txt"));
    await holding.tick();
    expect(inSight()).toEqual(["film.mp4.part", "open.txt"]);
    await program.write("");
    fs.renameSync(at("film.mp4.part"), at("film.mp4"));
    await engine.lookAgain();
    await holding.tick();
    expect(inSight()).toEqual([]);
    const before = engine.ledger.entries.last()!.id;
    await holding.tick();
    expect(engine.ledger.entries.last()!.id).toBe(before);
    await quiet(engine, { level: "everything" });
    expect(inSight()).toHaveLength(107);
  });

  test("of kinds, only what is of these is taken along", async () => {
    await quiet(engine, { level: "some kinds", kinds: ["table"], along: true });
    clock.pass(1000);
    await arrive("new.csv", "a,b\n1,2\n");
    await arrive("new.txt");
    await standing().tick();
    expect(inSight()).toEqual(["a.txt", "b.txt", "folder", "new.txt", "tool.desktop"]);
    expect(quietStatus(engine)).toMatchObject({ arrived: 0 });
  });

  test("undo never takes back what was done by itself alone", async () => {
    const before = place.tree();
    const given = await hide(engine, { items: [id("a.txt")] });
    await onBehalfOf("timetable", () => hide(engine, { items: [id("b.txt")] }));
    expect(engine.ledger.latest()?.id).toBe(given.entry);
    // With what was given goes what was done by itself since.
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
    await expect(undo(engine, {})).rejects.toMatchObject({ code: "undo-nothing" });
  });
});

describe("what happens to things while they are out of sight", () => {
  const away = (...parts: string[]) => at(".out-of-sight", ...parts);
  const lying = () =>
    itemsOn(engine.db, "desktop")
      .map(({ label }) => label)
      .sort();
  beforeEach(() => quiet(engine, { level: "bare" }));

  test("changed, renamed, deleted and replaced: everything that is there comes back, under the name it has", async () => {
    fs.writeFileSync(away("a.txt"), "changed");
    fs.renameSync(away("b.txt"), away("b renamed.txt"));
    fs.rmSync(away("c.csv"));
    fs.rmSync(away("tool.desktop"));
    fs.writeFileSync(away("tool.desktop"), "another");
    await engine.lookAgain();
    const report = await quiet(engine, { level: "everything" });
    expect(report.refused).toEqual([]);
    expect(inSight()).toEqual(["a.txt", "b renamed.txt", "folder", "tool.desktop"]);
    expect(fs.readFileSync(at("a.txt"), "utf8")).toBe("changed");
    expect(fs.readFileSync(at("tool.desktop"), "utf8")).toBe("another");
  });

  test("brought back by hand, as the page says: nothing is out of sight any more, and the next time works", async () => {
    for (const name of fs.readdirSync(away())) if (!name.startsWith("HOW-TO")) fs.renameSync(away(name), at(name));
    await engine.lookAgain();
    expect(quietStatus(engine).outOfSight).toEqual([]);
    expect(lying()).toHaveLength(5);
    await quiet(engine, { level: "everything" });
    await quiet(engine, { level: "bare" });
    expect(inSight()).toEqual([]);
    await quiet(engine, { level: "everything" });
    expect(inSight()).toHaveLength(5);
  });

  test("their folder deleted or moved away: that is told by what lies there, and nothing is made up", async () => {
    const lain = lying();
    fs.renameSync(away(), path.join(place.root, "elsewhere"));
    await engine.lookAgain();
    expect(quietStatus(engine)).toMatchObject({ outOfSight: [] });
    // What cannot be found is said, by name and place.
    expect(quietStatus(engine).gone.map(({ path: lay }) => path.basename(lay))).toEqual(lain);
    await quiet(engine, { level: "everything" });
    expect(quietStatus(engine).gone).toEqual([]);
    expect(inSight()).toEqual([]);
    expect(fs.readdirSync(path.join(place.root, "elsewhere"))).toHaveLength(6);
  });

  test("their folder moved to another disk, a link in its place: nothing is followed there, and what went is said", async () => {
    const far = fs.mkdtempSync("/dev/shm/vuoto-tucked-");
    try {
      execFileSync("mv", [away(), far]);
      fs.symlinkSync(path.join(far, ".out-of-sight"), away());
      await engine.lookAgain();
      expect(quietStatus(engine)).toMatchObject({ outOfSight: [] });
      expect(quietStatus(engine).gone).toHaveLength(5);
      const inFar = fs.readdirSync(path.join(far, ".out-of-sight")).sort();
      await quiet(engine, { level: "everything" });
      fs.writeFileSync(at("late.txt"), "late");
      await engine.lookAgain();
      const report = await quiet(engine, { level: "bare" }).catch((error: unknown) => error);
      expect(fs.readFileSync(at("late.txt"), "utf8")).toBe("late");
      expect(JSON.stringify(report)).toMatch(/link/);
      expect(fs.readdirSync(path.join(far, ".out-of-sight")).sort()).toEqual(inFar);
    } finally {
      fs.rmSync(far, { recursive: true });
    }
  });

  test("what Vuoto itself put away meanwhile is not said to be gone", async () => {
    await letGo(engine, { items: [itemNamed(engine, "a.txt").id] });
    await engine.lookAgain();
    expect(quietStatus(engine).gone).toEqual([]);
  });

  test("hundreds that arrive while it changes: each lies in one place, and all come back", async () => {
    await quiet(engine, { level: "everything" });
    for (let n = 0; n < 300; n++) fs.writeFileSync(at(`old-${n}.txt`), `${n}`);
    for (let n = 0; n < 300; n++) fs.utimesSync(at(`old-${n}.txt`), 1.7e9, 1.7e9);
    await engine.lookAgain();
    let arrived = 0;
    const arriving = setInterval(() => {
      for (let n = 0; n < 10; n++) fs.writeFileSync(at(`new-${arrived++}.txt`), "new");
    }, 1);
    await quiet(engine, { level: "bare" });
    await engine.lookAgain();
    await quiet(engine, { level: "toggle" });
    clearInterval(arriving);
    await engine.lookAgain();
    const seen = inSight();
    expect(arrived).toBeGreaterThan(0);
    expect(new Set(seen).size).toBe(seen.length);
    expect(seen).toHaveLength(5 + 300 + arrived);
    expect(fs.existsSync(away())).toBe(false);
  });
});
