import unhomoglyph from "unhomoglyph";
import { expect, test } from "vitest";
import { mayLookAlike, toldApart } from "./alike";

const apart = (...names: string[]) => toldApart(names, unhomoglyph);

test("names that look alike say by what they differ; each is another one on sight", () => {
  // A Cyrillic letter for a Latin one.
  expect(apart("tide.txt", "tid\u0435.txt")).toEqual(["tide.txt", "tid\u0435‹U+0435›.txt"]);
  // Composed, and letter by letter.
  expect(apart("nest\u00e9.csv", "neste\u0301.csv")).toEqual(["nest\u00e9‹U+00E9›.csv", "neste\u0301‹U+0301›.csv"]);
  // Spaces that are not seen, and what is not drawn at all.
  expect(apart("gull list", "gull  list", "gull list ", "gull\u00a0list", "gull\u200b list")).toEqual([
    "gull list",
    "gull␣␣list",
    "gull list␣",
    "gull‹U+00A0›list",
    "gull‹U+200B› list",
  ]);
});

test("a name that looks like no other is left as it is, whatever it is written in", () => {
  const names = [
    "Übersicht.pdf",
    "Приливы.csv",
    "潮汐表.txt",
    "r\u00e9sum\u00e9.doc",
    "two  spaces.txt",
    "plain.txt",
    "PLAIN.txt",
  ];
  expect(apart(...names)).toEqual(names);
  expect(mayLookAlike(["plain.txt", "a b.c"])).toBe(false);
  expect(mayLookAlike(["plain.txt", "a  b.c"])).toBe(true);
});
