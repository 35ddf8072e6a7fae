import { describe, expect, test } from "vitest";
import { asProblem, Problem } from "../problem";
import { makeWords } from "./words";

const now = Date.UTC(2026, 10, 25, 12);
const day = 86_400_000;
const words = makeWords("en-GB", "Europe/Berlin", now);

describe("words", () => {
  test("sizes are decimal with one figure", () => {
    expect([0, 1, 999, 1000, 4100, 148_200_000, 999_960, 3.2e12].map(words.bytes)).toEqual([
      "0 bytes",
      "1 byte",
      "999 bytes",
      "1.0 kB",
      "4.1 kB",
      "148.2 MB",
      "1.0 MB",
      "3.2 TB",
    ]);
  });
  test("dates are relative up to a month, then absolute, in the person's zone", () => {
    expect(words.ago(now - 20_000)).toBe("just now");
    expect(words.ago(now - 14 * 60_000)).toBe("14 minutes ago");
    expect(words.ago(now - 3 * day)).toBe("3 days ago");
    expect(words.ago(now - 22 * day)).toBe("3 weeks ago");
    expect(words.ago(now - 60 * day)).toBe("26 September 2026");
    expect(words.date(Date.UTC(2026, 0, 1, 23, 30))).toBe("2 January 2026");
    expect(words.dateTime(now)).toContain("13:00");
    expect([words.clock(now), words.clock(now + 86_400_000)]).toEqual(["13:00", words.dateTime(now + 86_400_000)]);
  });
  test("counts, shares and durations", () => {
    expect(words.counted(1, "thing")).toBe("1 thing");
    expect(words.counted(4112, "entry", "entries")).toBe("4,112 entries");
    expect([0, 0.004, 0.613, 1].map(words.share)).toEqual(["0 %", "under 1 %", "61 %", "100 %"]);
    expect([4000, 14 * 60_000, 5 * 3_600_000, 9 * day].map(words.duration)).toEqual([
      "4 seconds",
      "14 minutes",
      "5 hours",
      "9 days",
    ]);
  });
});

describe("problems", () => {
  test("say what happened and what to do, and keep their code from one bundle to another", () => {
    const problem = new Problem("name-taken", { name: "a.txt", place: "Tides" });
    expect(problem.message).toBe(
      "Tides already holds something called a.txt. Nothing was replaced. Give one of the two another name.",
    );
    const foreign = Object.assign(new Error("x"), { code: "no-space", facts: { place: "Disk" } });
    expect(asProblem(foreign)).toMatchObject({ code: "no-space", title: "There is no room left in Disk." });
    expect(asProblem(new TypeError("boom"))).toMatchObject({ code: "unexpected", status: 500 });
  });
});
