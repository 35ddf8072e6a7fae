import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { isName, type Raw, rawFromBytes, rawFromText } from "../names/raw";
import { firstScreen } from "../screen/state";
import { makeWords } from "../words/words";
import { dependents, dependsOn } from "./depends";
import type { Identity } from "./shapes";
import { type Step, stepSentence, touchesOf } from "./step";
import { shownPlace } from "./step-type";
import { deletionDate, escapePath, readTrashInfo, trashInfo } from "./trash-info";

const raw = (text: string) => text as Raw;
const identity: Identity = { type: "file", ino: "1", bytes: 1, mtimeNs: "1" };
const move = (item: string, from: string, to: string): Step => ({ type: "move", item, from: raw(from), to: raw(to), identity });
const depends = (later: Step[], earlier: Step[]) => dependsOn(touchesOf(later), touchesOf(earlier));

describe("whether an entry depends on another", () => {
  test("on the same thing, on a folder it made, on a folder that moved; and not otherwise", () => {
    const first = [move("a", "/d/a", "/h/a")];
    expect(depends([move("a", "/h/a", "/g/a")], first)).toBe(true);
    expect(depends([move("b", "/d/b", "/h/b")], first)).toBe(false);
    expect(depends([move("c", "/d/c", "/h/new/c")], [{ type: "make-folder", folder: raw("/h/new") }])).toBe(true);
    expect(depends([move("h", "/h", "/elsewhere")], first)).toBe(true);
    expect(depends([{ type: "remove-empty-folder", folder: raw("/d"), mode: 0, mtimeNs: "0" }], first)).toBe(true);
  });
  test("on a name that another thing was given since; not on one that another thing gave up", () => {
    const left = [move("a", "/d/a", "/h/a")];
    expect(depends([move("b", "/g/a", "/d/a")], left)).toBe(true);
    expect(
      depends([{ type: "copy", item: "b", to: raw("/d/a"), parcel: { lay: raw("/"), name: raw("p") }, tree: [] }], left),
    ).toBe(true);
    expect(depends([{ type: "make-folder", folder: raw("/d/a") }], left)).toBe(true);
    expect(depends([move("b", "/d/a", "/g/a")], left)).toBe(false);
    expect(depends([move("b", "/g/b", "/h/b")], left)).toBe(false);
  });
  test("all that has to be undone first: what depends on it, and what depends on that", () => {
    const later = [
      { entry: "moved on", touch: touchesOf([move("a", "/h/a", "/g/a")]) },
      { entry: "another", touch: touchesOf([move("b", "/d/b", "/h/b")]) },
      { entry: "took the name it had there", touch: touchesOf([move("c", "/d/c", "/h/a")]) },
      { entry: "took that further", touch: touchesOf([move("c", "/h/a", "/x/c")]) },
    ];
    expect(dependents(touchesOf([move("a", "/d/a", "/h/a")]), later)).toEqual([
      "moved on",
      "took the name it had there",
      "took that further",
    ]);
    expect(dependents(touchesOf([move("z", "/d/z", "/h/z")]), later)).toEqual([]);
  });
  test("a trash folder or parcel that was made in passing is no reason", () => {
    const made: Step[] = [
      { type: "make-folder", folder: raw("/t/files"), shared: true },
      { type: "set", key: "parcel:1", from: null, to: {}, shared: true },
    ];
    expect(
      depends([{ type: "trash", item: "b", from: raw("/d/b"), trash: raw("/t"), name: raw("b"), info: "", identity }], made),
    ).toBe(false);
    expect(
      depends([{ type: "set", key: "verdict:1", from: null, to: {} }], [{ type: "set", key: "verdict:2", from: null, to: {} }]),
    ).toBe(false);
    expect(
      depends([{ type: "set", key: "verdict:1", from: {}, to: null }], [{ type: "set", key: "verdict:1", from: null, to: {} }]),
    ).toBe(true);
  });
});

describe("the trash's info files", () => {
  const path = fc
    .array(fc.uint8Array({ minLength: 1, maxLength: 40 }).map(rawFromBytes).filter(isName), { minLength: 1, maxLength: 4 })
    .map((parts) => `/${parts.join("/")}` as Raw);
  test("every path survives being written and read, as plain ASCII without a line break", () => {
    fc.assert(
      fc.property(path, (p) => {
        const text = trashInfo(p, "2026-11-25T09:24:19");
        expect(text).toMatch(/^\[Trash Info\]\nPath=[\x21-\x7e]+\nDeletionDate=2026-11-25T09:24:19\n$/);
        expect(readTrashInfo(text)).toEqual({ path: p, deletionDate: "2026-11-25T09:24:19" });
      }),
    );
  });
  test("those of other programs are read, damaged ones survived", () => {
    expect(readTrashInfo("[Trash Info]\r\nDeletionDate=x\r\nPath=/home/u/%C3%A9%20.txt\r\nExtra=1\r\n")).toEqual({
      path: rawFromText("/home/u/é .txt"),
      deletionDate: "x",
    });
    expect(readTrashInfo("[Trash Info]\nPath=/home/u/\u00fcber\u2026")?.path).toBe(rawFromText("/home/u/über…"));
    for (const damaged of ["", "[Trash Info]", "[Trash Info]\nPath=", "Path=/a", "\u0000\u0001"])
      expect(readTrashInfo(damaged)).toBeUndefined();
  });
  test("the date is local", () => {
    expect(deletionDate(Date.UTC(2026, 0, 1, 23, 30, 5), -60)).toBe("2026-01-02T00:30:05");
    expect(escapePath(raw("/a b%"))).toBe("/a%20b%25");
  });
});

test("steps in words", () => {
  const words = makeWords("en-GB", "UTC", 0);
  const say = (step: Step) => stepSentence(step, { root: raw("/home/u"), words, titleOf: () => "tide.csv" });
  expect(say(move("a", "/home/u/Desktop/a.csv", "/home/u/Documents/Tides/a (2).csv"))).toBe(
    "a.csv from Desktop to Documents / Tides as a (2).csv",
  );
  expect(say({ type: "set", key: "verdict:1", from: null, to: { verdict: "wait", until: 0 } })).toBe(
    "tide.csv: wait until 1 January 1970",
  );
  expect(
    say({
      type: "screen",
      part: "shown",
      from: firstScreen.shown,
      to: { ...firstScreen.shown, level: "bare", hidden: ["a", "b"] },
    }),
  ).toBe("2 icons out of sight, level bare");
  expect(shownPlace(raw("/mnt/disk"), raw("/home/u"))).toBe("/ mnt / disk");
});
