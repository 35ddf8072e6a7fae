import { spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { hostileNames, makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { readPosition, writePosition } from "../db/record";
import type { Engine } from "../engine";
import { homes } from "../homes/homes";
import { belongingTo } from "../homes/sweep";
import { undo } from "../ledger/undo";
import { lookOf } from "../looks/looks";
import { quiet, quietNow } from "../quiet/quiet";
import { letGo } from "../sitting/let-go";
import { thing } from "../sitting/view";
import { itemsOn } from "./items";
import { findings, sheetOf, survey } from "./survey";
import { surveyView } from "./view";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const sheet = () => sheetOf(engine, engine.account.worktops[0]!);

beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 12, 30));
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("items", () => {
  test("of which two were names of one file leave no ghost when both are gone, nor when one is", async () => {
    fs.writeFileSync(at("Bureau/one.txt"), "one file");
    fs.linkSync(at("Bureau/one.txt"), at("Bureau/two.txt"));
    fs.linkSync(at("Bureau/one.txt"), at("Bureau/three.txt"));
    await engine.lookAgain();
    const labels = () => itemsOn(engine.db, "desktop").map(({ label }) => label);
    expect(labels()).toEqual(expect.arrayContaining(["one.txt", "two.txt", "three.txt"]));
    fs.rmSync(at("Bureau/one.txt"));
    fs.rmSync(at("Bureau/two.txt"));
    await engine.lookAgain();
    expect(labels().filter((label) => /^(one|two|three)\.txt$/.test(label))).toEqual(["three.txt"]);
    fs.renameSync(at("Bureau/three.txt"), at("Bureau/four.txt"));
    await engine.lookAgain();
    expect(labels().filter((label) => /^(one|two|three|four)\.txt$/.test(label))).toEqual(["four.txt"]);
  });

  test("are looked at to an end while acts keep coming", async () => {
    let going = true;
    const [a] = idsOn(engine);
    const acts = (async () => {
      while (going) {
        await letGo(engine, { items: [a!] });
        await undo(engine, {});
      }
    })();
    fs.writeFileSync(at("Bureau/new.txt"), "new");
    await engine.lookAgain();
    going = false;
    await acts;
    expect(itemNamed(engine, "new.txt").label).toBe("new.txt");
  });

  test("keep their id when renamed, when saved through a new file, and when moved by an act and back", async () => {
    const name = fs.readdirSync(at("Bureau")).find((n) => n.endsWith(".txt"))!;
    const { id } = itemNamed(engine, name);
    writePosition(engine.db, id, { x: 5, y: 7 });
    fs.renameSync(at("Bureau", name), at("Bureau/renamed.txt"));
    await engine.lookAgain();
    expect(itemNamed(engine, "renamed.txt").id).toBe(id);
    fs.writeFileSync(at("Bureau/.saving"), "new content");
    fs.renameSync(at("Bureau/.saving"), at("Bureau/renamed.txt"));
    await engine.lookAgain();
    expect(itemNamed(engine, "renamed.txt").id).toBe(id);
    await letGo(engine, { items: [id] });
    expect(idsOn(engine)).not.toContain(id);
    await undo(engine, {});
    expect(itemNamed(engine, "renamed.txt").id).toBe(id);
    expect(readPosition(engine.db, id)).toEqual({ x: 5, y: 7 });
  });

  test("that came and went show after a look", async () => {
    const before = idsOn(engine).length;
    fs.writeFileSync(at("Bureau/new.txt"), "x");
    fs.rmSync(at("Bureau", fs.readdirSync(at("Bureau")).find((n) => n.endsWith(".csv"))!));
    await engine.lookAgain();
    expect(idsOn(engine)).toHaveLength(before);
    expect(itemNamed(engine, "new.txt")).toMatchObject({ kind: "text", worktop: "desktop" });
  });

  test("of two thousand and of hostile names are all seen, with distinct labels where the bytes differ in sight", async () => {
    for (const name of hostileNames()) fs.writeFileSync(Buffer.concat([Buffer.from(at("Inbox/")), name]), "");
    for (let n = 0; n < 2000; n++) fs.writeFileSync(at(`Inbox/many-${n}`), "");
    await engine.lookAgain();
    const drawn = fs.readdirSync(at("Inbox"), { encoding: "buffer" }).filter((name) => name[0] !== 0x2e);
    expect(idsOn(engine, "downloads")).toHaveLength(drawn.length);
    const view = await surveyView(engine, "downloads");
    expect(view.sheet.tiles).toHaveLength(drawn.length);
  });

  test("a worktop that cannot be read is said, and what was known of it stays", async () => {
    const before = idsOn(engine, "downloads").length;
    fs.renameSync(at("Inbox"), at("Elsewhere"));
    await engine.lookAgain();
    expect(engine.unreadable).toEqual(["downloads"]);
    expect((await surveyView(engine)).unreadable).toEqual(["~/Inbox"]);
    expect(idsOn(engine, "downloads")).toHaveLength(before);
    fs.renameSync(at("Elsewhere"), at("Inbox"));
    await engine.lookAgain();
    expect(engine.unreadable).toEqual([]);
  });
});

