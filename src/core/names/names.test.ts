import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { cutBytes, folderNameFromText, freeName } from "./free-name";
import {
  bytesOfRaw,
  endingOf,
  folderOf,
  isName,
  isWithin,
  joinRaw,
  nameOf,
  normalRaw,
  type Raw,
  rawFromBytes,
  rawFromText,
  shownName,
  textOfRaw,
} from "./raw";

const anyBytes = fc.uint8Array({ minLength: 1, maxLength: 255 });
const anyName = anyBytes.map(rawFromBytes).filter(isName);

describe("names as bytes", () => {
  test("every byte string survives the way there and back", () => {
    fc.assert(
      fc.property(anyBytes, (bytes) => {
        expect(bytesOfRaw(rawFromBytes(bytes))).toEqual(bytes);
      }),
    );
  });
  test("text survives, and composed and decomposed stay two names", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme" }), (text) => {
        expect(textOfRaw(rawFromText(text))).toBe(text);
      }),
    );
    expect(rawFromText("caf\u00e9")).not.toBe(rawFromText("cafe\u0301"));
  });
  test("a shown name holds no control character, line break or direction override", () => {
    fc.assert(
      fc.property(anyName, (name) => {
        expect(shownName(name)).not.toMatch(/[\u0000-\u001f\u007f-\u009f\u2028\u2029\u202a-\u202e\u2066-\u2069]/);
      }),
    );
    expect(shownName(rawFromText("two\nlines"))).toBe("two\\nlines");
    expect(shownName(rawFromText("\u202egpj.exe"))).toBe("\\u202egpj.exe");
    expect(shownName(rawFromBytes(new Uint8Array([0x61, 0xff])))).toBe("a\\xff");
  });
  test("paths are taken apart and put together by name alone", () => {
    fc.assert(
      fc.property(fc.array(anyName, { minLength: 1, maxLength: 5 }), (parts) => {
        const path = joinRaw("/" as Raw, ...parts);
        expect(nameOf(path)).toBe(parts.at(-1));
        expect(folderOf(path)).toBe(parts.length === 1 ? "/" : `/${parts.slice(0, -1).join("/")}`);
        expect(isWithin(folderOf(path), path)).toBe(true);
      }),
    );
    expect(normalRaw("/a/./b//../c" as Raw)).toBe("/a/c");
    expect(normalRaw("/../../etc" as Raw)).toBe("/etc");
    expect(isWithin("/home/a" as Raw, "/home/ab" as Raw)).toBe(false);
  });
  test("what cannot be a name is told", () => {
    for (const bad of ["", ".", "..", "a/b", "a\0b", "x".repeat(256)]) expect(isName(bad as Raw)).toBe(false);
  });
  test("endings", () => {
    expect(["a.TXT", ".hidden", "a.", "a.tar.gz", "none"].map(endingOf)).toEqual(["txt", "", "", "gz", ""]);
  });
});

describe("a free name", () => {
  test("is the wanted one where that is free, else one with a number before the ending", () => {
    const taken = new Set(["tide.csv", "tide (2).csv"]);
    expect(freeName(rawFromText("other.csv"), (n) => taken.has(n))).toBe("other.csv");
    expect(freeName(rawFromText("tide.csv"), (n) => taken.has(n))).toBe("tide (3).csv");
    expect(freeName(rawFromText(".hidden"), (n) => n === ".hidden")).toBe(".hidden (2)");
  });
  test("is never taken, always a name, and cut between characters", () => {
    fc.assert(
      fc.property(anyName, fc.integer({ min: 1, max: 30 }), (name, clashes) => {
        const taken = new Set<Raw>();
        for (let n = 0; n < clashes; n++) taken.add(freeName(name, (x) => taken.has(x)));
        expect(taken.size).toBe(clashes);
        for (const one of taken) expect(isName(one)).toBe(true);
      }),
    );
    const long = rawFromText(`${"é".repeat(126)}.txt`);
    expect(textOfRaw(freeName(long, (n) => n === long))).toMatch(/^é+ \(2\)\.txt$/);
    expect(textOfRaw(cutBytes(rawFromText("aé"), 2))).toBe("a");
  });
  test("a typed name becomes a folder's name or none", () => {
    expect(folderNameFromText("  Season\u000012 / x ")).toBe("Season 12 x");
    expect(folderNameFromText("../..")).toBeUndefined();
    expect(folderNameFromText("...hidden")).toBe("hidden");
  });
});
