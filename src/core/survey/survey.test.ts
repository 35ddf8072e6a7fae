import fc from "fast-check";
import { describe, expect, test } from "vitest";
import type { ScreenSize } from "../screen/state";
import { addressOf, programOf, readDesktopEntry } from "./desktop-entry";
import { familiesOf, matterOf } from "./families";
import { boxesAt, coveredArea, layOut, overlapping } from "./figures";
import { type FiledTwin, type FindingKind, type FoundItem, findingsOf, settles } from "./findings";
import { keepsake } from "./keepsake";
import { type Evidence, type Kind, kindOf } from "./kinds";
import { ageTone, tideAt, tideMarks } from "./tide";

const file = (e: Partial<Evidence>): Evidence => ({ name: "x", type: "file", bytes: 10, isText: false, executable: false, ...e });

describe("kinds", () => {
  test.each([
    ["a folder", { type: "folder" }, "folder"],
    ["a symbolic link", { type: "link" }, "shortcut"],
    ["a picture by content, whatever its name", { name: "a.txt", mime: "image/jpeg" }, "picture"],
    ["a text called .jpg", { name: "a.jpg", isText: true, head: "hello" }, "text"],
    ["a screenshot by its name", { name: "Screenshot 3.png", mime: "image/png" }, "screenshot"],
    ["a screenshot by its size", { name: "a.png", mime: "image/png", width: 1920, height: 1080 }, "screenshot"],
    ["no screenshot: a camera took it", { name: "screen.jpg", mime: "image/jpeg", hasCamera: true }, "picture"],
    ["a desktop entry", { name: "a.desktop", isText: true, head: "# x\n[Desktop Entry]\nType=Application\n" }, "shortcut"],
    [
      "a web link",
      { name: "a.desktop", isText: true, head: "[Desktop Entry]\nType=Link\nURL=https://example.org\n" },
      "web link",
    ],
    ["an address file", { name: "a.url", isText: true, head: "[InternetShortcut]\r\nURL=https://example.org\r\n" }, "web link"],
    ["a half download", { name: "film.mp4.part", mime: "video/mp4" }, "half download"],
    ["a lock file", { name: ".~lock.a.odt#", isText: true }, "temporary"],
    ["an editor's copy", { name: "a.txt~", isText: true, head: "x" }, "temporary"],
    ["a table", { name: "a.csv", isText: true, head: "a,b" }, "table"],
    ["an archive", { name: "a", mime: "application/zip" }, "archive"],
    ["a compressed archive", { name: "a.tar.gz", mime: "application/gzip" }, "archive"],
    ["a compressed file of which nothing is said", { name: "dump.gz", mime: "application/gzip" }, "archive"],
    ["a compressed table", { name: "tides.csv.xz", mime: "application/x-xz" }, "table"],
    ["a page of a manual", { name: "printf.3posix.gz", mime: "application/gzip" }, "text"],
    ["a letter", { name: "re.eml", isText: true, head: "From: a" }, "text"],
    ["a calendar", { name: "tides.ics", isText: true, head: "BEGIN:VCALENDAR" }, "text"],
    ["a font", { name: "plain.woff2", mime: "font/woff2" }, "data"],
    ["a database", { name: "record", mime: "application/x-sqlite3" }, "data"],
    [
      "a text document",
      { name: "a.docx", mime: "application/vnd.openxmlformats-officedocument.wordprocessingml.document" },
      "text",
    ],
    ["an installer", { name: "a.deb", mime: "application/x-deb" }, "installer"],
    ["a drawing as text", { name: "a.svg", isText: true, head: "<svg" }, "picture"],
    ["an empty file without an ending", { name: "untitled", bytes: 0, isText: true }, "other"],
    ["bytes", { name: "dump" }, "data"],
    ["a socket", { type: "special" }, "other"],
  ] as [string, Partial<Evidence>, string][])("%s", (_, evidence, kind) => {
    expect(kindOf(file(evidence)).kind).toBe(kind);
  });
});

describe("desktop entries", () => {
  test("the main group is read, escapes resolved, locales left aside", () => {
    const keys = readDesktopEntry(
      "[Other]\nExec=no\n[Desktop Entry]\nName=a\\sb\nName[de]=c\nExec=run \\\\x\n[Desktop Action x]\nExec=no\n",
    );
    expect(keys?.get("Name")).toBe("a b");
    expect(keys?.get("Exec")).toBe("run \\x");
    expect(readDesktopEntry("plain")).toBeUndefined();
  });
  test("programs and addresses", () => {
    expect(programOf("/opt/a/run --x %f")).toBe("/opt/a/run");
    expect(programOf('"/opt/with space/run" %u')).toBe("/opt/with space/run");
    expect(programOf("%f")).toBeUndefined();
    expect(addressOf("[InternetShortcut]\r\nURL=https://example.org/a\r\n")).toBe("https://example.org/a");
  });
});

