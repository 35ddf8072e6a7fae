import { expect, test } from "vitest";
import { arrivedSince, hiddenAt, type Icon } from "./levels";

const icon = (id: string, more: Partial<Icon> = {}): Icon => ({ id, kind: "text", stays: false, arrivedAt: 0, ...more });
const icons = [icon("a"), icon("b", { stays: true }), icon("c", { kind: "shortcut" }), icon("d", { arrivedAt: 20 })];

test("what is out of sight at each level", () => {
  expect(hiddenAt("everything", icons)).toEqual([]);
  expect(hiddenAt("some kinds", icons)).toEqual(["c"]);
  expect(hiddenAt("what stays", icons)).toEqual(["a", "c", "d"]);
  expect(hiddenAt("bare", icons)).toEqual(["a", "b", "c", "d"]);
});

test("what arrived since is counted while it is quiet, and only what is in sight", () => {
  expect(arrivedSince({ level: "bare", since: 10, hidden: ["a", "b", "c"] }, icons).map((i) => i.id)).toEqual(["d"]);
  expect(arrivedSince({ level: "bare", since: 10, hidden: ["d"] }, icons)).toEqual([]);
  expect(arrivedSince({ level: "everything", since: 0, hidden: [] }, icons)).toEqual([]);
});
