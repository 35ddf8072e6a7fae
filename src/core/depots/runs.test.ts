import fc from "fast-check";
import { expect, test } from "vitest";
import { asRuns, inRuns } from "./runs";

test("numbers as runs", () => {
  expect(asRuns([])).toBe("");
  expect(asRuns([0, 1, 2, 3, 7])).toBe("0-3,7");
  expect(asRuns([9, 4, 5, 5])).toBe("4-5,9");
  fc.assert(
    fc.property(fc.uniqueArray(fc.nat(200)), (numbers) => {
      const isIn = inRuns(asRuns(numbers));
      expect(Array.from({ length: 202 }, (_, n) => n).filter(isIn)).toEqual([...numbers].sort((a, b) => a - b));
    }),
  );
});

test("what another wrote there counts for nothing", () => {
  const isIn = inRuns("x,1-,-3,2.5,5-4,7");
  expect([0, 1, 2, 3, 4, 5, 6, 7, 8].filter(isIn)).toEqual([7]);
});
