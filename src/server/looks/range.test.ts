import { expect, test } from "vitest";
import { rangeOf } from "./range";

test("a part is asked for by its first and last byte, its first alone, or how much of the end", () => {
  expect(rangeOf("bytes=0-0", 10)).toEqual({ from: 0, to: 0 });
  expect(rangeOf("bytes=3-", 10)).toEqual({ from: 3, to: 9 });
  expect(rangeOf("bytes=3-400", 10)).toEqual({ from: 3, to: 9 });
  expect(rangeOf("bytes=-4", 10)).toEqual({ from: 6, to: 9 });
  expect(rangeOf("bytes=-400", 10)).toEqual({ from: 0, to: 9 });
});

test("a part that is not there is none; what is not understood is all", () => {
  expect(rangeOf("bytes=10-", 10)).toBe("none");
  expect(rangeOf("bytes=-0", 10)).toBe("none");
  expect(rangeOf("bytes=0-", 0)).toBe("none");
  for (const all of [null, "", "bytes=-", "bytes=5-3", "bytes=0-1,3-4", "items=0-1", "bytes=a-b", `bytes=${"9".repeat(40)}-`])
    expect(rangeOf(all, 10), String(all)).toBeUndefined();
});
