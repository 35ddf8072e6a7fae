import { describe, expect, test } from "vitest";
import { planVersion, readStoredStep } from "./stored-step";

const read = (version: number, step: unknown) => readStoredStep(version, JSON.stringify(step));

describe("a stored step", () => {
  test("of the first version kept a small file as its text", () => {
    expect(read(1, { type: "write", file: "/h/a", before: null, after: "tide · 7 m" })).toEqual({
      type: "write",
      file: "/h/a",
      before: null,
      // A byte string: two bytes of UTF-8 for the middle dot.
      after: { content: "tide \u00c2\u00b7 7 m" },
    });
  });
  test("of the second version knew one part of the screen", () => {
    const [from, to] = [
      { level: "everything", since: 0, hidden: [] },
      { level: "bare", since: 7, hidden: ["a"] },
    ];
    for (const version of [1, 2])
      expect(read(version, { type: "show", from, to })).toEqual({ type: "screen", part: "shown", from, to });
    expect(() => read(planVersion, { type: "show", from, to })).toThrow();
  });
  test("of a version that is not known yet is not guessed at", () => {
    for (const version of [0, planVersion + 1]) expect(() => read(version, { type: "make-folder", folder: "/h" })).toThrow();
  });
  test("that was tampered with is none", () => {
    expect(() => read(planVersion, { type: "make-folder", folder: "/h\u2028" })).toThrow();
    expect(() => read(planVersion, { type: "toString", folder: "/h" })).toThrow();
    expect(() => read(planVersion, { type: "screen", part: "size", from: { level: "bare" }, to: {} })).toThrow();
    expect(() => read(planVersion, null)).toThrow();
  });
});
