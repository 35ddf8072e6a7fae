import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Kind } from "../survey/kinds";
import { makeWords } from "../words/words";
import { inOrder, orders } from "./order";
import { inWords, type Timed, timeLeft } from "./pace";

const thing = (name: string, kind: string, bytes: number, mtimeMs: number, worktop: string, due?: number) => ({
  name,
  kind,
  bytes,
  mtimeMs,
  worktop,
  due,
});

describe("the order of a pile", () => {
  const pile = [
    thing("b 10", "text", 5, 300, "downloads"),
    thing("a", "sound", 9, 100, "desktop"),
    thing("b 9", "text", 7, 200, "desktop"),
    thing("late", "video", 1, 400, "downloads", 20),
    thing("later", "text", 2, 50, "desktop", 30),
  ];
  test.each([
    ["families first", "late later | b 10, a, b 9"],
    ["oldest first", "late later | a, b 9, b 10"],
    ["newest first", "late later | b 10, b 9, a"],
    ["largest first", "late later | a, b 9, b 10"],
    ["by kind", "late later | a, b 9, b 10"],
    ["by place", "late later | a, b 9, b 10"],
  ] as const)("%s: what is due comes first, and then %s", (order, expected) => {
    const [due, rest] = expected.split(" | ") as [string, string];
    expect(inOrder(pile, order).map(({ name }) => name)).toEqual([...due.split(" "), ...rest.split(", ")]);
  });

  test("loses nothing, and is the same however often it is put in order", () => {
    const things = fc.array(
      fc.record({
        name: fc.string(),
        kind: fc.constantFrom("text", "sound"),
        bytes: fc.nat(3),
        mtimeMs: fc.nat(3),
        worktop: fc.constantFrom("desktop", "downloads"),
        due: fc.option(fc.nat(3), { nil: undefined }),
      }),
    );
    fc.assert(
      fc.property(things, fc.constantFrom(...orders), (given, order) => {
        const once = inOrder(given, order);
        expect(new Set(once)).toEqual(new Set(given));
        expect(once).toHaveLength(given.length);
        expect(inOrder(once, order)).toEqual(once);
      }),
    );
  });
});

describe("how long the rest takes", () => {
  const timed = (kind: Kind, ...times: number[]): Timed[] => times.map((ms) => ({ kind, ms }));
  const left = (counts: Partial<Record<Kind, number>>) => new Map(Object.entries(counts) as [Kind, number][]);

  test("is not known before ten verdicts", () => {
    expect(timeLeft(timed("text", ...Array(9).fill(1000)), left({ text: 5 }))).toBeUndefined();
    expect(timeLeft(timed("text", ...Array(10).fill(1000)), left({ text: 5 }))).toMatchObject({ ms: 5000 });
  });

  test("one long interruption among ten does not make the pace, and the quick ones do not hide the slow", () => {
    const even = timeLeft(timed("text", ...Array(9).fill(2000), 2000), left({ text: 10 }))!;
    const interrupted = timeLeft(timed("text", ...Array(9).fill(2000), 110_000), left({ text: 10 }))!;
    expect(interrupted.ms).toBeLessThan(even.ms * 1.3);
    // Half of them take ten times as long: the sum is what both halves take, where a median says the one or the other.
    const halves = timeLeft(timed("text", ...Array(10).fill(1000), ...Array(10).fill(10_000)), left({ text: 100 }))!;
    expect(halves.ms).toBeGreaterThan(500_000);
  });

  test("tells kinds apart where there are enough of them, and goes by all where there are not", () => {
    const given = [...timed("picture", ...Array(40).fill(1000)), ...timed("text", ...Array(40).fill(5000))];
    const [pictures, texts] = [timeLeft(given, left({ picture: 10 }))!.ms / 10, timeLeft(given, left({ text: 10 }))!.ms / 10];
    const all = timeLeft(given, left({ archive: 10 }))!.ms / 10;
    // An archive takes longer than a picture, whoever looks at it; how long exactly is not known before one was decided.
    expect(all).toBeGreaterThan(pictures * 2);
    expect(pictures).toBeLessThan(1300);
    expect(texts).toBeGreaterThan(4400);
  });

  test("is the less sure the more the times differ and the fewer were given; nothing left takes nothing", () => {
    const span = (given: Timed[], n: number) => {
      const { low, high, ms } = timeLeft(given, left({ text: n }))!;
      expect(low).toBeLessThanOrEqual(ms);
      expect(high).toBeGreaterThanOrEqual(ms);
      return (high - low) / ms;
    };
    const even = timed("text", ...Array.from({ length: 20 }, (_, n) => 1900 + 10 * n));
    const wild = timed("text", ...Array.from({ length: 20 }, (_, n) => 200 + 190 * n));
    expect(span(wild, 30)).toBeGreaterThan(span(even, 30));
    expect(span(wild.slice(5, 15), 30)).toBeLessThan(span(wild, 30) * 2);
    expect(timeLeft(wild, left({}))).toEqual({ ms: 0, low: 0, high: 0 });
  });
});

test("a time that is not sure is said as a person says it", () => {
  const words = makeWords("en-GB", "UTC", 0);
  const minutes = (ms: number, low: number, high: number) =>
    inWords({ ms: ms * 60_000, low: low * 60_000, high: high * 60_000 }, words);
  expect(minutes(0.3, 0.1, 0.6)).toBe("under a minute");
  expect(minutes(6, 5, 8)).toBe("5 to 8 minutes");
  expect(minutes(6, 5.8, 6.2)).toBe("about 6 minutes");
  expect(minutes(2, 0, 4)).toBe("1 to 4 minutes");
  expect(minutes(180, 100, 300)).toBe("about 3 hours");
});
