import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { realClock } from "../clock";
import { type Calls, realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { letGo } from "../sitting/let-go";
import { itemById } from "./items";
import { keepsakeOf } from "./keepsake";
import { placesToMark, protect } from "./protect";
import { protectedPlaces } from "./protection";
import { settle } from "./settle";
import { comparedInWords } from "./spent";
import { findings } from "./survey";
import { surveyView } from "./view";

let place: Place;
let engine: Engine;
/** How far the clock is put forward. */
let later = 0;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const old = new Date(Date.now() - 40 * 86_400_000);

function write(name: string, content: string | Buffer): void {
  fs.mkdirSync(path.dirname(at(name)), { recursive: true });
  fs.writeFileSync(at(name), content);
  fs.utimesSync(at(name), old, old);
}

beforeEach(() => {
  later = 0;
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Downloads", "Documents/Kept"]) fs.mkdirSync(path.join(root, folder), { recursive: true });
  });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

async function open(calls?: Calls): Promise<void> {
  engine = await place.open({ calls, clock: { ...realClock, now: () => Date.now() + later } });
}
const labels = async (kind: string) =>
  (await findings(engine))
    .find((finding) => finding.kind === kind)
    ?.each.map(({ id }) => itemById(engine.db, id)!.label)
    .sort() ?? [];

describe("settling a finding", () => {
  /** One of each that can be settled. */
  function clutter(): void {
    write("Desktop/first.txt", "the same");
    write("Desktop/second.txt", "the same");
    write("Desktop/filed.csv", "a,b\n1,2\n");
    write("Documents/Kept/filed.csv", "a,b\n1,2\n");
    write("Desktop/dead.desktop", "[Desktop Entry]\nType=Application\nExec=/nowhere/run\n");
    write("Desktop/nothing.txt", "");
    write("Downloads/map.iso.part", "half");
    for (const name of ["one", "two"]) write(`Desktop/logger/${name}.csv`, `${name},1\n`.repeat(50));
    spawnSync("tar", ["-czf", at("Desktop/logger.tar.gz"), "-C", at("Desktop"), "logger"]);
    fs.utimesSync(at("Desktop/logger.tar.gz"), old, old);
  }

  test.each([
    ["twins", ["filed.csv", "second.txt"]],
    ["dead shortcut", ["dead.desktop"]],
    ["empty", ["nothing.txt"]],
    ["half download", ["map.iso.part"]],
    ["spent archive", ["logger.tar.gz"]],
  ] as const)("%s: a trial changes nothing, the act lets all go, undo brings all back", async (kind, names) => {
    clutter();
    await open();
    const before = place.tree();
    expect(await labels(kind)).toEqual([...names]);
    expect(await settle(engine, { finding: kind, dryRun: true })).toMatchObject({ done: names.length, refused: [] });
    expect(changesSince(before, place)).toEqual([]);
    expect(await settle(engine, { finding: kind })).toMatchObject({ done: names.length, refused: [] });
    await engine.lookAgain("all");
    expect(await labels(kind)).toEqual([]);
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    expect(changesSince(before, place)).toEqual([]);
  });

  test("single things are left out; what is in no such finding is not let go", async () => {
    clutter();
    await open();
    const report = await settle(engine, {
      finding: "twins",
      items: [itemNamed(engine, "second.txt").id, itemNamed(engine, "first.txt").id],
    });
    expect(report).toMatchObject({ done: 1, refused: [{ name: "first.txt", code: "proof-gone" }] });
    expect(fs.existsSync(at("Desktop/filed.csv"))).toBe(true);
  });

  const gone: [string, Parameters<typeof settle>[1]["finding"], string, () => void][] = [
    ["the twin that stays is changed", "twins", "second.txt", () => write("Desktop/first.txt", "not same")],
    ["the twin that stays is gone", "twins", "second.txt", () => fs.unlinkSync(at("Desktop/first.txt"))],
    ["the copy in a home is changed", "twins", "filed.csv", () => write("Documents/Kept/filed.csv", "a,b\n1,3\n")],
    [
      "the program is back",
      "dead shortcut",
      "dead.desktop",
      () => fs.writeFileSync(at("Desktop/dead.desktop"), "[Desktop Entry]\nType=Application\nExec=/bin/sh\n"),
    ],
    ["something was written into it", "empty", "nothing.txt", () => fs.writeFileSync(at("Desktop/nothing.txt"), "now")],
    ["it grows again", "half download", "map.iso.part", () => fs.appendFileSync(at("Downloads/map.iso.part"), "more")],
    [
      "an unpacked file is changed",
      "spent archive",
      "logger.tar.gz",
      () => write("Desktop/logger/one.csv", "one,2\n".repeat(50)),
    ],
    ["an unpacked file is gone", "spent archive", "logger.tar.gz", () => fs.unlinkSync(at("Desktop/logger/two.csv"))],
  ];
  test.each(gone)("%s after it was shown: that one is left and said", async (_, finding, name, change) => {
    clutter();
    // The change comes after the plan was made, when its first folder is made or its first info file is written.
    let changed = false;
    const once = () => {
      if (changed || !armed) return;
      changed = true;
      change();
    };
    let armed = false;
    await open({
      ...realCalls,
      mkdir(...args) {
        once();
        realCalls.mkdir(...args);
      },
    });
    armed = true;
    const report = await settle(engine, { finding });
    expect(changed).toBe(true);
    expect(report.refused.map((r) => r.name)).toEqual([name]);
    expect(["proof-gone", "changed"]).toContain(report.refused[0]!.code);
    const folder = name.endsWith(".part") ? "Downloads" : "Desktop";
    expect(fs.existsSync(at(folder, name))).toBe(true);
  });

  test("two twins cannot justify each other, and a second name of one file is no twin to let go", async () => {
    write("Desktop/a.txt", "content");
    fs.linkSync(at("Desktop/a.txt"), at("Desktop/b.txt"));
    await open();
    const report = await settle(engine, { finding: "twins" });
    expect(report.done).toBe(0);
    expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["a.txt", "b.txt"]);
  });
});

