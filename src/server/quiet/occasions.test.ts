import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { longer } from "./longer";
import { addOccasion, changeOccasion, occasionList, occasionsNow } from "./occasions";
import { bringBack, quiet, quietNow } from "./quiet";
import { sharingNow } from "./sharing";
import { Standing } from "./standing";
import { quietStatus } from "./status";
import { quietView } from "./view";

// 26 November 2026 is a Thursday.
const at = (day: number, hours: number, minutes = 0, seconds = 0) => new Date(2026, 10, day, hours, minutes, seconds).getTime();
const everyDay = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"] as const;
let place: Place;
let engine: Engine;
let clock: ReturnType<typeof standingClock>;
let standing: Standing;
const inSight = () =>
  fs
    .readdirSync(path.join(place.root, "Desktop"))
    .filter((name) => !name.startsWith("."))
    .sort();
/** Those that the person made. */
const own = () => occasionList(engine).filter(({ id }) => !["presenting", "sharing", "evening"].includes(id));
/** Lets it become a time, with Vuoto running. */
const become = async (time: number) => {
  clock.pass(time - clock.now());
  await standing.tick();
};
/** The same with Vuoto closed meanwhile. */
const sleepUntil = async (time: number) => {
  await engine.close();
  clock.pass(time - clock.now());
  engine = await place.open({ clock });
  standing = new Standing(engine);
  await standing.tick();
};

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    for (const name of ["a.txt", "b.csv"]) fs.writeFileSync(path.join(root, "Desktop", name), name);
    for (const name of ["a.txt", "b.csv"]) fs.utimesSync(path.join(root, "Desktop", name), 1.7e9, 1.7e9);
  });
  clock = standingClock(at(26, 8));
  engine = await place.open({ clock });
  standing = new Standing(engine);
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("an occasion", () => {
  test("with a timetable hides and brings back by itself, also its end while nothing ran", async () => {
    const before = place.tree();
    await addOccasion(engine, { title: "Work", level: "bare", days: ["TH", "FR"], from: "09:00", to: "17:30" });
    expect(own()).toMatchObject([{ title: "Work", since: null, next: [{}, {}, {}] }]);
    await become(at(26, 8, 59));
    expect(inSight()).toHaveLength(3);
    await become(at(26, 9));
    expect(inSight()).toEqual([]);
    expect(engine.ledger.entries.last()).toMatchObject({ words: "“Work” began: took 3 icons out of sight", by: "timetable" });
    await become(at(26, 12));
    await sleepUntil(at(27, 2));
    expect(inSight()).toHaveLength(3);
    // A whole day that was slept through is not gone over again.
    const acts = engine.ledger.entries.last()!.id;
    await sleepUntil(at(28, 12));
    expect(engine.ledger.entries.last()!.id).toBe(acts);
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("leaves in sight what the person brought back since it began, until its next start; its end brings back all that went", async () => {
    await addOccasion(engine, { title: "Work", level: "bare", days: [...everyDay], from: "09:00", to: "17:30" });
    await become(at(26, 9));
    await quiet(engine, { level: "everything" });
    await become(at(26, 10));
    expect(inSight()).toHaveLength(3);
    await quiet(engine, { level: "some kinds", kinds: ["folder"] });
    await become(at(26, 18));
    expect(inSight()).toHaveLength(3);
    await quiet(engine, { level: "some kinds", kinds: ["folder"] });
    await become(at(27, 9));
    expect(inSight()).toEqual([]);
    // Q twice, and more than it took.
    await quiet(engine, { level: "toggle" });
    await quiet(engine, { level: "toggle" });
    // Its end brings back what was there before this start.
    await become(at(27, 17, 30));
    expect(inSight()).toEqual(["a.txt", "b.csv"]);
    expect(quietNow(engine)).toMatchObject({ level: "some kinds" });
  });

  test("with another end, while it is under way, takes nothing away again that was brought back singly", async () => {
    const given = { title: "Work", level: "bare", days: [...everyDay], from: "09:00", to: "17:30" } as const;
    await addOccasion(engine, { ...given, days: [...everyDay] });
    await become(at(26, 9));
    await bringBack(engine, { items: [itemNamed(engine, "a.txt").id] });
    const { id } = occasionsNow(engine).find(({ occasion }) => occasion.title === "Work")!;
    for (const [from, to] of [
      ["09:00", "18:00"],
      ["08:30", "18:00"],
    ] as const) {
      await addOccasion(engine, { ...given, days: [...everyDay], occasion: id, from, to });
      await become(at(26, 10));
      expect(inSight()).toEqual(["a.txt"]);
    }
    await become(at(26, 17, 45));
    expect(inSight()).toEqual(["a.txt"]);
    await become(at(26, 18));
    expect(inSight()).toHaveLength(3);
  });

  test("two that overlap: the barest holds, and the end of one leaves the other", async () => {
    await addOccasion(engine, {
      title: "Work",
      level: "some kinds",
      kinds: ["folder"],
      days: [...everyDay],
      from: "09:00",
      to: "17:00",
    });
    await addOccasion(engine, { title: "Call", level: "bare", days: ["TH"], from: "10:00", to: "11:00" });
    await become(at(26, 9));
    expect(inSight()).toEqual(["a.txt", "b.csv"]);
    await become(at(26, 10, 30));
    expect(inSight()).toEqual([]);
    await become(at(26, 11));
    expect(inSight()).toEqual(["a.txt", "b.csv"]);
    await become(at(26, 17));
    expect(inSight()).toHaveLength(3);
  });

  test("begun by hand goes on until it is ended, or longer, also over a restart", async () => {
    const began = await changeOccasion(engine, { occasion: "Presenting", does: "start", until: at(26, 9) });
    expect(began.words).toBe("“presenting” began: took 3 icons out of sight");
    await changeOccasion(engine, { occasion: "Presenting", does: "longer" });
    await become(at(26, 9, 15));
    expect(inSight()).toEqual([]);
    await sleepUntil(at(26, 9, 31));
    expect(inSight()).toHaveLength(3);
    await changeOccasion(engine, { occasion: "Presenting", does: "start" });
    await become(at(30, 9));
    expect(inSight()).toEqual([]);
    await changeOccasion(engine, { occasion: "Presenting", does: "end" });
    expect(inSight()).toHaveLength(3);
    await expect(changeOccasion(engine, { occasion: "Presenting", does: "end" })).rejects.toMatchObject({
      code: "occasion-not-now",
    });
  });

  test("that is added within its time holds at once; ended by hand it is over for today; taken off the list it brings back", async () => {
    clock.pass(2 * 3_600_000);
    await addOccasion(engine, { title: "Work", level: "bare", days: [...everyDay], from: "09:00", to: "17:30" });
    expect(inSight()).toEqual([]);
    await changeOccasion(engine, { occasion: "Work", does: "end" });
    expect(inSight()).toHaveLength(3);
    await become(at(26, 12));
    expect(inSight()).toHaveLength(3);
    await become(at(27, 9));
    expect(inSight()).toEqual([]);
    await changeOccasion(engine, { occasion: "Work", does: "remove" });
    expect(inSight()).toHaveLength(3);
    expect(own()).toEqual([]);
  });

  test("a clock that was set back ends nothing", async () => {
    await addOccasion(engine, { title: "Work", level: "bare", days: [...everyDay], from: "09:00", to: "17:30" });
    await become(at(26, 9));
    await engine.close();
    engine = await place.open({ clock: standingClock(at(25, 20)) });
    await new Standing(engine).tick();
    expect(inSight()).toEqual([]);
  });

  test("everything about it is undone without a difference, and what is wrong with it is said", async () => {
    const before = place.tree();
    await addOccasion(engine, { title: "Work", level: "bare", days: [...everyDay], from: "09:00", to: "17:30" });
    for (const [input, code] of [
      [{ title: "Work", level: "bare" }, "name-taken"],
      [{ title: "Kinds", level: "some kinds" }, "no-kind"],
    ] as const)
      await expect(addOccasion(engine, input)).rejects.toMatchObject({ code });
    await expect(changeOccasion(engine, { occasion: "Other", does: "start" })).rejects.toMatchObject({
      code: "unknown-occasion",
    });
    await become(at(26, 9));
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    expect(own()).toEqual([]);
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("three are there from the beginning; each can be changed, or taken off the list for good", async () => {
    expect(occasionList(engine)).toMatchObject([
      { title: "evening", level: "what stays", next: [], unnamed: false },
      { title: "presenting", level: "bare", unnamed: false },
      { title: "sharing the screen", level: "bare", unnamed: true },
    ]);
    const evening = {
      title: "Evening",
      level: "some kinds",
      kinds: ["folder"],
      days: ["TH"],
      from: "18:05",
      to: "23:00",
    } as const;
    await addOccasion(engine, { occasion: "evening", ...evening, kinds: [...evening.kinds], days: [...evening.days] });
    expect(quietView(engine).occasions[0]).toMatchObject({
      id: "evening",
      title: "Evening",
      hours: { days: ["TH"], from: "18:05", to: "23:00" },
    });
    await become(at(26, 18, 6));
    expect(inSight()).toEqual(["a.txt", "b.csv"]);
    // Changed while it is under way, it holds as it is now.
    await addOccasion(engine, { occasion: "evening", title: "Evening", level: "bare", days: ["TH"], from: "18:05", to: "23:00" });
    expect(inSight()).toEqual([]);
    for (const name of ["presenting", "SHARING the screen"]) await changeOccasion(engine, { occasion: name, does: "remove" });
    await sleepUntil(at(26, 23, 1));
    expect(inSight()).toHaveLength(3);
    expect(occasionList(engine).map(({ id }) => id)).toEqual(["evening"]);
    await expect(addOccasion(engine, { occasion: "gone", title: "x", level: "bare" })).rejects.toMatchObject({
      code: "unknown-occasion",
    });
    await expect(addOccasion(engine, { title: "EVENING", level: "bare" })).rejects.toMatchObject({ code: "name-taken" });
  });

  test("begun again while it is under way goes on as it is: it would never end by itself", async () => {
    await addOccasion(engine, { title: "Work", level: "bare", days: ["TH"], from: "08:00", to: "09:00" });
    await expect(changeOccasion(engine, { occasion: "Work", does: "start" })).rejects.toMatchObject({ code: "occasion-now" });
    await become(at(26, 9, 1));
    expect(inSight()).toHaveLength(3);
  });
});

describe("two minutes before an end", () => {
  const said = () => {
    const words: string[] = [];
    engine.events.listen(({ event }) => void (event.type === "changed" && words.push(event.what)));
    return words;
  };

  test("it is offered to go on for longer: an occasion", async () => {
    await addOccasion(engine, { title: "Work", level: "bare", days: ["TH"], from: "08:00", to: "09:00" });
    await become(at(26, 8, 57));
    expect(quietStatus(engine).endsSoon).toBeUndefined();
    const heard = said();
    await become(at(26, 8, 58, 30));
    expect(heard.length).toBeGreaterThan(0);
    expect(quietStatus(engine).endsSoon).toEqual({ title: "Work", at: new Date(at(26, 9)).toISOString() });
    await longer(engine, {});
    expect(quietStatus(engine).endsSoon).toBeUndefined();
    await become(at(26, 9, 29));
    expect(inSight()).toEqual([]);
    await become(at(26, 9, 31));
    expect(inSight()).toHaveLength(3);
  });

  test("or what was taken out of sight until a time; what came since and what was shown in spite of it stays in sight", async () => {
    await quiet(engine, { level: "bare", until: at(26, 9) });
    await bringBack(engine, { items: [itemNamed(engine, "a.txt").id] });
    fs.writeFileSync(path.join(place.root, "Desktop/new.txt"), "new");
    await engine.lookAgain();
    await become(at(26, 8, 59));
    expect(quietStatus(engine).endsSoon).toMatchObject({ title: null });
    expect((await longer(engine, {})).words).toMatch(/^It goes on until/);
    expect(inSight()).toEqual(["a.txt", "new.txt"]);
    await expect(longer(engine, { until: at(26, 7) })).rejects.toThrow(/past/);
    await become(at(26, 9, 31));
    expect(inSight()).toHaveLength(4);
    await expect(longer(engine, {})).rejects.toMatchObject({ code: "nothing-ends" });
  });
});

test("a clock that is put right by a little, or set back by hours, shows no icon and no name; a start and an end that are said hold", async () => {
  await changeOccasion(engine, { occasion: "sharing", does: "start" });
  for (const back of [5000, 3_600_000 - 5000]) {
    clock.pass(-back);
    await standing.tick();
    expect(inSight()).toEqual([]);
    expect(sharingNow(engine)?.id).toBe("sharing");
  }
  await changeOccasion(engine, { occasion: "presenting", does: "start" });
  expect(inSight()).toEqual([]);
  // Another one that begins and ends meanwhile ends nothing but itself.
  await changeOccasion(engine, { occasion: "presenting", does: "end" });
  await standing.tick();
  expect(inSight()).toEqual([]);
  expect(sharingNow(engine)?.id).toBe("sharing");
  clock.pass(-3_600_000);
  await standing.tick();
  expect(sharingNow(engine)?.id).toBe("sharing");
  await changeOccasion(engine, { occasion: "sharing", does: "end" });
  expect(sharingNow(engine)).toBeUndefined();
  expect(inSight()).toHaveLength(3);
});

test("another time zone ends nothing by itself; the next start, or the person, does", async () => {
  await addOccasion(engine, { title: "Work", level: "bare", days: ["TH"], from: "08:00", to: "10:00" });
  await become(at(26, 8, 30));
  expect(inSight()).toEqual([]);
  engine.wordsOf.timeZone = "Pacific/Auckland";
  await become(at(26, 10, 30));
  expect(inSight()).toEqual([]);
  expect(quietView(engine).doubt).toBe("zone");
  await quiet(engine, { level: "everything" });
  expect(inSight()).toHaveLength(3);
  await changeOccasion(engine, { occasion: "presenting", does: "start" });
  expect(inSight()).toEqual([]);
  expect(quietView(engine).doubt).toBeUndefined();
  await changeOccasion(engine, { occasion: "presenting", does: "end" });
  expect(inSight()).toHaveLength(3);
});

test("the clock is looked at only while something is to begin or to end by it", async () => {
  for (const { id } of occasionList(engine)) await changeOccasion(engine, { occasion: id, does: "remove" });
  let looked = 0;
  const { after } = clock;
  clock.after = (ms, work) =>
    after(ms, () => {
      looked++;
      work();
    });
  standing.begin(() => {});
  const lookedIn = (ms: number) => {
    looked = 0;
    clock.pass(ms);
    return looked;
  };
  await quiet(engine, { level: "bare" });
  await engine.lookAgain();
  lookedIn(60_000);
  expect(lookedIn(3_600_000)).toBe(0);
  await addOccasion(engine, { title: "Work", level: "what stays", days: ["TH"], from: "12:00", to: "13:00" });
  expect(lookedIn(15_000)).toBeGreaterThan(0);
  standing.stop();
  await engine.lookAgain();
  lookedIn(60_000);
  expect(lookedIn(3_600_000)).toBe(0);
});
