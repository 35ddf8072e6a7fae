import { describe, expect, test } from "vitest";
import { barer, doubtOf, dueNow, type Holding, nextPeriods, type Occasion, periodAt, underWay, weeklyRule } from "./occasions";

const at = (day: number, hours: number, minutes = 0) => new Date(2026, 10, day, hours, minutes).getTime();
const work: Occasion = {
  title: "Work",
  level: "what stays",
  kinds: [],
  timetable: { rule: weeklyRule(["MO", "TU", "WE", "TH", "FR"], "09:00"), to: "17:30" },
};
const night: Occasion = {
  title: "Night",
  level: "bare",
  kinds: [],
  timetable: { rule: weeklyRule(["FR"], "22:15"), to: "06:00" },
};
const byHand: Occasion = { ...work, title: "Presenting", timetable: null };

describe("a timetable", () => {
  test("says what is under way", () => {
    // 26 November 2026 is a Thursday.
    expect(periodAt(work, at(26, 8, 59))).toBeUndefined();
    expect(periodAt(work, at(26, 9))).toEqual({ start: at(26, 9), end: at(26, 17, 30) });
    expect(periodAt(work, at(26, 17, 29))).toEqual({ start: at(26, 9), end: at(26, 17, 30) });
    expect(periodAt(work, at(26, 17, 30))).toBeUndefined();
    expect(periodAt(work, at(28, 12))).toBeUndefined();
    expect(periodAt(byHand, at(26, 12))).toBeUndefined();
  });
  test("goes on over midnight where its end is earlier than its start", () => {
    expect(periodAt(night, at(28, 5, 59))).toEqual({ start: at(27, 22, 15), end: at(28, 6) });
    expect(periodAt(night, at(28, 6))).toBeUndefined();
  });
  test("tells the next times", () => {
    expect(nextPeriods(work, at(26, 12)).map(({ start }) => start)).toEqual([at(27, 9), at(30, 9), at(31, 9)]);
    expect(nextPeriods(night, at(26, 12), 1)).toEqual([{ start: at(27, 22, 15), end: at(28, 6) }]);
    expect(nextPeriods(byHand, at(26, 12))).toEqual([]);
  });
  test("keeps to the wall clock over a change of summer time", () => {
    const sunday: Occasion = { ...work, timetable: { rule: weeklyRule(["SU"], "01:00"), to: "05:00" } };
    // The last Sunday in March and in October of 2026: whatever zone this runs in, its hours are those on the wall.
    for (const [month, day] of [
      [2, 29],
      [9, 25],
    ] as const) {
      const [start, end] = [new Date(2026, month, day, 1).getTime(), new Date(2026, month, day, 5).getTime()];
      expect(periodAt(sunday, end - 60_000)).toEqual({ start, end });
      expect(periodAt(sunday, end)).toBeUndefined();
    }
  });
});

describe("by hand", () => {
  test("one begins and ends, and has no end until it is given", () => {
    expect(underWay(byHand, { start: at(26, 10), end: null }, at(30, 10))?.start).toBe(at(26, 10));
    expect(underWay(byHand, { start: at(26, 10), end: at(26, 11) }, at(26, 11))).toBeUndefined();
  });
  test("the end of one by its timetable is moved, for that time alone", () => {
    const longer = { start: at(26, 9), end: at(26, 18) };
    expect(underWay(work, longer, at(26, 17, 45))).toEqual(longer);
    const sooner = { start: at(26, 9), end: at(26, 12) };
    expect(underWay(work, sooner, at(26, 13))).toBeUndefined();
    expect(underWay(work, sooner, at(27, 13))).toEqual({ start: at(27, 9), end: at(27, 17, 30) });
  });
});

test("the barer wins; of kinds both", () => {
  const some = (...kinds: ("folder" | "drive")[]) => ({ level: "some kinds" as const, kinds });
  expect(barer({ level: "bare", kinds: [] }, some("folder")).level).toBe("bare");
  // What was hidden by its kind is not shown for staying on purpose.
  expect(barer(some("folder"), { level: "what stays", kinds: [] })).toEqual({ level: "what stays", kinds: ["folder"] });
  expect(barer(some("folder"), some("drive"))).toEqual(some("folder", "drive"));
});

