import fs from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { ReportJson } from "@/contract/items";
import { Problem } from "@/core/problem";
import { standingClock } from "../../../fixtures/clock";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { faultyCalls } from "../../../fixtures/faulty-calls";
import { readRecord, readScreen } from "../db/record";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { undo } from "../ledger/undo";
import { useScreen } from "../screen/use";
import { letGo } from "../sitting/let-go";
import { type Item, itemsOn } from "../survey/items";
import { addOccasion, changeOccasion, occasionsNow } from "./occasions";
import { bringBack, hide, quiet } from "./quiet";
import { Standing } from "./standing";
import { quietStatus, shownNow } from "./status";
import { quietView } from "./view";

const screens = ["tucked away", "listed", "simulated"] as const;
const began = Date.UTC(2026, 10, 26, 12);
const lock = ".~lock.report.odt#";
let place: Place;
let engine: Engine;
let clock: ReturnType<typeof standingClock>;
const at = (...parts: string[]) => path.join(place.root, "Desktop", ...parts);
const page = "HOW-TO-BRING-THEM-BACK.txt";
const list = (folder: string) => (fs.existsSync(folder) ? fs.readdirSync(folder) : []);
/** What lies in the folder for what is out of sight, and what is listed by name: looked at, as a stranger would. */
const tucked = () =>
  list(at(".out-of-sight"))
    // A lock file is a thing too, as it says that another is in use; else a dot hides anywhere.
    // Where its document took another name, so did it.
    .filter((name) => name !== page && (/^\.~lock\.report.*\.odt#$/.test(name) || !name.startsWith(".")))
    .sort();
const inFolder = () =>
  list(at())
    .filter((name) => !name.startsWith("."))
    .sort();

function fill(root: string): void {
  fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
  for (const name of ["notes.txt", "report.odt", "c.csv"]) fs.writeFileSync(path.join(root, "Desktop", name), name);
}

beforeEach(async () => {
  place = makePlace(fill);
  clock = standingClock(began);
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

/** Every statement about what is out of sight, each from its own place. */
function claims() {
  const status = quietStatus(engine);
  const frame = frameView(engine);
  return {
    status: status.outOfSight.map(({ name }) => name).sort(),
    hidden: status.hidden,
    foot: frame.outOfSight,
    course: frame.counts.quiet,
    view: quietView(engine)
      .sheet?.tiles.filter(({ outOfSight }) => outOfSight)
      .map(({ name }) => name)
      .sort(),
    shown: shownNow(engine).outOfSight,
  };
}

describe("what was taken comes back", () => {
  test("in use or not: by off, by the key, alone, and by undo; the page with the way back stays while anything lies there", async () => {
    for (const back of [
      () => quiet(engine, { level: "everything" }),
      () => quiet(engine, { level: "toggle" }),
      () => bringBack(engine, { items: [itemNamed(engine, "report.odt").id] }),
      () => undo(engine, {}),
    ]) {
      engine = await place.open({ clock });
      // A lock file of long ago: nobody has it open, and its document counts as in use.
      fs.writeFileSync(at(lock), ",station,station,26.11.2026 11:00,file:///;");
      await engine.lookAgain("all");
      await expect(quiet(engine, { level: "bare" })).resolves.toMatchObject({
        done: 3,
        refused: [
          { name: lock, code: "in-use" },
          { name: "report.odt", code: "in-use" },
        ],
      });
      await quiet(engine, { level: "everything" });
      await quiet(engine, { level: "bare", evenInUse: true });
      expect(inFolder()).toEqual([]);
      expect(list(at(".out-of-sight"))).toContain(page);
      expect(await back()).toMatchObject({ refused: [] });
      expect(inFolder()).toContain("report.odt");
      if (tucked().length > 0) {
        expect(list(at(".out-of-sight"))).toContain(page);
        await quiet(engine, { level: "everything" });
      }
      expect(inFolder()).toEqual(["c.csv", "folder", "notes.txt", "report.odt"]);
      expect(fs.existsSync(at(".out-of-sight"))).toBe(false);
      await engine.close();
      place.remove();
      place = makePlace(fill);
    }
    engine = await place.open({ clock });
  });

  test("under another name where its own was taken meanwhile, and that is said: by off and by undo", async () => {
    engine = await place.open({ clock });
    for (const back of [() => quiet(engine, { level: "toggle" }), () => undo(engine, {})]) {
      await quiet(engine, { level: "bare" });
      const taken = inFolder().length;
      expect(taken).toBe(0);
      fs.writeFileSync(at("notes.txt"), "another");
      const report = await back();
      expect(report.refused).toEqual([]);
      expect(report.words).toMatch(/; “notes\.txt” is called “notes \(2\)\.txt” now, as its name was taken$/);
      expect(tucked()).toEqual([]);
      expect(fs.readFileSync(at("notes (2).txt"), "utf8")).toBe("notes.txt");
      fs.rmSync(at("notes.txt"));
      fs.renameSync(at("notes (2).txt"), at("notes.txt"));
      await engine.lookAgain("all");
    }
  });

  test("also where undo brought it back under another name, and the act is done again", async () => {
    engine = await place.open({ clock });
    await quiet(engine, { level: "bare" });
    fs.writeFileSync(at("notes.txt"), "another");
    const { entry } = await undo(engine, {});
    await undo(engine, { entry: entry! });
    expect(tucked()).toEqual(["c.csv", "folder", "notes.txt", "report.odt"]);
    expect(inFolder()).toEqual(["notes.txt"]);
    await quiet(engine, { level: "everything" });
    expect(inFolder()).toEqual(["c.csv", "folder", "notes (2).txt", "notes.txt", "report.odt"]);
    expect(claims()).toMatchObject({ status: [], hidden: false, foot: 0, course: "off" });
  });

  test("what somebody else puts where things lie out of sight is said at once, and comes back with the rest", async () => {
    engine = await place.open({ clock });
    fs.mkdirSync(at(".out-of-sight"));
    fs.writeFileSync(at(".out-of-sight/theirs.txt"), "theirs");
    expect(claims()).toMatchObject({ status: ["theirs.txt"], hidden: true, foot: 1, course: "1 out of sight" });
    await quiet(engine, { level: "everything" });
    expect(inFolder()).toContain("theirs.txt");
    expect(claims()).toMatchObject({ status: [], hidden: false, foot: 0 });
  });
});

test("one that is brought back alone comes back, and that is said; what a program had open stays where it is, free by now or not", async () => {
  engine = await place.open({ clock });
  fs.writeFileSync(at(lock), "");
  await engine.lookAgain("all");
  await quiet(engine, { level: "bare" });
  expect(tucked()).toEqual(["c.csv", "folder", "notes.txt"]);
  const alone = { words: "Brought 1 icon back in sight", done: 1, refused: [] };
  expect(await bringBack(engine, { items: [itemNamed(engine, "c.csv").id] })).toMatchObject(alone);
  fs.rmSync(at(lock));
  await engine.lookAgain("all");
  expect(await bringBack(engine, { items: [itemNamed(engine, "notes.txt").id] })).toMatchObject(alone);
  expect(tucked()).toEqual(["folder"]);
  expect(await hide(engine, { items: [itemNamed(engine, "c.csv").id] })).toMatchObject({ words: "Took 1 icon out of sight" });
  expect(tucked()).toEqual(["c.csv", "folder"]);
});

test("what went to the trash meanwhile is not said to come back in sight, on any screen", async () => {
  for (const name of screens) {
    fs.mkdirSync(place.data, { recursive: true, mode: 0o700 });
    fs.writeFileSync(path.join(place.data, "sample"), "");
    engine = await place.open({ clock });
    if (name !== "simulated") await useScreen(engine, { name });
    await quiet(engine, { level: "bare" });
    await letGo(engine, { items: [itemNamed(engine, "notes.txt").id] });
    expect(claims().foot).toBe(3);
    expect((await quiet(engine, { level: "toggle" })).words).toBe("Brought 3 icons back in sight");
    await engine.close();
    place.remove();
    place = makePlace(fill);
  }
  engine = await place.open({ clock });
});

test(".hidden that became a link is not said to show, nor to hide: nobody can say", async () => {
  engine = await place.open({ clock });
  await useScreen(engine, { name: "listed" });
  await quiet(engine, { level: "bare" });
  fs.renameSync(at(".hidden"), path.join(place.root, "list"));
  fs.symlinkSync(path.join(place.root, "list"), at(".hidden"));
  expect(quietStatus(engine)).toMatchObject({ believed: "asked", hidden: false });
  expect(quietStatus(engine).outOfSight).toHaveLength(4);
});

type Choose = (from: number) => number;
const steps: ((choose: Choose) => Promise<unknown>)[] = [
  (c) => useScreen(engine, { name: screens[c(3)]! }),
  () => quiet(engine, { level: "toggle" }),
  (c) => quiet(engine, { level: (["everything", "what stays", "bare"] as const)[c(3)]!, along: c(2) === 0 }),
  (c) => quiet(engine, { level: "some kinds", kinds: [(["folder", "text", "table"] as const)[c(3)]!] }),
  (c) => quiet(engine, { level: "bare", until: engine.now() + 60_000 * (1 + c(5)) }),
  (c) => hide(engine, { items: some(c) }),
  (c) => bringBack(engine, { items: some(c) }),
  (c) => addOccasion(engine, { title: `Occasion ${c(2)}`, level: "bare" }),
  (c) => changeOccasion(engine, { occasion: `Occasion ${c(2)}`, does: "start" }),
  (c) => changeOccasion(engine, { occasion: `Occasion ${c(2)}`, does: (["end", "longer", "remove"] as const)[c(3)]! }),
  // Something arrives, under a name that lies out of sight just now, or another.
  async (c) => {
    const name = ["notes.txt", "c.csv", "new.txt", "report.odt"][c(4)]!;
    if (!fs.existsSync(at(name))) fs.writeFileSync(at(name), `arrived ${clock.now()}`);
    await engine.lookAgain("worktops");
  },
  // What arrived is let go, wherever it lies now.
  async (c) => {
    const mine = ({ path }: Item) => fs.statSync(path).isFile() && fs.readFileSync(path, "utf8").startsWith("arrived");
    const arrived = itemsOn(engine.db, "desktop").filter((item) => fs.existsSync(item.path) && mine(item));
    if (arrived.length > 0) await letGo(engine, { items: [arrived[c(arrived.length)]!.id] });
  },
  // A lock file comes or goes.
  async (c) => {
    const where = [at(lock), at(".out-of-sight", lock)][c(2)]!;
    if (fs.existsSync(where)) fs.rmSync(where);
    else if (fs.existsSync(path.dirname(where))) fs.writeFileSync(where, "");
  },
  () => undo(engine, {}),
  async () => {
    const last = engine.db.prepare<[], number>("SELECT max(id) FROM entry WHERE direction = 'undo'").pluck().get();
    if (last) await undo(engine, { entry: last });
  },
  (c) => undo(engine, { entry: 1 + c(Math.max(1, engine.ledger.entries.last()?.id ?? 1)) }),
  async (c) => {
    clock.pass(60_000 * (1 + c(4)));
    await new Standing(engine).tick();
  },
  async () => {
    await engine.close();
    engine = await place.open({ clock });
  },
];

function some(choose: Choose): string[] {
  const all = idsOn(engine);
  return all.length === 0 ? [] : [all[choose(all.length)]!];
}

/** What is claimed is compared with what a stranger would see on the disk, and in the record of the drawn screen. */
function expectTrue(what: string): void {
  const { screen, away } = seenByOthers();
  const said = claims();
  expect(said.status, `${what}: status, ${screen}`).toEqual(away);
  expect(said.foot, `${what}: the foot`).toBe(away.length);
  expect(said.view ?? [], `${what}: the view`).toEqual(away);
  if (away.length > 0) expect(said.hidden, `${what}: everything is said to be in sight`).toBe(true);
  if (away.length > 0) expect(said.course, what).not.toBe("off");
  expect(said.shown === "nothing", `${what}: the page that draws it`).toBe(away.length === 0);
}

function seenByOthers() {
  const name = readRecord<string>(engine.db, "setting:screen") ?? "simulated";
  // By where each lies: one that arrived may have the name of another that lies in the folder for what is out of sight.
  const away = new Set(tucked().map((one) => at(".out-of-sight", one)));
  const hidden = fs.existsSync(at(".hidden")) ? fs.readFileSync(at(".hidden"), "utf8").split("\n") : [];
  for (const line of hidden) if (line !== "" && fs.existsSync(at(line))) away.add(at(line));
  if (name === "simulated")
    for (const id of readScreen(engine.db).shown.hidden)
      for (const item of itemsOn(engine.db, "desktop")) if (item.id === id) away.add(item.path);
  const names = [...away].map((one) => path.basename(one)).sort();
  return { screen: name, places: [...away], away: names };
}

const isReport = (value: unknown): value is ReportJson => typeof value === "object" && value !== null && "words" in value;

/** How many icons an act says that it took away or brought back is how many went, or came. */
function expectCounted(words: string, before: string[], after: string[]): void {
  const [, what, said] = /^(Took|Brought) (\d+) icons? /.exec(words) ?? [];
  if (said === undefined) return;
  const [from, to] = what === "Took" ? [after, before] : [before, after];
  expect(Number(said), words).toBe(from.filter((name) => !to.includes(name)).length);
}

/** A step in a process that is killed at one of its calls, where it comes to that, and the next start; whether it was. */
async function killedIn(step: (choose: Choose) => Promise<unknown>, choose: Choose): Promise<boolean> {
  const at = 1 + choose(12);
  const calls = faultyCalls({ at, how: choose(2) === 0 ? "kill before" : "kill after" });
  calls.arm(false);
  await engine.close();
  engine = await place.open({ clock, calls });
  calls.arm(true);
  await step(choose).catch(() => {});
  await engine.close();
  engine = await place.open({ clock });
  expect(engine.ledger.entries.running()).toEqual([]);
  return calls.count() >= at;
}

const runs = process.env.VUOTO_TORTURE ? 2000 : 12;

test(`random walks over screens, levels, occasions, arrivals, undo, kills and restarts: what is claimed is what is there, and off brings all back (${runs} walks)`, async () => {
  let done = 0;
  let kills = 0;
  let claimed = 0;
  engine = await place.open({ clock });
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.nat(steps.length - 1), { minLength: 3, maxLength: 14 }),
      fc.infiniteStream(fc.nat(9999)),
      async (walk, stream) => {
        await engine.close();
        place.remove();
        place = makePlace(fill);
        fs.mkdirSync(place.data, { recursive: true, mode: 0o700 });
        fs.writeFileSync(path.join(place.data, "sample"), "");
        clock = standingClock(began);
        engine = await place.open({ clock });
        const choose: Choose = (from) => (stream.next().value as number) % from;
        const first = screens[choose(3)]!;
        if (first !== "simulated") await useScreen(engine, { name: first });
        for (const [n, step] of walk.entries()) {
          const before = seenByOthers().places;
          try {
            if (choose(4) === 0) kills += Number(await killedIn(steps[step]!, choose));
            else {
              const report = await steps[step]!(choose);
              if (isReport(report) && report.act === "quiet") expectCounted(report.words, before, seenByOthers().places);
            }
            done++;
          } catch (error) {
            // Nothing to do, or not possible now: said.
            if (!(error instanceof Problem)) throw error;
          }
          await engine.lookAgain("worktops");
          expectTrue(`after ${walk.slice(0, n + 1).join(", ")}`);
          claimed++;
        }
        for (const { id, period } of occasionsNow(engine))
          if (period) await changeOccasion(engine, { occasion: id, does: "end" });
        await quiet(engine, { level: "everything" }).catch((error: unknown) => {
          if (!(error instanceof Problem) || error.code !== "already-quiet") throw error;
        });
        await engine.lookAgain("worktops");
        expect(tucked(), `after ${walk.join(", ")}, and off`).toEqual([]);
        expect(seenByOthers().away).toEqual([]);
        expectTrue("and off");
        expect(claims()).toMatchObject({ hidden: false, course: "off" });
        for (const own of ["notes.txt", "report.odt", "c.csv"])
          expect(inFolder().map((name) => (fs.statSync(at(name)).isFile() ? fs.readFileSync(at(name), "utf8") : ""))).toContain(
            own,
          );
      },
    ),
    { numRuns: runs, endOnFailure: true },
  );
  console.log(`${runs} walks, ${done} acts, ${claimed} times what is claimed was compared, ${kills} kills`);
}, 3_000_000);
