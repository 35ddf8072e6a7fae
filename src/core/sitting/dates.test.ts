import { describe, expect, test } from "vitest";
import { dayFromWords } from "./dates";

// A Friday, in the afternoon.
const now = new Date(2026, 10, 27, 15, 30).getTime();
const day = (text: string) => {
  const at = dayFromWords(text, now);
  if (at === undefined) return undefined;
  const date = new Date(at);
  expect([date.getHours(), date.getMinutes(), date.getSeconds(), date.getMilliseconds()]).toEqual([0, 0, 0, 0]);
  return [date.getFullYear(), date.getMonth() + 1, date.getDate()].join("-");
};

describe("a day in words", () => {
  test.each([
    ["tomorrow", "2026-11-28"],
    ["saturday", "2026-11-28"],
    ["until monday", "2026-11-30"],
    ["in two weeks", "2026-12-11"],
    ["two weeks", "2026-12-11"],
    ["10 days", "2026-12-7"],
    ["1 march", "2027-3-1"],
    ["the 24th of december", "2026-12-24"],
    ["24 december 2027", "2027-12-24"],
    ["3/4/2027", "2027-4-3"],
    ["2027-03-01", "2027-3-1"],
    ["in a year", "2027-11-27"],
  ])("%s is %s", (text, expected) => {
    expect(day(text)).toBe(expected);
  });

  test("a weekday that is today's is a week ahead", () => {
    expect(day("friday")).toBe("2026-12-4");
    expect(day("on Friday")).toBe("2026-12-4");
  });

  test("what is today or past, no date, or more than one, is none", () => {
    for (const text of ["today", "yesterday", "2 march 2020", "2026-11-27", "2027-02-30", "", "soon", "the blue one"])
      expect(day(text), text).toBeUndefined();
    for (const text of ["monday or tuesday", "call Ann on monday", "monday call Ann"]) expect(day(text), text).toBeUndefined();
  });

  test("over the change of the clock the day is still that day", () => {
    const spring = new Date(2027, 2, 27, 23, 59).getTime();
    expect(new Date(dayFromWords("tomorrow", spring)!).getDate()).toBe(28);
    expect(new Date(dayFromWords("in two days", spring)!).getDate()).toBe(29);
  });
});
