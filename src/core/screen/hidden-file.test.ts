import { describe, expect, test } from "vitest";
import type { Raw } from "../names/raw";
import { canBeListed, changedHiddenFile, readHiddenFile } from "./hidden-file";

const raw = (text: string) => text as Raw;
const change = (content: string | undefined, remove: string[], add: string[]) =>
  changedHiddenFile(content === undefined ? undefined : raw(content), { remove: new Set(remove.map(raw)), add: add.map(raw) });

describe("the list of what a folder does not show", () => {
  test("is read a name a line, whatever ends the last one", () => {
    expect(readHiddenFile(undefined).lines).toEqual([]);
    for (const text of ["a\nb c", "a\nb c\n"]) expect(readHiddenFile(raw(text))).toEqual({ lines: ["a", "b c"], end: "\n" });
    expect(readHiddenFile(raw("a\r\nb\r\n"))).toEqual({ lines: ["a", "b"], end: "\r\n" });
  });
  test("keeps the lines of others, with empty ones and bytes that are no text, in their order", () => {
    expect(change("theirs\n\n\u00ff\u00fe", [], ["ours"])).toBe("theirs\n\n\u00ff\u00fe\nours\n");
    expect(change("theirs\n\n\u00ff\u00fe\nours\n", ["ours"], [])).toBe("theirs\n\n\u00ff\u00fe\n");
    expect(change("theirs\r\n", [], ["ours"])).toBe("theirs\r\nours\r\n");
  });
  test("is made where there is none, and goes when nothing is left in it", () => {
    expect(change(undefined, [], ["a", "b"])).toBe("a\nb\n");
    expect(change("a\nb\n", ["a", "b"], [])).toBeUndefined();
    expect(change(undefined, ["a"], [])).toBeUndefined();
  });
  test("is the very same where nothing changes: a name that is there is not listed twice", () => {
    expect(change("a", [], ["a"])).toBe("a");
    expect(change("a\n\n", ["b"], [])).toBe("a\n\n");
  });
  test("holds no name with an end of line in it", () => {
    expect([raw("a"), raw("a\nb"), raw("a\r")].map(canBeListed)).toEqual([true, false, false]);
  });
});