const screen: ScreenSize = { width: 60, height: 40, icon: { width: 6, height: 6 }, label: { width: 10, height: 3 } };

describe("figures", () => {
  const box = fc.record({
    x: fc.integer({ min: -10, max: 65 }),
    y: fc.integer({ min: -10, max: 45 }),
    width: fc.integer({ min: 0, max: 20 }),
    height: fc.integer({ min: 0, max: 20 }),
  });
  test("the covered area is exact: as counted pixel by pixel", () => {
    fc.assert(
      fc.property(fc.array(box, { maxLength: 14 }), (boxes) => {
        let counted = 0;
        for (let x = 0; x < screen.width; x++)
          for (let y = 0; y < screen.height; y++)
            if (boxes.some((b) => b.x <= x && x < b.x + b.width && b.y <= y && y < b.y + b.height)) counted++;
        expect(coveredArea(boxes, screen)).toBe(counted);
      }),
      { numRuns: 200 },
    );
  });
  test("overlaps are those of a plain comparison of each with each", () => {
    const points = fc.array(fc.record({ x: fc.integer({ min: 0, max: 55 }), y: fc.integer({ min: 0, max: 35 }) }), {
      maxLength: 20,
    });
    fc.assert(
      fc.property(points, (all) => {
        const meets = (a: number, b: number) =>
          boxesAt(all[a]!, screen).some((p) =>
            boxesAt(all[b]!, screen).some(
              (q) => p.x < q.x + q.width && q.x < p.x + p.width && p.y < q.y + q.height && q.y < p.y + p.height,
            ),
          );
        const plain = all.map((_, a) => a).filter((a) => all.some((_, b) => a !== b && meets(a, b)));
        expect([...overlapping(all, screen)].sort((a, b) => a - b)).toEqual(plain);
      }),
    );
  });
  test("a sheet that is laid out has no overlaps, however many things", () => {
    for (const count of [0, 1, 7, 300]) {
      const { points, height } = layOut(count, screen);
      expect(points).toHaveLength(count);
      expect(overlapping(points, screen).size).toBe(0);
      expect(points.every((p) => p.y + 9 <= height)).toBe(true);
    }
  });
});

const day = 86_400_000;
const now = 1000 * day;

