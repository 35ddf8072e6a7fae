import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { isName, type Raw, rawFromText, shownName } from "../names/raw";
import { newTitles, readPattern, shortened, type TitledThing } from "./titles";

const thing = (name: string, more: Partial<TitledThing> = {}): TitledThing => ({
  name: rawFromText(name),
  kind: "text",
  folder: false,
  date: "2026-11-25",
  at: 0,
  ...more,
});
const given = (things: TitledThing[], pattern: string, lying: string[] = []) =>
  newTitles(things, readPattern(pattern)!, (name) => lying.map(rawFromText).includes(name)).map(({ name, numbered }) =>
    numbered ? `${shownName(name)} numbered` : shownName(name),
  );

describe("a pattern", () => {
  test("says words, and in braces what is known of the thing; each keeps its ending", () => {
    const nest = thing("DSC_0042.JPG", { kind: "picture", date: "2026-06-03" });
    expect(given([nest], "{date} nest, {kind}")).toEqual(["2026-06-03 nest, picture.JPG"]);
    expect(given([thing("season.tar.gz")], "{name} old")).toEqual(["season.tar old.gz"]);
    expect(given([thing("a folder.of mine", { folder: true })], "{date} {name}")).toEqual(["2026-11-25 a folder.of mine"]);
    expect(given([thing(".profile")], "x {name}")).toEqual(["x .profile"]);
  });
  test("numbers by date, with as many figures as are needed, in the things' own order", () => {
    const things = Array.from({ length: 12 }, (_, n) => thing(`${n}.csv`, { at: 100 - n }));
    const titles = given(things, "tide {number}");
    expect(titles[0]).toBe("tide 12.csv");
    expect(titles[11]).toBe("tide 01.csv");
    expect(new Set(titles).size).toBe(12);
  });
  test("that gives one title to several, or one that lies there, numbers them and says so", () => {
    expect(given([thing("a.txt"), thing("b.txt"), thing("c.md")], "notes", ["notes.txt"])).toEqual([
      "notes (2).txt numbered",
      "notes (3).txt numbered",
      "notes.md",
    ]);
  });
  test("leaves a name to the thing that has it already", () => {
    expect(given([thing("a (2).txt"), thing("a.txt")], "a")).toEqual(["a (2).txt numbered", "a.txt"]);
  });
  test("leaves a thing its own name without a number", () => {
    expect(given([thing("notes.txt")], "{name}", ["notes.txt"])).toEqual(["notes.txt"]);
  });
  test.each(["{nonsense}", "{date} {Size}", "", "  "])("that says what is not known is none: “%s”", (pattern) => {
    expect(readPattern(pattern)).toBeUndefined();
  });
  test("gives names that can be names, all different, whatever it and they are", () => {
    const raw = fc
      .uint8Array({ minLength: 1, maxLength: 255 })
      .map((bytes) => Array.from(bytes, (b) => (b === 0 || b === 47 ? "x" : String.fromCharCode(b))).join("") as Raw)
      .filter(isName);
    const word = fc.constantFrom("{name}", "{short}", "{date}", "{kind}", "{number}");
    const pattern = fc.array(fc.oneof(word, fc.string({ unit: "grapheme", maxLength: 80 }), fc.constant("/..")), {
      minLength: 1,
      maxLength: 4,
    });
    fc.assert(
      fc.property(fc.uniqueArray(raw, { minLength: 1, maxLength: 12 }), pattern, (names, pieces) => {
        const parts = readPattern(pieces.join(" "));
        fc.pre(parts !== undefined);
        const things = names.map((name) => ({ ...thing("x"), name }));
        const made = newTitles(things, parts!, () => false).map(({ name }) => name);
        expect(new Set(made).size).toBe(names.length);
        for (const name of made) expect(isName(name), JSON.stringify(name)).toBe(true);
      }),
      { numRuns: 400 },
    );
  });
});

describe("a name made short", () => {
  test.each([
    ["The programme that reads the gauge at the lee harbour (do not delete)", "programme that reads the gauge"],
    ["Copy of letter to the council", "letter to the council"],
    ["tide plotter", "tide plotter"],
    ["shared-photo-of-the-north-ledge-in-june-2026", "shared-photo-of-the-north-ledge"],
    ["(everything in brackets)", "(everything in brackets)"],
    ["Donaudampfschifffahrtsgesellschaftskapitaen", "Donaudampfschifffahrtsgesellschaftskapitaen"],
    ["ספירת קנים על הצוק הצפוני של האי", "ספירת קנים על הצוק הצפוני של האי"],
  ])("“%s” becomes “%s”", (long, short) => {
    expect(shortened(long)).toBe(short);
  });
  test("keeps what tells it from another that would be called the same", () => {
    const thing = (name: string, n: number): TitledThing => ({
      name: name as never,
      kind: "text",
      folder: false,
      date: "2026-11-26",
      at: n,
    });
    const short = (names: string[]) =>
      newTitles(names.map(thing), readPattern("{short}")!, () => false).map(({ name }) => name as string);
    expect(short(["Tide table (spring).pdf", "Tide table (autumn).pdf", "Nest list (old).pdf"])).toEqual([
      "Tide table (spring).pdf",
      "Tide table (autumn).pdf",
      "Nest list.pdf",
    ]);
    const minutes = "Minutes of the meeting of the harbour committee in";
    expect(short([`${minutes} May.txt`, `${minutes} June.txt`])).toEqual([`${minutes} May.txt`, `${minutes} June.txt`]);
    // A copy is told by its number.
    expect(short(["letter.txt", "Copy of letter.txt"])).toEqual(["letter.txt", "letter (2).txt"]);
  });
  test("is never empty, and short of what it was or the same", () => {
    fc.assert(
      fc.property(fc.string({ unit: "grapheme", minLength: 1 }), (text) => {
        const short = shortened(text);
        expect(short.length).toBeGreaterThan(0);
        expect(short.length).toBeLessThanOrEqual(text.length);
      }),
    );
  });
});
