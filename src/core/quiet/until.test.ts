import { describe, expect, test } from "vitest";
import { untilFrom } from "./until";

const now = new Date(2026, 10, 26, 16, 40, 12).getTime();

describe("a time that is typed", () => {
  test.each([
    ["45m", now + 45 * 60_000],
    ["45 min", now + 45 * 60_000],
    ["2h", now + 120 * 60_000],
    ["1h30", now + 90 * 60_000],
    ["1 h 30 m", now + 90 * 60_000],
    ["2 hours", now + 120 * 60_000],
  ])("%s is a length from now on", (text, expected) => {
    expect(untilFrom(text, now)).toBe(expected);
  });
  test("17:30 is today, and tomorrow where that is past", () => {
    expect(untilFrom("17:30", now)).toBe(new Date(2026, 10, 26, 17, 30).getTime());
    expect(untilFrom("9.05", now)).toBe(new Date(2026, 10, 27, 9, 5).getTime());
    expect(untilFrom("16:40", now)).toBe(new Date(2026, 10, 27, 16, 40).getTime());
  });
  test("a date is its beginning", () => {
    expect(untilFrom("2026-12-01", now)).toBe(new Date(2026, 11, 1).getTime());
  });
  test("what is none, or past, is not guessed at", () => {
    for (const text of ["", "soon", "25:00", "12:60", "45", "0m", "-5m", "2026-02-30", "2026-11-26", "5x", "99999h"])
      expect(untilFrom(text, now), text).toBeUndefined();
  });
});