describe("spent archives", () => {
  const words = (name: string) => comparedInWords(engine, itemNamed(engine, name));
  const zip = (name: string, folder: string, ...what: string[]) =>
    spawnSync("python3", ["-m", "zipfile", "-c", at("Desktop", name), ...what], { cwd: at(folder) });

  test("zip, tar and tar.gz, with their folder or only what is in it, beside themselves or in a home", async () => {
    for (const name of ["one", "two"]) write(`Desktop/logger/${name}.csv`, `${name},1\n`.repeat(50));
    write("Documents/Kept/season/notes.txt", "kept at home");
    zip("logger.zip", "Desktop", "logger");
    spawnSync("tar", ["-cf", at("Desktop/logger-flat.tar"), "-C", at("Desktop/logger"), "one.csv", "two.csv"]);
    spawnSync("tar", ["-czf", at("Desktop/logger.tgz"), "-C", at("Desktop"), "logger"]);
    spawnSync("tar", ["-czf", at("Desktop/season.tar.gz"), "-C", at("Documents/Kept/season"), "notes.txt"]);
    spawnSync("tar", ["-czf", at("Desktop/logger-dot.tgz"), "-C", at("Desktop/logger"), "."]);
    await open();
    expect(await labels("spent archive")).toEqual([
      "logger-dot.tgz",
      "logger-flat.tar",
      "logger.tgz",
      "logger.zip",
      "season.tar.gz",
    ]);
    expect(words("season.tar.gz")).toContain("Documents / Kept / season, byte for byte");
  });

  test("one changed byte, a missing file, or a size that differs: not spent, and what differs is named", async () => {
    for (const name of ["one", "two"]) write(`Desktop/logger/${name}.csv`, `${name},1\n`.repeat(50));
    zip("logger.zip", "Desktop", "logger");
    write("Desktop/logger/two.csv", "two,2\n".repeat(50));
    await open();
    expect(await labels("spent archive")).toEqual([]);
    expect(words("logger.zip")).toContain("logger/two.csv is missing or differs");
    fs.writeFileSync(at("Desktop/logger/two.csv"), "two,1\n".repeat(50));
    await engine.lookAgain();
    expect(await labels("spent archive")).toEqual(["logger.zip"]);
    fs.unlinkSync(at("Desktop/logger/one.csv"));
    await engine.lookAgain();
    expect(await labels("spent archive")).toEqual([]);
  });

  test.each(["zip", "tar"])(
    "one empty folder more, or other rights: a %s is not whole beside it, and that is said",
    async (kind) => {
      const pack = () => {
        const work = `import shutil; shutil.make_archive("../box", "${kind}", ".")`;
        expect(spawnSync("python3", ["-c", work], { cwd: at("Desktop/box") }).status).toBe(0);
      };
      const box = `box.${kind}`;
      fs.mkdirSync(at("Desktop/box/inner/empty"), { recursive: true });
      fs.writeFileSync(at("Desktop/box/inner/run"), "run", { mode: 0o755 });
      pack();
      engine = await place.open();
      expect(await labels("spent archive")).toContain(box);
      fs.rmdirSync(at("Desktop/box/inner/empty"));
      await engine.lookAgain();
      expect(await labels("spent archive")).not.toContain(box);
      expect(comparedInWords(engine, itemNamed(engine, box))).toMatch(/inner\/empty.* is missing or differs/);
      fs.mkdirSync(at("Desktop/box/inner/empty"));
      fs.chmodSync(at("Desktop/box/inner/run"), 0o644);
      // Its folder has another time of change of state alone, which a look does not count.
      fs.utimesSync(at("Desktop/box/inner/run"), 1.6e9, 1.6e9);
      await engine.lookAgain();
      expect(await labels("spent archive")).not.toContain(box);
      expect(comparedInWords(engine, itemNamed(engine, box))).toMatch(/run, by its rights, is missing or differs/);
      // Rights that the usual setting takes away when unpacking make no difference.
      fs.chmodSync(at("Desktop/box/inner/run"), 0o700);
      fs.utimesSync(at("Desktop/box/inner/run"), 1.7e9, 1.7e9);
      await engine.lookAgain();
      expect(await labels("spent archive")).toContain(box);
    },
  );

  test("an archive that also holds an older state of a file is not spent, though the newest lies unpacked", async () => {
    write("Desktop/logger/one.csv", "old state");
    spawnSync("tar", ["-cf", at("Desktop/logger.tar"), "-C", at("Desktop"), "logger"]);
    write("Desktop/logger/one.csv", "new state");
    spawnSync("tar", ["-rf", at("Desktop/logger.tar"), "-C", at("Desktop"), "logger"]);
    await open();
    expect(await labels("spent archive")).toEqual([]);
    expect(words("logger.tar")).toContain("several states of one file");
  });

  test("hostile archives are survived, and said: paths that lead out, a bomb, a cut one, a locked one, another kind", async () => {
    fs.mkdirSync(at("Desktop/out"));
    spawnSync("python3", [
      "-c",
      `
import zipfile, gzip, io, tarfile
d = ${JSON.stringify(at("Desktop"))}
with zipfile.ZipFile(d + "/out.zip", "w") as z: z.writestr("../../evil.txt", "x")
with zipfile.ZipFile(d + "/bomb.zip", "w", zipfile.ZIP_DEFLATED) as z: z.writestr("zeros", b"\\0" * 60_000_000)
t = tarfile.open(d + "/bomb.tar.gz", "w:gz")
i = tarfile.TarInfo("zeros"); i.size = 200_000_000
class Zeros(io.RawIOBase):
    def readable(self): return True
    def readinto(self, b): b[:] = bytes(len(b)); return len(b)
t.addfile(i, io.BufferedReader(Zeros())); t.close()
with zipfile.ZipFile(d + "/cut.zip", "w") as z: z.writestr("a", "x" * 5000)
b = open(d + "/cut.zip", "rb").read(); open(d + "/cut.zip", "wb").write(b[:2000])
b = gzip.compress(b"x" * 100_000 + bytes(range(256)) * 100); open(d + "/cut.tar.gz", "wb").write(b[: len(b) // 2])
open(d + "/other.7z", "wb").write(b"7z\\xbc\\xaf\\x27\\x1c" + b"\\0" * 600)
`,
    ]);
    for (const name of ["bomb", "cut", "other"]) fs.mkdirSync(at("Desktop", name));
    await open();
    expect(await labels("spent archive")).toEqual([]);
    expect(words("out.zip")).toContain("names places outside itself");
    expect(words("bomb.zip")).toContain("claims to hold far more than it can");
    expect(words("bomb.tar.gz")).toContain("claims to hold far more than it can");
    for (const name of ["cut.zip", "cut.tar.gz"]) expect(words(name)).toContain("not compared: it cannot be read as an archive");
    expect(words("other.7z")).toContain("another kind");
    expect(fs.readdirSync(place.root).sort()).toEqual(["Desktop", "Documents", "Downloads"]);
  });
});