describe("findings", () => {
  const item = (id: string, more: Partial<FoundItem> = {}): FoundItem => ({
    id,
    kind: "text",
    label: id,
    where: "on the desktop",
    folder: false,
    bytes: 5,
    mtimeMs: now - day,
    ...more,
  });
  const find = (items: FoundItem[], filed: FiledTwin[] = []) => findingsOf(items, filed, now);
  const ids = (items: FoundItem[], kind: FindingKind) =>
    find(items)
      .find((finding) => finding.kind === kind)
      ?.each.map(({ id }) => id) ?? [];

  test("shortcuts that lead nowhere", () => {
    const [found] = find([item("a"), item("b", { kind: "shortcut", dead: "/opt/x" })]);
    expect(found).toMatchObject({
      kind: "dead shortcut",
      each: [{ id: "b", proof: "/opt/x was looked for and is not there" }],
      wins: { items: 1, bytes: 5 },
    });
  });
  test("what was decided about is let go of in passing by none: of twins it is the one that stays", () => {
    const same = { sha256: "s", bytes: 5 };
    const decided = { decided: true };
    const kinds = (...items: FoundItem[]) =>
      find(items).flatMap(({ kind, each }) => (each.length > 0 && settles(kind) ? each : []));
    expect(kinds(item("a", { ...same, ...decided }), item("b", same)).map(({ id, stays }) => [id, stays])).toEqual([
      ["b", { id: "a" }],
    ]);
    expect(kinds(item("a", { ...same, mtimeMs: 1 }), item("b", { ...same, ...decided, mtimeMs: 2 })).map(({ id }) => id)).toEqual(
      ["a"],
    );
    expect(kinds(item("a", { ...same, ...decided }), item("b", { ...same, ...decided }))).toEqual([]);
    expect(kinds(item("a", { bytes: 0, ...decided }), item("s", { kind: "shortcut", dead: "/opt/x", ...decided }))).toEqual([]);
  });

  test("of twins the first stays; one with a twin in a home can go; empty files are none", () => {
    const items = [
      item("new", { sha256: "s", mtimeMs: 9 }),
      item("old", { sha256: "s", mtimeMs: 1 }),
      item("filed", { sha256: "t" }),
      item("alone", { sha256: "u" }),
    ];
    const found = find(items, [{ sha256: "t", label: "x in Home", place: "/home/x" }]).find((f) => f.kind === "twins")!;
    expect(found.each).toEqual([
      { id: "new", proof: "the same, byte for byte, as old on the desktop, which was there first", stays: { id: "old" } },
      { id: "filed", proof: "the same, byte for byte, as x in Home", stays: { place: "/home/x" } },
    ]);
    expect(ids([item("e1", { sha256: "0", bytes: 0 }), item("e2", { sha256: "0", bytes: 0 })], "twins")).toEqual([]);
  });
  test("at least one of every twin always stays", () => {
    const some = fc.array(fc.record({ sum: fc.constantFrom("a", "b", "c"), at: fc.integer({ min: 0, max: 5 }) }), {
      maxLength: 12,
    });
    fc.assert(
      fc.property(some, (list) => {
        const items = list.map(({ sum, at }, n) => item(`i${n}`, { sha256: sum, mtimeMs: now - at }));
        const go = new Set(ids(items, "twins"));
        for (const sum of ["a", "b", "c"]) {
          const same = items.filter((i) => i.sha256 === sum);
          if (same.length > 0) expect(same.filter((i) => !go.has(i.id))).toHaveLength(1);
        }
      }),
    );
  });
  test("an archive is spent only where nothing of it is missing", () => {
    const unpacked = (missing: string[]) => ({ place: "Desktop / a", entries: 3, missing });
    expect(
      ids(
        [
          item("whole", { kind: "archive", unpacked: unpacked([]) }),
          item("changed", { kind: "archive", unpacked: unpacked(["one"]) }),
          item("unknown", { kind: "archive" }),
        ],
        "spent archive",
      ),
    ).toEqual(["whole"]);
  });
  test("what is empty; a shortcut, a lock file and a half download are not called so", () => {
    expect(
      ids(
        [
          item("file", { bytes: 0 }),
          item("folder", { folder: true, kind: "folder", bytes: 0, entries: 0 }),
          item("full folder", { folder: true, kind: "folder", bytes: 0, entries: 2 }),
          item("lock", { kind: "temporary", bytes: 0 }),
          item("part", { kind: "half download", bytes: 0 }),
        ],
        "empty",
      ),
    ).toEqual(["file", "folder"]);
  });
  test("a half download that still grows, or that a program has open, is none to let go", () => {
    const part = (id: string, more: Partial<FoundItem>) => item(id, { kind: "half download", ...more });
    expect(
      ids(
        [
          part("resting.part", { mtimeMs: now - day }),
          part("growing.part", { mtimeMs: now - 60_000 }),
          part("open.part", { inUse: "a program has it open" }),
        ],
        "half download",
      ),
    ).toEqual(["resting.part"]);
    const [found] = find([item("map.zip"), part("map.zip.part", {})]).filter((f) => f.kind === "half download");
    expect(found!.each[0]!.proof).toContain("map.zip lies beside it, whole");
  });
  test("stale by the latest of change, opening and arrival, and how sure that is", () => {
    const long = now - 300 * day;
    const items = [
      item("untouched", { mtimeMs: long }),
      item("opened", { mtimeMs: long, openedMs: now - day }),
      item("arrived", { mtimeMs: long, arrivedMs: now - day }),
      item("opened long ago", { mtimeMs: now - 900 * day, openedMs: long }),
      item("link", { kind: "shortcut", mtimeMs: long }),
    ];
    expect(ids(items, "stale")).toEqual(["untouched", "opened long ago"]);
    const proofs = find(items)
      .find((f) => f.kind === "stale")!
      .each.map(({ proof }) => proof);
    expect(proofs).toEqual([
      "untouched for 9 months: last changed; when it was opened is not recorded",
      "untouched for 9 months: last opened",
    ]);
  });
  test("large are the few that hold half of everything, and none where nothing stands out", () => {
    const mega = 1_000_000;
    expect(ids([item("a", { bytes: 50 * mega }), item("b", { bytes: 9 * mega }), item("c", { bytes: mega })], "large")).toEqual([
      "a",
    ]);
    expect(
      ids(
        Array.from({ length: 100 }, (_, n) => item(`${n}`, { bytes: 2 * mega })),
        "large",
      ),
    ).toEqual([]);
    expect(ids([item("small", { bytes: 900 })], "large")).toEqual([]);
  });
  test("what is in use is only said to be, and never in a finding that lets go", () => {
    const used = { inUse: "it is open" };
    const items = [
      item("twin", { sha256: "s", ...used }),
      item("other", { sha256: "s" }),
      item("dead", { kind: "shortcut", dead: "x", ...used }),
      item("empty", { bytes: 0, ...used }),
    ];
    expect(find(items).map((f) => f.kind)).toEqual(["in use"]);
  });
  test("nowhere else is said only of what is known not to be elsewhere", () => {
    expect(ids([item("yes", { elsewhere: false }), item("no", { elsewhere: true }), item("unknown")], "nowhere else")).toEqual([
      "yes",
    ]);
  });
  test("what can be settled comes first, and of that what wins most", () => {
    const order = find([
      item("large", { bytes: 9_000_000 }),
      item("e", { bytes: 0 }),
      item("d1", { kind: "shortcut", dead: "x" }),
      item("d2", { kind: "shortcut", dead: "x" }),
    ]).map((f) => f.kind);
    expect(order).toEqual(["dead shortcut", "empty", "large"]);
  });
});

