import { describe, expect, test } from "vitest";
import { firstScreen } from "../screen/state";
import { arrivedSince, hiddenBy, type Icon, isInDoubt, isOver, kindGroups } from "./levels";

const icon = (id: string, more: Partial<Icon> = {}): Icon => ({ id, kind: "text", stays: false, arrivedAt: 0, ...more });
const icons = [
  icon("a"),
  icon("b", { stays: true }),
  icon("c", { kind: "shortcut" }),
  icon("d", { kind: "drive", arrivedAt: 20 }),
];
const { shown } = firstScreen;

describe("what is out of sight", () => {
  test("at each level", () => {
    expect(hiddenBy(shown, icons)).toEqual([]);
    expect(hiddenBy({ ...shown, level: "some kinds", kinds: ["shortcut"] }, icons)).toEqual(["c"]);
    expect(hiddenBy({ ...shown, level: "some kinds", kinds: ["drive", "text"] }, icons)).toEqual(["a", "b", "d"]);
    expect(hiddenBy({ ...shown, level: "what stays" }, icons)).toEqual(["a", "c", "d"]);
    expect(hiddenBy({ ...shown, level: "bare" }, icons)).toEqual(["a", "b", "c", "d"]);
  });
  test("kinds count with the level that is about them, and with what stays, where that began over them", () => {
    expect(hiddenBy({ ...shown, level: "what stays", kinds: ["text"] }, icons)).toEqual(["a", "b", "c", "d"]);
    expect(hiddenBy({ ...shown, kinds: ["text"] }, icons)).toEqual([]);
  });
  test("one by one, whatever the level; and back, in spite of it", () => {
    expect(hiddenBy({ ...shown, apart: ["b"] }, icons)).toEqual(["b"]);
    expect(hiddenBy({ ...shown, level: "what stays", apart: ["b"] }, icons)).toEqual(["a", "b", "c", "d"]);
    expect(hiddenBy({ ...shown, level: "bare", despite: ["a", "gone"] }, icons)).toEqual(["b", "c", "d"]);
  });
  test("every kind is a drive, a shortcut, a folder or a file, and none is two", () => {
    const all = Object.values(kindGroups).flat();
    expect(new Set(all).size).toBe(all.length);
    expect(kindGroups.file).toContain("web link");
  });
});

test("what arrived since is counted while it is quiet: what is in sight, and would not be", () => {
  const bare = { ...shown, level: "bare" as const, since: 10 };
  expect(arrivedSince({ ...bare, hidden: ["a", "b", "c"] }, icons).map((i) => i.id)).toEqual(["d"]);
  expect(arrivedSince({ ...bare, hidden: ["d"] }, icons)).toEqual([]);
  expect(arrivedSince({ ...bare, level: "some kinds", kinds: ["text"] }, icons)).toEqual([]);
  expect(arrivedSince(shown, icons)).toEqual([]);
});

test("an end is over when its time came, and not by a clock that was set back", () => {
  expect(isOver({ since: 1000, until: null }, 9e9)).toBe(false);
  expect(isOver({ since: 1000, until: 5000 }, 4999)).toBe(false);
  expect(isOver({ since: 1000, until: 5000 }, 5000)).toBe(true);
  const began = 1_000_000;
  expect(isInDoubt({ since: began }, began - 30_000)).toBe(false);
  expect(isInDoubt({ since: began }, began - 90_000)).toBe(true);
  expect(isOver({ since: began, until: began - 100_000 }, began - 90_000)).toBe(false);
});
