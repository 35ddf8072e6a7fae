import { expect, test } from "vitest";
import { treeOf } from "./archive-tree";

test("folders stand before files, with all that lies in them, whether they are listed or not", () => {
  const rows = treeOf([
    { name: "./readme", bytes: 3 },
    { name: "logs/2026/day-10.csv", bytes: 5 },
    { name: "logs/2026/day-9.csv", bytes: 7 },
    { name: "empty/", bytes: 0, folder: true },
  ]);
  expect(rows.map(({ name, depth, folder, bytes }) => [depth, name, folder, bytes])).toEqual([
    [0, "empty", true, 0],
    [0, "logs", true, 12],
    [1, "2026", true, 12],
    [2, "day-9.csv", false, 7],
    [2, "day-10.csv", false, 5],
    [0, "readme", false, 3],
  ]);
});

test("names that lead up, repeat, or nest without end are rows like others", () => {
  expect(treeOf([{ name: "../../etc/passwd", bytes: 1 }]).map(({ name }) => name)).toEqual(["..", "..", "etc", "passwd"]);
  expect(
    treeOf([
      { name: "a", bytes: 1 },
      { name: "a", bytes: 2 },
      { name: "a/b", bytes: 4 },
    ]),
  ).toMatchObject([
    { name: "a", folder: true, bytes: 7 },
    { name: "b", depth: 1 },
  ]);
  const deep = treeOf([{ name: "x/".repeat(50_000), bytes: 0, folder: true }]);
  expect(deep.length).toBeLessThan(50);
});