describe("what would be lost", () => {
  const folder = (name: string) => ({ path: btoa(at(name)) });
  const nowhere = () => labels("nowhere else");

  test("is not guessed: nothing is said until the person has marked a place as backed up", async () => {
    write("Desktop/a.txt", "a");
    await open();
    expect(await nowhere()).toEqual([]);
    expect((await surveyView(engine)).protectedPlaces).toBe(0);
    await protect(engine, { folder: folder("Documents"), protection: "synchronised" });
    // What is synchronised is deleted with the original.
    expect(await nowhere()).toEqual([]);
    await protect(engine, { folder: folder("Documents"), protection: "backed up" });
    expect(await nowhere()).toEqual(["a.txt"]);
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    expect(protectedPlaces(engine)).toMatchObject([{ protection: "synchronised" }]);
  });

  test("is told by every byte: a copy anywhere in the place, under any name; folders by all that lies in them", async () => {
    write("Desktop/copied.txt", "copied content");
    write("Documents/Kept/under another name", "copied content");
    write("Desktop/nearly.txt", "copied contenT");
    // Two that are the same, and both lie here alone: that their content is known makes them no copy.
    write("Desktop/twin 1.txt", "twice here");
    write("Desktop/twin 2.txt", "twice here");
    write("Desktop/both/one", "first file");
    write("Desktop/both/.hidden", "hidden one");
    write("Desktop/half/one", "first file");
    write("Desktop/half/deep/two", "only here!");
    write("Desktop/empty.txt", "");
    write("Desktop/link.desktop", "[Desktop Entry]\nType=Link\nURL=https://example.org/\n");
    fs.mkdirSync(path.join(place.folder, "backup"));
    fs.writeFileSync(path.join(place.folder, "backup/x"), "first file");
    fs.writeFileSync(path.join(place.folder, "backup/y"), "hidden one");
    await open();
    await protect(engine, { folder: folder("Documents"), protection: "backed up" });
    expect(await nowhere()).toEqual(["both", "half", "nearly.txt", "twin 1.txt", "twin 2.txt"]);
    await protect(engine, { folder: { path: btoa(path.join(place.folder, "backup")) }, protection: "backed up" });
    expect(await nowhere()).toEqual(["half", "nearly.txt", "twin 1.txt", "twin 2.txt"]);
    fs.unlinkSync(path.join(place.folder, "backup/y"));
    await engine.lookAgain("all");
    expect(await nowhere()).toEqual(["both", "half", "nearly.txt", "twin 1.txt", "twin 2.txt"]);
    const [sheet] = (await surveyView(engine)).sentence.filter(({ items }) => items?.length === 5);
    expect(sheet?.text).toBe("5");
    // Where one of the places is away, neither a copy nor the want of one is known.
    fs.renameSync(path.join(place.folder, "backup"), path.join(place.folder, "away"));
    for (const look of [async () => {}, () => engine.lookAgain("all")]) {
      await look();
      expect(await nowhere()).toEqual([]);
      const view = await surveyView(engine);
      expect(view.absentPlaces).toEqual([path.join(place.folder, "backup")]);
      expect(view.sheet.tiles.map(({ elsewhere }) => elsewhere)).not.toContain(true);
      expect(view.sheet.tiles.map(({ elsewhere }) => elsewhere)).not.toContain(false);
    }
    fs.renameSync(path.join(place.folder, "away"), path.join(place.folder, "backup"));
    await engine.lookAgain("all");
    expect(await nowhere()).toHaveLength(5);
    expect((await surveyView(engine)).absentPlaces).toEqual([]);
  });

  test("a place of copies is no home: nothing is learned from it, and nothing belongs there", async () => {
    fs.mkdirSync(path.join(place.folder, "backup/deep"), { recursive: true });
    fs.writeFileSync(path.join(place.folder, "backup/deep/x.txt"), "x");
    await open();
    await protect(engine, { folder: { path: btoa(path.join(place.folder, "backup")) }, protection: "backed up" });
    expect(engine.db.prepare("SELECT count(*) FROM folder WHERE home = 1 AND place LIKE '%backup%'").pluck().get()).toBe(0);
    expect(placesToMark(engine).map(({ title, protection }) => [title.split(" / ").at(-1), protection])).toEqual([
      ["Documents", null],
      ["backup", "backed up"],
    ]);
  });

  test.each(["Desktop", "Desktop/inner", "."])("%s is no place of copies", async (name) => {
    fs.mkdirSync(at("Desktop/inner"));
    await open();
    await expect(
      protect(engine, { folder: { path: btoa(path.join(place.root, name)) }, protection: "backed up" }),
    ).rejects.toMatchObject({
      code: "no-protection",
    });
  });
});

