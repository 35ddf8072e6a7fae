import { describe, expect, test } from "vitest";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawToJson } from "@/contract/raw-json";
import { type Raw, rawFromText } from "@/core/names/raw";
import { asNamed, filesWith, listed, partsNamed, wordsOf } from "./contents";

type Entry = ParcelThingJson["entries"][number];

const entry = (rel: string | Raw, type: Entry["type"], bytes = 0): Entry => ({
  rel: rawToJson(rel as Raw),
  type,
  mode: 0o644,
  mtimeNs: "1700000000000000000",
  bytes,
});
const thing = (name: string | Raw, entries: Entry[], folder = "/station/Desktop"): ParcelThingJson => ({
  item: name,
  name: rawToJson(name as Raw),
  folder: rawToJson(rawFromText(folder)),
  position: null,
  entries,
});

const things = [
  thing("log", [
    entry("", "folder"),
    entry("2024", "folder"),
    entry("2024/tide.csv", "file", 10),
    entry("2024/deep", "folder"),
    entry("2024/deep/nest.csv", "file", 7),
    entry("2024 late.csv", "file", 3),
    entry("latest", "link"),
  ]),
  thing("tide.csv", [entry("", "file", 5)]),
  thing("tide.csv", [entry("", "file", 6)], "/station/Downloads"),
  thing("\xff\xe9", [entry("", "file", 1)]),
];
const named = asNamed(things);

describe("the things of a parcel", () => {
  test("have names of which no two are the same, also where one is called as another would be numbered", () => {
    const called = (names: string[]) => asNamed(names.map((name) => thing(name, [entry("", "file")]))).map(({ name }) => name);
    expect(called(["a", "a", "a [2]", "a"])).toEqual(["a", "a [3]", "a [2]", "a [4]"]);
    expect(new Set(named.map(({ name }) => name)).size).toBe(things.length);
  });

  test("are listed folder by folder, with how many files and bytes are in each", () => {
    expect(listed(named, "", 100)?.entries.map(({ name, type, files, bytes }) => [name, type, files, bytes])).toEqual([
      ["log", "folder", 3, 20],
      // A name that is no text, with its bytes told.
      [named[3]!.name, "file", 1, 1],
      ["tide.csv", "file", 1, 5],
      ["tide.csv [2]", "file", 1, 6],
    ]);
    expect(listed(named, "log", 100)?.entries.map(({ path, files, bytes }) => [path, files, bytes])).toEqual([
      ["log/2024", 2, 17],
      ["log/2024 late.csv", 1, 3],
      ["log/latest", 0, 0],
    ]);
    expect(listed(named, "log/2024", 1)).toMatchObject({ entries: [{ path: "log/2024/deep" }], more: 1 });
  });

  test.each(["lo", "log/202", "log/2024/tide.csv", "other"])("%s is no folder of it", (folder) => {
    expect(listed(named, folder, 100)).toBeUndefined();
  });

  test.each([
    ["TIDE csv", ["log/2024/tide.csv", "tide.csv", "tide.csv [2]"]],
    ["  2024   nest ", ["log/2024/deep/nest.csv"]],
    ["nést", ["log/2024/deep/nest.csv"]],
    ["latest", []],
  ])("are found by the words %s, files alone", (search, paths) => {
    expect([...filesWith(wordsOf(search), named)].map(({ path }) => path)).toEqual(paths);
  });

  test("are brought back in parts: a folder once, though what lies in it is named too", () => {
    const { things: parts, missing } = partsNamed(things, [
      "log/2024",
      "log/2024/tide.csv",
      "tide.csv [2]",
      "log/2023",
      "log/latest",
    ]);
    expect(missing).toEqual(["log/2023"]);
    expect(parts.map((part) => [part.name, part.folder, part.entries.map(({ rel }) => rel)])).toEqual([
      ["2024", "/station/Desktop/log", ["", "tide.csv", "deep", "deep/nest.csv"]],
      ["latest", "/station/Desktop/log", [""]],
      ["tide.csv", "/station/Downloads", [""]],
    ]);
  });
});
