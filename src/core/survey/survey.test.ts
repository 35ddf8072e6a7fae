import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { addressOf, programOf, readDesktopEntry } from "./desktop-entry";
import { boxesAt, coveredArea, layOut, overlapping, type ScreenSize } from "./figures";
import { type FoundItem, findingsOf } from "./findings";
import { type Evidence, kindOf } from "./kinds";
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

describe("findings", () => {
  const item = (id: string, more: Partial<FoundItem> = {}): FoundItem => ({
    id,
    kind: "text",
    label: id,
    bytes: 5,
    mtimeMs: 0,
    ...more,
  });
  test("shortcuts that lead nowhere", () => {
    const [found] = findingsOf([item("a"), item("b", { kind: "shortcut", dead: "/opt/x" })], []);
    expect(found).toMatchObject({ kind: "dead shortcut", items: ["b"], wins: { items: 1, bytes: 5 } });
  });
  test("of twins the first stays; one with a twin in a home can go; empty files are none", () => {
    const items = [
      item("new", { sha256: "s", mtimeMs: 9 }),
      item("old", { sha256: "s", mtimeMs: 1 }),
      item("filed", { sha256: "t" }),
      item("alone", { sha256: "u" }),
      item("e1", { sha256: "0", bytes: 0 }),
      item("e2", { sha256: "0", bytes: 0 }),
    ];
    const [found, ...rest] = findingsOf(items, [{ sha256: "t", label: "x" }]);
    expect(rest).toEqual([]);
    expect(found).toMatchObject({ kind: "twins", items: ["new", "filed"], stay: ["old"] });
  });
  test("at least one of every twin always stays", () => {
    const some = fc.array(fc.record({ sum: fc.constantFrom("a", "b", "c"), at: fc.integer({ min: 0, max: 5 }) }), {
      maxLength: 12,
    });
    fc.assert(
      fc.property(some, (list) => {
        const items = list.map(({ sum, at }, n) => item(`i${n}`, { sha256: sum, mtimeMs: at }));
        const go = new Set(findingsOf(items, []).flatMap((f) => f.items));
        for (const sum of ["a", "b", "c"]) {
          const same = items.filter((i) => i.sha256 === sum);
          if (same.length > 0) expect(same.filter((i) => !go.has(i.id))).toHaveLength(1);
        }
      }),
    );
  });
});

test("the tide line runs from long ago to now, and gives recent time more room", () => {
  const day = 86_400_000;
  const at = (days: number) => tideAt(-days * day, 0);
  expect([at(0), at(5000)]).toEqual([1, 0]);
  expect(at(1) - at(8)).toBeGreaterThan(at(365) - at(372));
  const marks = tideMarks().map((mark) => mark.at);
  expect(marks).toEqual(marks.toSorted((a, b) => a - b));
  expect([1, 20, 60, 200, 500, 900].map((days) => ageTone(-days * day, 0))).toEqual([0, 1, 2, 3, 4, 5]);
});