test("figures are kept by day, and compared with the last day on which Vuoto looked", async () => {
  for (const name of ["a", "b", "c"]) write(`Desktop/${name}.txt`, name.repeat(1000));
  await open();
  expect((await surveyView(engine)).sinceLastTime).toBeUndefined();
  later = 3 * 86_400_000;
  fs.unlinkSync(at("Desktop/a.txt"));
  await engine.lookAgain();
  expect((await surveyView(engine)).sinceLastTime).toMatch(/^Since .+: 1 thing fewer, 1\.0 kB less\.$/);
  later = 4 * 86_400_000;
  await engine.lookAgain();
  expect((await surveyView(engine)).sinceLastTime).toMatch(/as many things/);
  expect(idsOn(engine)).toHaveLength(2);
});

test("the picture of before and after counts what left today, as SVG and as PNG", async () => {
  for (const name of ["a", "b", "c"]) write(`Desktop/${name}.txt`, name);
  write("Desktop/nothing.txt", "");
  await open();
  await settle(engine, { finding: "empty" });
  const svg = await (await keepsakeOf(engine, new URLSearchParams())).text();
  expect(svg).toContain("Before: 4 things");
  expect(svg).toMatch(/: 3 things</);
  expect(svg).not.toContain("nothing.txt");
  const png = await keepsakeOf(engine, new URLSearchParams({ as: "png" }));
  expect(png.headers.get("content-disposition")).toBe('attachment; filename="vuoto-desktop.png"');
  expect(
    Buffer.from(await png.arrayBuffer())
      .subarray(1, 4)
      .toString(),
  ).toBe("PNG");
  await undo(engine, {});
  expect(await (await keepsakeOf(engine, new URLSearchParams())).text()).toContain("Before: 4 things");
});

test("of a worktop that came to be bare today it is said what lay there and where that is now; of one that always was, nothing", async () => {
  await open();
  const cleared = async () => (await surveyView(engine, "desktop")).cleared;
  expect(await cleared()).toBeUndefined();
  for (const name of ["a", "b", "c"]) write(`Desktop/${name}.txt`, name);
  await engine.lookAgain();
  expect(await cleared()).toBeUndefined();
  const ids = idsOn(engine);
  await letGo(engine, { items: ids.slice(0, 1) });
  await engine.lookAgain();
  expect(await cleared()).toBeUndefined();
  const { refused } = await put(engine, { home: { title: "Documents / Kept" }, items: ids.slice(1) });
  expect(refused).toEqual([]);
  await engine.lookAgain();
  const { words, points } = (await cleared())!;
  expect(words).toContain(`${ids.length} things lay here today`);
  expect(words).toMatch(new RegExp(`Now ${ids.length - 1} are in their homes and 1 is in the trash\\.$`));
  expect(points).toHaveLength(ids.length);
  expect(points.every(({ x, y }) => x >= 0 && x < 1 && y >= 0 && y <= 1)).toBe(true);
  await undo(engine, {});
  await engine.lookAgain();
  expect(await cleared()).toBeUndefined();
});
