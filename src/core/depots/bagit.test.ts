import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { isName, rawFromBytes, rawFromText, textOfRaw } from "../names/raw";
import { bagIdentifier, bagInfoText, bagName, manifestLine, payloadName, readManifest } from "./bagit";

describe("a bag", () => {
  test("payload names are safe text, names of their own, whatever the bytes", () => {
    const names = fc.array(fc.uint8Array({ minLength: 1, maxLength: 255 }).map(rawFromBytes).filter(isName), { maxLength: 30 });
    fc.assert(
      fc.property(names, (list) => {
        const taken = new Set<string>();
        const made = list.map((name) => payloadName(name, taken));
        for (const name of made) {
          expect(isName(rawFromText(name))).toBe(true);
          expect(name).not.toMatch(/[%\\\u0000-\u001f\u007f]/);
        }
        expect(new Set(made.map((name) => name.normalize("NFC").toLowerCase())).size).toBe(list.length);
      }),
    );
  });
  test("names that differ only in case or composition are told apart on any file system", () => {
    const taken = new Set<string>();
    expect(["A.txt", "a.txt", "caf\u00e9", "cafe\u0301"].map((n) => payloadName(rawFromText(n), taken))).toEqual([
      "A.txt",
      "a (2).txt",
      "café",
      "café (2)",
    ]);
  });
  test("a manifest is read as it was written; lines that lead outside or are none count as damage", () => {
    const sum = "a".repeat(64);
    expect(readManifest(manifestLine(sum, "data/two words.txt")).sums.get("data/two words.txt")).toBe(sum);
    expect(readManifest(`${sum}  ../out\n${sum}  /abs\nnonsense\n`).damaged).toHaveLength(3);
    expect(readManifest(`${sum.toUpperCase()} *data/x\n`).sums.get("data/x")).toBe(sum);
  });
  test("bag-info and the bag's name", () => {
    const info = bagInfoText({ id: "p1", title: "two\nlines", date: "2026-11-25", bytes: 12, files: 3 });
    expect(info).toContain("Payload-Oxum: 12.3\n");
    expect(info.trimEnd().split("\n")).toHaveLength(4);
    expect(bagIdentifier(info)).toBe("p1");
    expect(bagName("../Season: 12/x ", () => false)).toBe("Season- 12-x");
    expect(textOfRaw(bagName("////", () => false))).toBe("parcel");
  });
});
