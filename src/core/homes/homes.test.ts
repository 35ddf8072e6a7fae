import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { Raw } from "../names/raw";
import { type FiledThing, learn, possible, rank, sure } from "./belongs";
import { filingPlan, splitBy } from "./filing-plan";
import { readUserDirs } from "./standard";
import { type Thing, traitsOf, wordsIn } from "./traits";

const titles = new Map([
  ["tides", "Documents / Tides"],
  ["photos", "Pictures / Nests"],
  ["letters", "Documents / Letters"],
]);
const day = 86_400_000;
const thing = (name: string, kind: Thing["kind"], more: Partial<Thing> = {}): Thing => ({
  name,
  kind,
  mtimeMs: 20_000 * day,
  ...more,
});
const months = ["april", "may", "june", "july", "august"];
const files: FiledThing[] = [
  ...Array.from(
    { length: 20 },
    (_, n): FiledThing => ({ home: "tides", ...thing(`high-water-${n}.csv`, "table", { words: [":height", "metres"] }) }),
  ),
  ...Array.from({ length: 20 }, (_, n): FiledThing => ({ home: "photos", ...thing(`nest-${n}.jpg`, "picture") })),
  ...months.map(
    (month): FiledThing => ({
      home: "letters",
      ...thing(`letter-harbour-${month}.txt`, "text", { words: ["dear", "harbour", "sincerely"] }),
    }),
  ),
];
const learned = learn(files, titles);

describe("what belongs in a home", () => {
  test("what is like what lies there is sure, and the reason says why", () => {
    const [best] = rank(thing("high-water-september.csv", "table", { words: [":height", "metres"] }), learned);
    expect(best).toMatchObject({ home: "tides", why: expect.stringMatching(/like \d+ in it/) });
    expect(best!.score).toBeGreaterThan(sure);
  });
  test("the text and the columns count where the name says nothing", () => {
    const [text] = rank(thing("untitled.txt", "text", { words: ["dear", "harbour", "master", "sincerely"] }), learned);
    expect(text?.home).toBe("letters");
    const [table] = rank(thing("export.csv", "table", { words: [":height", "metres"] }), learned);
    expect(table?.home).toBe("tides");
  });
  test("a sender that always goes to one home speaks for it", () => {
    const sent = (n: number): FiledThing => ({ home: "letters", ...thing(`${n}x.pdf`, "text", { sender: "council.example" }) });
    const with_ = learn([...files, ...Array.from({ length: 8 }, (_, n) => sent(n))], titles);
    expect(rank(thing("zzz.pdf", "text", { sender: "council.example" }), with_)[0]?.home).toBe("letters");
    expect(rank(thing("zzz.pdf", "text", { sender: "council.example" }), with_)[0]?.why).toContain("from council.example");
  });
  test.each([
    thing("quartz-index.bin", "data"),
    thing("wedding.mp4", "video"),
    thing("invoice 12.pdf", "text", { words: ["sum", "due", "account"] }),
    thing("nest-plan-for-next-year.txt", "text"),
  ])("a stranger is never sure: $name", (stranger) => {
    for (const { score } of rank(stranger, learned)) expect(score).toBeLessThan(sure);
  });
  test("what was put there and undone counts against it", () => {
    const like = thing("high-water-tide-notes.csv", "table");
    const before = rank(like, learned)[0]!;
    expect(before.home).toBe("tides");
    const against = Array.from({ length: 12 }, (): FiledThing => ({ home: "tides", against: true, ...like }));
    const after = rank(like, learn([...files, ...against], titles)).find(({ home }) => home === "tides");
    expect(after?.score ?? 0).toBeLessThan(before.score);
  });
  test("each file left out in turn is brought home", () => {
    for (const [n, file] of files.entries()) {
      const others = files.filter((_, other) => other !== n);
      expect(rank(file, learn(others, titles), { most: 1, least: 0 })[0]?.home, file.name).toBe(file.home);
    }
  });
  test("from nothing nothing is proposed", () => {
    expect(rank(thing("a.csv", "table"), learn([], new Map([["e", "Empty"]])))).toEqual([]);
    expect(rank(thing("a.csv", "table"), learn([], new Map()))).toEqual([]);
  });
  test("a likelihood lies between 0 and 1, falls with the rank, and knows only homes that there are", () => {
    const words = fc.array(fc.constantFrom("nest", "high", "water", "letter", "harbour", "zzz"), { maxLength: 5 });
    fc.assert(
      fc.property(words, fc.constantFrom<Thing["kind"]>("table", "picture", "text", "other"), (named, kind) => {
        const fits = rank(thing(named.join(" "), kind), learned);
        const scores = fits.map(({ score }) => score);
        expect(scores).toEqual(scores.toSorted((a, b) => b - a));
        for (const { home, score, why } of fits) {
          expect([titles.has(home), score >= possible, score <= 1, why.length > 0]).toEqual([true, true, true, true]);
        }
      }),
    );
  });
});