describe("what should hold now", () => {
  const everything = { level: "everything" as const, kinds: [], since: 0 };
  const bare = { level: "bare" as const, kinds: [] };
  const stays = { level: "what stays" as const, kinds: [] };
  const period = { start: 100, end: 200 };
  const one = { id: "a", period, occasion: stays };
  const two = { id: "b", period: { start: 150, end: 300 }, occasion: bare };
  const held = (started: Holding["started"], since: number): Holding => ({
    started,
    before: { level: "everything", kinds: [] },
    since,
  });

  test("nothing where nothing began or ended", () => {
    expect(dueNow([], null, everything)).toBeUndefined();
    expect(dueNow([one], held({ a: 100 }, 5), { ...stays, since: 5 })).toBeUndefined();
    // Also where the person has shown everything meanwhile: that holds.
    expect(dueNow([one], held({ a: 100 }, 5), everything)).toBeUndefined();
  });
  test("a start hides, its end brings back what was there", () => {
    expect(dueNow([one], null, everything)).toMatchObject({ show: stays, began: ["a"] });
    expect(dueNow([], held({ a: 100 }, 5), { ...stays, since: 5 })).toMatchObject({
      show: { level: "everything", kinds: [] },
      holding: null,
      ended: ["a"],
    });
  });
  test("of two that overlap the barest holds, until it ends", () => {
    const both = dueNow([one, two], held({ a: 100 }, 5), { ...stays, since: 5 });
    expect(both).toMatchObject({
      show: bare,
      began: ["b"],
      holding: { started: { a: 100, b: 150 }, before: { level: "everything" } },
    });
    expect(dueNow([one], held({ a: 100, b: 150 }, 6), { ...bare, since: 6 })).toMatchObject({ show: stays, ended: ["b"] });
    expect(dueNow([two], held({ a: 100, b: 150 }, 6), { ...bare, since: 6 })).toMatchObject({ show: bare, ended: ["a"] });
  });
  test("a start shows nothing that was out of sight, and its end leaves it so", () => {
    const hidden = { ...bare, since: 3 };
    const began = dueNow([one], null, hidden)!;
    expect(began.show).toEqual(bare);
    expect(dueNow([], { ...began.holding!, since: 4 }, { ...bare, since: 4 })).toMatchObject({ show: bare });
  });
  test("what the person brought back since stays in sight at an end; the next start takes it again", () => {
    const shown = { ...everything, since: 9 };
    const showsAll = { level: "everything", kinds: [] };
    expect(dueNow([], held({ a: 100 }, 5), shown)).toEqual({ show: showsAll, holding: null, began: [], ended: ["a"] });
    expect(dueNow([two], held({ a: 100 }, 5), shown)).toMatchObject({ show: bare, holding: { before: { level: "everything" } } });
  });
  test("an end brings back what went since the start, whoever took it, and no more than was there before", () => {
    const more = { ...bare, since: 9 };
    expect(dueNow([], held({ a: 100 }, 5), more)).toMatchObject({ show: { level: "everything" }, ended: ["a"] });
    // Another one is still under way; and one that begins meanwhile takes none of it for what was before.
    expect(dueNow([one], held({ a: 100, b: 150 }, 5), more)).toMatchObject({ show: stays, ended: ["b"] });
    expect(dueNow([one, two], held({ a: 100 }, 5), more)).toMatchObject({ holding: { before: { level: "everything" } } });
    const folders = { level: "some kinds" as const, kinds: ["folder" as const], since: 9 };
    const before = {
      ...held({ a: 100 }, 5),
      before: { level: "some kinds" as const, kinds: ["folder" as const, "text" as const] },
    };
    expect(dueNow([], before, more)?.show).toEqual(before.before);
    expect(dueNow([], before, folders)?.show).toEqual({ level: "some kinds", kinds: ["folder"] });
    expect(dueNow([], before, { ...folders, kinds: ["table"] })?.show).toEqual({ level: "everything", kinds: [] });
  });
  test("a whole time that was slept through leaves no trace", () => {
    expect(dueNow([], null, everything)).toBeUndefined();
    expect(dueNow([{ ...one, period: { start: 900, end: 950 } }], held({ a: 100 }, 5), { ...stays, since: 5 })).toMatchObject({
      show: stays,
      began: ["a"],
      holding: { before: { level: "everything" } },
    });
  });
});

describe("in doubt what is out of sight stays so", () => {
  const held = { started: { work: 1000 }, before: { level: "everything" as const, kinds: [] }, since: 5000, zone: "Europe/Oslo" };
  test("a clock that was set back says nothing", () => {
    expect(doubtOf([], held, { now: 5000 - 61_000, zone: "Europe/Oslo" })).toBe("clock");
    expect(doubtOf([], held, { now: 5000 - 59_000, zone: "Europe/Oslo" })).toBeUndefined();
  });
  test("nor does another zone by which something is over; where it is still under way there is no doubt", () => {
    expect(doubtOf([], held, { now: 6000, zone: "America/Lima" })).toBe("zone");
    expect(doubtOf([{ id: "work" }], held, { now: 6000, zone: "America/Lima" })).toBeUndefined();
    expect(doubtOf([], { ...held, zone: undefined }, { now: 6000, zone: "America/Lima" })).toBeUndefined();
    expect(doubtOf([], null, { now: 0, zone: "America/Lima" })).toBeUndefined();
  });
});