test("a container is what it holds, in whatever order another program wrote it", async () => {
  const script = `
import gzip, sys, zipfile
at = sys.argv[1] + "/"
def pack(name, *entries):
    with zipfile.ZipFile(at + name, "w", zipfile.ZIP_DEFLATED) as z:
        for entry, content in entries: z.writestr(entry, content)
pack("tides", ("xl/workbook.xml", "<x/>"), ("docProps/app.xml", "<x/>"), ("[Content_Types].xml", "<x/>"))
pack("letter", ("word/document.xml", "<x/>"), ("[Content_Types].xml", "<x/>"))
pack("slides", ("_rels/.rels", "<x/>"), ("ppt/presentation.xml", "<x/>"), ("[Content_Types].xml", "<x/>"))
pack("sheet", ("content.xml", "<x/>"), ("mimetype", "application/vnd.oasis.opendocument.spreadsheet"))
pack("liar.zip", ("one.txt", "1"), ("mimetype", "image/png"))
pack("maps.zip", ("xl/one.txt", "1"), ("two.txt", "2"))
open(at + "torn.zip", "wb").write(open(at + "maps.zip", "rb").read()[:40])
gzip.open(at + "gauge.1.gz", "wb").write(b".TH GAUGE 1")
gzip.open(at + "readings.csv.gz", "wb").write(b"a,b")
`;
  const made = spawnSync("python3", ["-c", script, at("Bureau")], { encoding: "utf8" });
  expect(made.status, made.stderr).toBe(0);
  await engine.lookAgain();
  const kinds = ["tides", "letter", "slides", "sheet", "maps.zip", "liar.zip", "torn.zip", "gauge.1.gz", "readings.csv.gz"].map(
    (name) => itemNamed(engine, name).kind,
  );
  expect(kinds).toEqual(["table", "text", "talk", "table", "archive", "archive", "archive", "text", "table"]);
  // By their content, too: a spreadsheet without its sheets is said to be damaged; what is packed alone is one entry.
  expect(await lookOf(engine, itemNamed(engine, "tides"))).toMatchObject({ form: "bytes", why: expect.stringMatching(/./) });
  for (const name of ["gauge.1.gz", "readings.csv.gz"])
    expect(await lookOf(engine, itemNamed(engine, name)), name).toMatchObject({ form: "archive", count: 1 });
});