describe("the filing plan", () => {
  const homes = [
    { id: "b", parts: ["Documents", "B 10"], files: 101 },
    { id: "d", parts: ["Documents"], files: 0 },
    { id: "b2", parts: ["Documents", "B 9"], files: 100 },
    { id: "deep", parts: ["Documents", "B 9", "3", "4", "5", "6"], files: 1 },
    ...["3", "4", "5"].map((_, n) => ({ id: `s${n}`, parts: ["Documents", "B 9", "3", "4", "5"].slice(0, 3 + n), files: 0 })),
  ];
  test("each stands below the one it lies in; too wide and too deep are said", () => {
    const plan = filingPlan(homes);
    expect(plan.map(({ id, depth, files, within }) => [id, depth, files, within])).toEqual([
      ["d", 0, 0, 202],
      ["b2", 1, 100, 101],
      ["s0", 2, 0, 1],
      ["s1", 3, 0, 1],
      ["s2", 4, 0, 1],
      ["deep", 5, 1, 1],
      ["b", 1, 101, 101],
    ]);
    expect(plan.filter(({ tooWide }) => tooWide).map(({ id }) => id)).toEqual(["b"]);
    expect(plan.filter(({ tooDeep }) => tooDeep).map(({ id }) => id)).toEqual(["deep"]);
  });
  const at = (label: string, year: number, kind: Thing["kind"] = "text") => ({ label, kind, mtimeMs: Date.UTC(year, 6, 1) });
  test("a split is by year, kind or what the names begin with; few of a sort stay, and one folder for all is none", () => {
    const files = [
      at("a1.txt", 2024),
      at("b.txt", 2024),
      at("c.csv", 2024, "table"),
      at("d", 2025),
      at("e", 2025),
      at("f", 2025),
      at("g", 2026),
    ];
    expect(splitBy(files, "year")).toEqual(["2024", "2024", "2024", "2025", "2025", "2025", undefined]);
    expect(splitBy(files.slice(0, 3), "year")).toEqual([undefined, undefined, undefined]);
    expect(splitBy(files, "kind")).toEqual(["Texts", "Texts", undefined, "Texts", "Texts", "Texts", "Texts"]);
    const named = ["tide table 1.csv", "tide-table 2.csv", "Tide Table.csv", "other.csv"].map((name) => at(name, 2026));
    expect(splitBy(named, "project")).toEqual(["Tide table", "Tide table", "Tide table", undefined]);
  });
});

describe("traits", () => {
  test("words are letters, each once, parted at capitals", () => {
    expect(wordsIn("Ring-List_week12 ringList")).toEqual(["ring", "list", "week"]);
    expect(wordsIn("überblick")).toEqual(["überblick"]);
  });
  test("name, shape, years, text, columns and sender, each once", () => {
    const traits = traitsOf(
      thing("ring-list-2025-week-12.csv", "table", { words: [":ring", "gull", "gull"], sender: "a.example" }),
    );
    expect(traits).toEqual(
      expect.arrayContaining([
        "ktable",
        "ecsv",
        "wring",
        "wweek",
        "bring list",
        "sa-a-0-a-0",
        "y2025",
        "hring",
        "tgull",
        "za.example",
      ]),
    );
    expect(new Set(traits).size).toBe(traits.length);
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
