import { describe, expect, test } from "vitest";
import type { Point } from "../ledger/shapes";
import type { Raw } from "../names/raw";
import { firstScreen, iconBoxes } from "../screen/state";
import { firstGridLook, gridOn, isOn } from "../straighten/grid";
import { overlapping } from "../survey/figures";
import { type KeptIcon, matched } from "./layout";
import { onto } from "./onto";

const sum = (letter: string) => letter.repeat(64);
const kept = (name: string, more: Partial<KeptIcon> = {}): KeptIcon => ({
  x: 0,
  y: 0,
  name: name as Raw,
  type: "file",
  kind: "text",
  bytes: 5,
  ...more,
});
const now = (id: string, name: string, more: object = {}) => ({
  id,
  name: name as Raw,
  type: "file" as const,
  bytes: 5,
  ...more,
});

describe("icons are found again", () => {
  test("by what they are, also under another name; then by content, by size, by name", () => {
    const layout = [
      kept("old name", { item: "1" }),
      kept("moved by another", { item: "gone", sha256: sum("a") }),
      kept("same name", { sha256: sum("b") }),
      kept("grew", { bytes: 5 }),
      kept("gone"),
    ];
    const icons = [
      now("1", "new name"),
      now("2", "called otherwise", { sha256: sum("a") }),
      now("3", "same name", { sha256: sum("b") }),
      now("4", "grew", { bytes: 70 }),
      now("5", "arrived"),
    ];
    expect([...matched(layout, icons)].sort()).toEqual([
      [0, "1"],
      [1, "2"],
      [2, "3"],
      [3, "4"],
    ]);
  });

  test("none twice, and no folder for a file", () => {
    const layout = [kept("a", { sha256: sum("a") }), kept("b", { sha256: sum("a") }), kept("c", { type: "folder" })];
    const icons = [now("1", "b", { sha256: sum("a") }), now("2", "c")];
    expect([...matched(layout, icons)]).toEqual([[1, "1"]]);
  });
});

describe("a layout on another screen", () => {
  const big = { ...firstScreen.size, ...iconBoxes(48) };
  const small = { ...big, width: 1280, height: 800 };
  const spots = gridOn(big, firstGridLook).spots;
  const strewn = (count: number) =>
    new Map(Array.from({ length: count }, (_, n): [string, Point] => [`i${n}`, spots[(n * 37) % spots.length]!]));
  const none = new Map<string, Point>();

  test("of the same size is exact, overlaps and all", () => {
    const places = new Map([
      ["a", { x: 3, y: 4 }],
      ["b", { x: 5, y: 6 }],
    ]);
    expect(onto(places, none, big, big)).toMatchObject({ spots: places, shifted: 0, crowded: 0 });
  });

  test("keeps its distance from the nearest edge", () => {
    const places = new Map([
      ["left", { x: 50, y: 30 }],
      ["right", { x: big.width - 120, y: big.height - 150 }],
    ]);
    const { spots } = onto(places, none, big, small);
    expect([...spots]).toEqual([
      ["left", { x: 50, y: 30 }],
      ["right", { x: small.width - 120, y: small.height - 150 }],
    ]);
    expect(onto(spots, none, small, big).spots).toEqual(places);
  });

  test.each([20, 60, 84])("%i icons on a smaller one: none off, none overlapping, none lost", (count) => {
    const { spots, crowded } = onto(strewn(count), none, big, small);
    expect(spots.size).toBe(count);
    expect(crowded).toBe(0);
    expect(overlapping([...spots.values()], small).size).toBe(0);
    for (const at of spots.values()) expect(isOn(gridOn(small, firstGridLook), at, small)).toBe(true);
  });

  test("where there is no room at all, that is said, and they stay on the screen", () => {
    const { spots, crowded } = onto(strewn(170), none, big, { ...small, width: 640, height: 400 });
    expect(crowded).toBeGreaterThan(0);
    for (const { x, y } of spots.values())
      expect([x <= 640 - 48, y <= 400 - 88, x >= 0, y >= 0]).toEqual([true, true, true, true]);
  });

  test("what it does not know stays where it lies, or makes room", () => {
    const places = new Map([["a", { x: 100, y: 100 }]]);
    const others = new Map([
      ["free", { x: 600, y: 600 }],
      ["taken", { x: 110, y: 105 }],
    ]);
    const { spots } = onto(places, others, big, big);
    expect([spots.get("a"), spots.get("free")]).toEqual([
      { x: 100, y: 100 },
      { x: 600, y: 600 },
    ]);
    expect(overlapping([...spots.values()], big).size).toBe(0);
  });
});