describe("findings", () => {
  test("twins are proven by every byte, over both worktops and the homes, and hard names do not matter", async () => {
    fs.writeFileSync(at("Bureau/one.dat"), Buffer.alloc(70_000, 1));
    fs.writeFileSync(at("Inbox/t\nwo.dat"), Buffer.alloc(70_000, 1));
    fs.writeFileSync(at("Bureau/nearly.dat"), Buffer.concat([Buffer.alloc(69_999, 1), Buffer.from([2])]));
    const filed = fs.readdirSync(at("Papers")).map((home) => at("Papers", home))[0]!;
    const original = path.join(filed, fs.readdirSync(filed)[0]!);
    fs.copyFileSync(original, at("Inbox/copy of a filed one.txt"));
    await engine.lookAgain("all");
    const twins = (await findings(engine)).find((f) => f.kind === "twins")!;
    const labels = twins.each.map(({ id }) => idLabel(id));
    expect(labels.toSorted()).toEqual(
      ["copy of a filed one.txt", labels.find((l) => l !== "copy of a filed one.txt")!].toSorted(),
    );
    expect(["one.dat", "t\\nwo.dat"]).toContain(labels.find((l) => l !== "copy of a filed one.txt"));
    expect(twins.each.filter(({ stays }) => stays && "id" in stays)).toHaveLength(1);
  });

  test("a shortcut whose program is back is dead no longer", async () => {
    const dead = async () => (await findings(engine)).find((f) => f.kind === "dead shortcut")?.each.length ?? 0;
    const before = await dead();
    fs.mkdirSync(at("bin"));
    fs.writeFileSync(at("Bureau/alive.desktop"), `[Desktop Entry]\nType=Application\nExec="${at("bin/run")}" %f\n`);
    fs.symlinkSync("../bin/run", at("Bureau/link"));
    await engine.lookAgain();
    expect(await dead()).toBe(before + 2);
    fs.writeFileSync(at("bin/run"), "");
    await engine.lookAgain();
    expect(await dead()).toBe(before);
  });
});

const idLabel = (id: string) => engine.db.prepare<[string], string>("SELECT label FROM item WHERE id = ?").pluck().get(id)!;

describe("what is said", () => {
  test("bytes count what lies inside folders, at any depth; and that they are being counted, until they are", async () => {
    const before = sheet().figures.bytes;
    fs.mkdirSync(at("Bureau/full/deep/deeper"), { recursive: true });
    fs.writeFileSync(at("Bureau/full/one"), Buffer.alloc(3_000_000));
    fs.writeFileSync(at("Bureau/full/deep/deeper/two"), Buffer.alloc(4_000_000));
    fs.mkdirSync(at("Bureau/full0"));
    fs.writeFileSync(at("Bureau/full0/neighbour"), "x");
    await engine.lookAgain();
    expect(sheet().figures.counting).toBe(true);
    const said = async () => (await surveyView(engine)).sentence.map(({ text }) => text).join("");
    expect(await said()).toContain("so far, as folders are still being counted");
    await engine.lookAgain("all");
    expect(sheet().figures).toMatchObject({ bytes: before + 7_000_001, counting: false });
    expect(await said()).not.toContain("so far");
    expect((await thing(engine, itemNamed(engine, "full").id)).facts).toContain("2 entries, 7.0 MB");
    const tile = (await surveyView(engine)).sheet.tiles.find(({ name }) => name === "full");
    expect(tile).toMatchObject({ bytes: 7_000_000, entries: 2 });
    fs.rmSync(at("Bureau/full/deep"), { recursive: true });
    await engine.lookAgain("all");
    expect(sheet().figures.bytes).toBe(before + 3_000_001);
  });

  test("a screen that gives no positions has no share and no overlaps, and says so", async () => {
    expect(sheet()).toMatchObject({ positioned: false, figures: { coveredShare: null, overlapping: null } });
    expect((await surveyView(engine)).note).toContain("does not say where its icons lie");
    expect((await survey(engine)).worktops[0]!.items[0]).not.toHaveProperty("position.x");
  });

  test("a thing that arrives while it is quiet is in sight, and counted", async () => {
    const all = idsOn(engine).length;
    await quiet(engine, { level: "bare" });
    expect(quietNow(engine)).toMatchObject({ level: "bare", arrived: 0 });
    expect(quietNow(engine).outOfSight).toHaveLength(all);
    await new Promise((next) => setTimeout(next, 5));
    fs.writeFileSync(at("Bureau/arrived.txt"), "x");
    await engine.lookAgain();
    expect(quietNow(engine)).toMatchObject({ arrived: 1 });
    await quiet(engine, { level: "everything" });
    expect(quietNow(engine).outOfSight).toEqual([]);
    await expect(quiet(engine, { level: "everything" })).rejects.toMatchObject({ code: "already-quiet" });
  });

  test("most things find the home that their words were taken from", () => {
    const right = homes(engine)
      .filter((home) => home.title.split(" / ").length === 2)
      .flatMap((home) => belongingTo(engine, home).map(({ item }) => item.label.startsWith(home.title.split(" / ")[1]!)));
    expect(right.length).toBeGreaterThan(10);
    expect(right.filter(Boolean).length / right.length).toBeGreaterThan(0.9);
  });

  test("looks: a table with its size, a text, a folder, an empty file, bytes", async () => {
    fs.writeFileSync(at("Bureau/t.csv"), 'a;b\n1;"x;y"\n2;z\n');
    fs.writeFileSync(at("Bureau/e.txt"), "");
    fs.writeFileSync(at("Bureau/page.html"), "<script>alert(1)</script>");
    fs.mkdirSync(at("Bureau/f/sub"), { recursive: true });
    await engine.lookAgain();
    expect(await lookOf(engine, itemNamed(engine, "t.csv"))).toEqual({
      form: "table",
      sheets: [
        {
          name: "",
          cells: [
            ["a", "b"],
            ["1", "x;y"],
            ["2", "z"],
          ],
          rows: 3,
          columns: 2,
        },
      ],
    });
    expect(await lookOf(engine, itemNamed(engine, "e.txt"))).toMatchObject({ form: "text", lines: [""] });
    expect(await lookOf(engine, itemNamed(engine, "page.html"))).toMatchObject({
      form: "text",
      lines: ["<script>alert(1)</script>"],
    });
    expect(await lookOf(engine, itemNamed(engine, "f"))).toMatchObject({
      form: "folder",
      count: 1,
      entries: [{ name: "sub", kind: "folder" }],
    });
  });
});