describe("families", () => {
  const of = (label: string, arrivedMs = 0, kind: Kind = "text") => ({ id: label, label, kind, arrivedMs });
  test("stems leave endings, numbers and the marks of a copy aside", () => {
    expect(["tide-table-2026 (2).pdf", "Tide table copy.pdf", "tide_table_v3.final.pdf"].map(matterOf)).toEqual(
      Array(3).fill("tide table"),
    );
  });
  test("each thing is in one family at most, the one with the strongest proof", () => {
    const item = fc.record({
      id: fc.uuid(),
      label: fc.constantFrom("tide table 1.pdf", "tide table 2.pdf", "nest-4.jpg", "nest-5.jpg", "x.csv", "grant.txt"),
      kind: fc.constantFrom<Kind>("text", "picture", "table"),
      arrivedMs: fc.integer({ min: 0, max: 9_000_000 }),
    });
    fc.assert(
      fc.property(fc.uniqueArray(item, { selector: ({ id }) => id, maxLength: 25 }), fc.nat(6), (items, n) => {
        const each = items.slice(0, n).map(({ id }) => ({ id, proof: "" }));
        const families = familiesOf(items, [{ kind: "twins", each, proof: "", wins: { items: n, bytes: 0 } }]);
        const all = families.flatMap((family) => family.items);
        expect(new Set(all).size).toBe(all.length);
        const proven = families.find((family) => family.joined.by === "proof")?.items ?? [];
        expect(proven).toEqual(each.map(({ id }) => id));
        for (const family of families) if (family.joined.by !== "proof") expect(family.items.length).toBeGreaterThanOrEqual(3);
      }),
    );
  });
  test("things of one matter, of one arrival, and of one kind", () => {
    const hour = 3_600_000;
    const items = [
      ...[1, 2, 3].map((n) => of(`tide-table-${n}.pdf`, n * 50 * hour)),
      ...["a", "b", "c"].map((name, n) => of(`${name}${name}.csv`, 900 * hour + n * 60_000, "table")),
      ...["k", "l", "m", "n"].map((name, n) => of(`${name}${name}.jpg`, n * 77 * hour, "picture")),
      of("alone.wav", 2000 * hour, "sound"),
    ];
    expect(familiesOf(items, []).map(({ joined, items: list }) => [joined, list.length])).toEqual([
      [{ by: "name", stem: "tide table" }, 3],
      [{ by: "arrival", at: 900 * hour }, 3],
      [{ by: "kind", kind: "picture" }, 4],
    ]);
  });
});

test("the tide line runs from long ago to now, and gives recent time more room", () => {
  const at = (days: number) => tideAt(-days * day, 0);
  expect([at(0), at(5000)]).toEqual([1, 0]);
  expect(at(1) - at(8)).toBeGreaterThan(at(365) - at(372));
  const marks = tideMarks().map((mark) => mark.at);
  expect(marks).toEqual(marks.toSorted((a, b) => a - b));
  expect([1, 20, 60, 200, 500, 900].map((days) => ageTone(-days * day, 0))).toEqual([0, 1, 2, 3, 4, 5]);
});

test("the picture to keep shows every icon to scale, and no text but its own, escaped", () => {
  const picture = keepsake(
    {
      points: [
        { x: 3, y: 4 },
        { x: 30, y: 20 },
      ],
      words: "Before: <2> things",
    },
    { points: [], words: "After & bare" },
    screen,
    40,
  );
  expect(picture.match(/stroke-width="0.7"/g)).toHaveLength(2);
  // A screen of 60 by 40 drawn 720 wide: twelve times as large.
  expect(picture).toContain('<rect x="36.0" y="48.0" width="72.0" height="72.0"');
  expect(picture).toContain("Before: &lt;2&gt; things");
  expect(picture).toContain("After &amp; bare");
});
