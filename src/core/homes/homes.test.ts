import { describe, expect, test } from "vitest";
import type { Raw } from "../names/raw";
import { type FiledFile, learn, rank, sure, wordsOf } from "./belongs";
import { readUserDirs } from "./standard";

const titles = new Map([
  ["tides", "Documents / Tides"],
  ["photos", "Pictures / Nests"],
  ["letters", "Documents / Letters"],
]);
const files: FiledFile[] = [
  ...Array.from({ length: 20 }, (_, n): FiledFile => ({ home: "tides", name: `high-water-${n}.csv`, kind: "table" })),
  ...Array.from({ length: 20 }, (_, n): FiledFile => ({ home: "photos", name: `nest-${n}.jpg`, kind: "picture" })),
  ...Array.from({ length: 5 }, (_, n): FiledFile => ({ home: "letters", name: `letter-harbour-${n}.txt`, kind: "text" })),
];
const homes = learn(files, titles);

describe("what belongs in a home", () => {
  test("kind, ending and words decide, and the reason says so", () => {
    const [best] = rank({ name: "high-water-september.csv", kind: "table" }, homes);
    expect(best).toMatchObject({ home: "tides", why: expect.stringMatching(/“(high|water)”.*20 of 20 there are of its kind/) });
    expect(best!.score).toBeGreaterThan(sure);
  });
  test("a thing without a word in common has no home", () => {
    expect(rank({ name: "zzz.csv", kind: "table" }, homes)).toEqual([]);
    expect(rank({ name: "2026-11-25.csv", kind: "table" }, homes)).toEqual([]);
  });
  test("a word alone, of another kind, is not sure", () => {
    const [best] = rank({ name: "nest-plan-for-next-year.txt", kind: "text" }, homes);
    expect(best?.score ?? 0).toBeLessThan(sure);
  });
  test("an empty home is never proposed", () => {
    expect(rank({ name: "empty-thing.csv", kind: "table" }, learn([], new Map([["e", "Empty"]])))).toEqual([]);
  });
  test("words are letters, each once, parted at capitals", () => {
    expect(wordsOf("Ring-List_week12 ringList.CSV")).toEqual(["ring", "list", "week"]);
    expect(wordsOf("überblick.txt")).toEqual(["überblick"]);
  });
});

describe("standard folders", () => {
  test("are read from user-dirs.dirs: relative, absolute, escaped, switched off", () => {
    const found = readUserDirs(
      '# x\nXDG_DESKTOP_DIR="$HOME/Schreib\\"tisch"\nXDG_DOWNLOAD_DIR="/data/dl/"\nXDG_MUSIC_DIR="$HOME/"\nXDG_NONSENSE_DIR="$HOME/x"\nXDG_PICTURES_DIR=unquoted\n',
      "/home/u" as Raw,
    );
    expect([...found]).toEqual([
      ["DESKTOP", '/home/u/Schreib"tisch'],
      ["DOWNLOAD", "/data/dl"],
      ["MUSIC", null],
    ]);
  });
});