test("hostile files are survived, quickly and in little memory: huge and sparse, a picture that declares far too much, cut ones", async () => {
  const write = (name: string, content: Buffer | string) => fs.writeFileSync(at("Bureau", name), content);
  const sparse = fs.openSync(at("Bureau/huge.iso"), "w");
  fs.ftruncateSync(sparse, 10_000_000_000);
  fs.closeSync(sparse);
  // A PNG's header with 30,000 by 30,000 pixels, and nothing behind it.
  const header = Buffer.from("89504e470d0a1a0a0000000d49484452000075300000753008060000005d2d3a4f", "hex");
  write("vast.png", header);
  const cut: Record<string, Buffer> = {
    "cut.png": header.subarray(0, 20),
    "cut.jpg": Buffer.from("ffd8ffe000104a4649460001", "hex"),
    "cut.pdf": Buffer.from("%PDF-1.7\n1 0 obj <<"),
    "cut.zip": Buffer.from("504b0304140000000800", "hex"),
    "cut.tar.gz": Buffer.from("1f8b0800000000000003ed", "hex"),
    "cut.docx": Buffer.concat([Buffer.from("504b030414000600080000002100", "hex"), Buffer.from("[Content_Types].xml")]),
    "cut.wav": Buffer.from("RIFF\u0000\u0000\u0000\u0000WAVEfmt "),
    "cut.mp4": Buffer.from("0000002066747970", "hex"),
    "cut.csv": Buffer.from('a,"b'),
    "cut.desktop": Buffer.from("[Desktop Entry]\nExec="),
    "cut.url": Buffer.from("[InternetShortcut]\nURL="),
    "cut.txt": Buffer.from([0x61, 0xe2, 0x82]),
  };
  for (const [name, content] of Object.entries(cut)) write(name, content);
  await engine.lookAgain("all");
  for (const name of ["huge.iso", "vast.png", ...Object.keys(cut)]) {
    const item = itemNamed(engine, name);
    expect(item.kind, name).toBeTruthy();
    expect(await lookOf(engine, item), name).toHaveProperty("form");
  }
  expect((await findings(engine)).some((finding) => finding.each.some(({ id }) => idLabel(id) === "huge.iso"))).toBe(true);
});
