import { describe, expect, test } from "vitest";
import type { Raw } from "../names/raw";
import { pointFrom, pointsIn } from "./positions";
import { answerOf, readTold } from "./told";

const comma = { separator: ",", order: "x y" } as const;

test("a place is two numbers in the order that was said, and nothing else", () => {
  expect(pointFrom("64,128", comma)).toEqual({ x: 64, y: 128 });
  expect(pointFrom(" -12.5 ; 8 ", { separator: ";", order: "y x" })).toEqual({ x: 8, y: -12.5 });
  for (const text of ["", "64", "64,128,1", "0x10,2", "1e9,2", "64,", `${"1".repeat(70)},2`, "NaN,1"])
    expect(pointFrom(text, comma), text).toBeUndefined();
});

describe("a text file of places", () => {
  test("has a line a name, where the name itself may hold the sign", () => {
    const points = pointsIn("a.txt=10,20\r\nx=y.txt=30,40\nbroken\n=5,5\nc.txt=none\n" as Raw, comma);
    expect([...points]).toEqual([
      ["a.txt", { x: 10, y: 20 }],
      ["x=y.txt", { x: 30, y: 40 }],
    ]);
  });
  test("or a section a name with one key in it among others", () => {
    const content = "[a.txt]\nlabel=1,1\nplace=10 20\n[b [old].txt]\nplace=30 40\n[c]\n";
    expect([...pointsIn(content as Raw, { key: "place", separator: " ", order: "y x" })]).toEqual([
      ["a.txt", { x: 20, y: 10 }],
      ["b [old].txt", { x: 40, y: 30 }],
    ]);
  });
  test("is read up to a bound", () => {
    const points = pointsIn("n=1,1\n".repeat(50_000).concat("late=2,2") as Raw, comma);
    expect([...points.keys()]).toEqual(["n"]);
  });
});

describe("the file that tells a screen", () => {
  const lines = { hide: ["icons", "off"], show: ["/usr/bin/icons", "on"] };
  test("holds two lines, may hold a third and where the places are", () => {
    expect(
      readTold(JSON.stringify({ ...lines, ask: ["icons"], positions: { attribute: "user.place", ...comma } })),
    ).toMatchObject(lines);
  });
  test.each([
    ["no JSON", "hide: icons", /no JSON/],
    ["a line missing", JSON.stringify({ hide: ["a"] }), /show/],
    ["a line as one text, for a shell", JSON.stringify({ ...lines, hide: "icons off" }), /hide/],
    ["an empty line", JSON.stringify({ ...lines, hide: [] }), /hide/],
    ["a word with a NUL", JSON.stringify({ ...lines, hide: ["a", "b\0c"] }), /hide/],
    ["a program named from wherever one stands", JSON.stringify({ ...lines, hide: ["./a"] }), /from \/ on/],
    ["another key", JSON.stringify({ ...lines, before: ["a"] }), /before|Unrecognized/],
    [
      "an attribute of the system",
      JSON.stringify({ ...lines, positions: { attribute: "security.selinux", ...comma } }),
      /positions/,
    ],
  ])("is refused with %s", (_what, text, words) => {
    expect(() => readTold(text)).toThrow(words);
  });
  test("answers are one word", () => {
    expect([" Hidden\n", "shown", "", "hidden shown", "yes"].map(answerOf)).toEqual([
      "hidden",
      "shown",
      undefined,
      undefined,
      undefined,
    ]);
  });
});
