import { execFileSync, spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import sharp from "sharp";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { thing } from "../sitting/view";
import { pictureOf } from "./forms/picture";
import { look } from "./look";
import { lookOf } from "./looks";
import { partOf } from "./page";

// Made by other programs: 7-Zip, with a password over the content, and over the names too; and an encoder of HEIF.
const locked7z =
  "N3q8ryccAAR/sRlkcAAAAAAAAABiAAAAAAAAAP4bPnQ1N1b8Z4fEun8IFmdVQI9zRLZsmM5zTMTPTRM/BXO2FQnBAmWQvDOoGpmSGB5bYzRWoEvEqnetRNu+9P3buSb+yv3QUrPPl2MxqL7Y30+fbWLYu6GyQGXtI64LdgnA73dyRGRt9DRfoAeHXIrPIrCvAQQGAAEJcAAHCwEAAiQG8QcBElMP0+/p2WhHwhyDweVJ+gV5kyEhAQABAAxsawAICgGc/DvjAAAFARkBABENAGEALgByAHQAZgAAABQKAQC25vLKMH7dARUGAQAggKSBAAA=";
const sealed7z =
  "N3q8ryccAATHSsMv4AAAAAAAAAAuAAAAAAAAAPGF6GvkOlMraudixjrl1vujdIwLRZ2eKPseseRXkHUs/4KLDT+lg0zike+icUFk7S5eKOqP3p70Rq2QUHQPeUP9SNpLQInbBf5qTc+TSVH6w/V4i/MPK+PaIkQ5gHqoq7MWMZCHs0lcuxyQR05j7f9PC3PGgsao0/cHhAGnfyN1SidFcFlxjQVS91kU20sJOY7glT4mXRD+lgNv9vGq/8LDzhsYeGzTNpxgk5MsilXSiZ2JcQNV2h7efExtVOikRymqUE8W4c7ogh8vom7PIrAWziUSlblYoov/dwGJXFBOoSDdjRcGcAEJcAAHCwEAASQG8QcBElMP92znMy72OJchVUtGITxOSQxiCgHt1MIYAAA=";
const heic =
  "AAAAHGZ0eXBoZWljAAAAAG1pZjFoZWljbWlhZgAAAa1tZXRhAAAAAAAAACFoZGxyAAAAAAAAAABwaWN0AAAAAAAAAAAAAAAAAAAAAA5waXRtAAAAAAACAAAAEGlkYXQAAAAAAEAAMAAAADhpbG9jAQAAAERAAAIAAQAAAAAAAAHRAAEAAAAAAAAAGgACAAEAAAAAAAAAAQAAAAAAAAAIAAAAOGlpbmYAAAAAAAIAAAAVaW5mZQIAAAEAAQAAaHZjMQAAAAAVaW5mZQIAAAAAAgAAZ3JpZAAAAADYaXBycAAAALZpcGNvAAAAdmh2Y0MBA3AAAAAAAAAAAAAe8AD8/fj4AAAPAyAAAQAYQAEMAf//A3AAAAMAkAAAAwAAAwAeugJAIQABACpCAQEDcAAAAwCQAAADAAADAB6gIIEFlurkprm4EBAwIAAAAwAgAAADACEiAAEABkQBwXPAiQAAABRpc3BlAAAAAAAAAEAAAABAAAAAFGlzcGUAAAAAAAAAQAAAADAAAAAQcGl4aQAAAAADCAgIAAAAGmlwbWEAAAAAAAAAAgABAoECAAICA4QAAAAaaXJlZgAAAAAAAAAOZGltZwACAAEAAQAAACJtZGF0AAAAFigBrxmA70mlv//hf4RWBv8QrWmPm4A=";

/** By Python's own lzma, bz2, wave and zipfile, and Debian's dpkg-deb. */
const script = String.raw`
import sys, os, lzma, bz2, tarfile, io, wave, struct, zipfile, zlib
d = sys.argv[1]
def tar():
    out = io.BytesIO()
    with tarfile.open(fileobj=out, mode="w") as t:
        for n in range(3):
            info = tarfile.TarInfo("logs/%d.txt" % n); info.size = 100; t.addfile(info, io.BytesIO(b"x" * 100))
    return out.getvalue()
open(os.path.join(d, "logs.tar.xz"), "wb").write(lzma.compress(tar()))
open(os.path.join(d, "logs.tar.bz2"), "wb").write(bz2.compress(tar()))
open(os.path.join(d, "torn.tar.xz"), "wb").write(lzma.compress(os.urandom(5000))[:3000])
open(os.path.join(d, "note.txt.xz"), "wb").write(lzma.compress(b"seven\n" * 100))
# Silence, then as loud as can be, then half as loud.
w = wave.open(os.path.join(d, "steps.wav"), "wb"); w.setnchannels(1); w.setsampwidth(2); w.setframerate(8000)
for loud in (0, 32767, 16384):
    w.writeframes(struct.pack("<h", loud) * 8000)
w.close()
def png(w, h):
    row = b"\0" + b"\x14\x69\x5d" * w
    part = lambda kind, data: struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
    return b"\x89PNG\r\n\x1a\n" + part(b"IHDR", struct.pack(">IIBBBBB", w, h, 8, 2, 0, 0, 0)) + part(b"IDAT", zlib.compress(row * h)) + part(b"IEND", b"")
with zipfile.ZipFile(os.path.join(d, "gulls.pptx"), "w") as z:
    z.writestr("[Content_Types].xml", "<Types/>")
    z.writestr("ppt/slides/slide1.xml", "<p:sld><a:p><a:r><a:t>Gulls</a:t></a:r></a:p></p:sld>")
    z.writestr("ppt/slides/_rels/slide1.xml.rels", '<Relationships><Relationship Id="a" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/image" Target="../media/image1.png"/><Relationship Id="b" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/image" Target="http://elsewhere.example/x.png"/></Relationships>')
    z.writestr("ppt/media/image1.png", png(800, 20))
rows = b"\x5d\x69\x14" * 8 * 6
open(os.path.join(d, "old.bmp"), "wb").write(b"BM" + struct.pack("<IHHI", 54 + len(rows), 0, 0, 54) + struct.pack("<IiiHHIIiiII", 40, 8, 6, 1, 24, 0, len(rows), 2835, 2835, 0, 0) + rows)
`;

let place: Place;
let engine: Engine;
const at = (name: string) => path.join(place.root, "Desktop", name);

beforeAll(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop/box/deep"), { recursive: true }));
  const made = spawnSync("python3", ["-c", script, path.join(place.root, "Desktop")], { encoding: "utf8" });
  expect(made.stderr).toBe("");
  const pack = path.join(place.folder, "pack");
  fs.mkdirSync(path.join(pack, "DEBIAN"), { recursive: true });
  fs.mkdirSync(path.join(pack, "usr/bin"), { recursive: true });
  fs.writeFileSync(
    path.join(pack, "DEBIAN/control"),
    "Package: tide-table\nVersion: 1.2\nArchitecture: all\nMaintainer: A <a@station.example>\nDescription: tables of the tide\n",
  );
  fs.writeFileSync(path.join(pack, "usr/bin/tide"), "#!/bin/sh\n");
  execFileSync("dpkg-deb", ["-b", "-Zxz", pack, at("tide.deb")]);
  // More than is listed, out of little: what came until then is shown.
  fs.writeFileSync(path.join(pack, "usr/bin/zeros"), Buffer.alloc(80_000_000));
  execFileSync("dpkg-deb", ["-b", "-Zgzip", pack, at("zeros.deb")]);
  fs.writeFileSync(at("locked.7z"), Buffer.from(locked7z, "base64"));
  fs.writeFileSync(at("sealed.7z"), Buffer.from(sealed7z, "base64"));
  fs.writeFileSync(at("phone.heic"), Buffer.from(heic, "base64"));
  fs.writeFileSync(at("sail.py"), "# a remark\ndef sail(n):\n    return 'far' * 12\n");
  fs.writeFileSync(at("read.md"), "# Head\n\n- [ ] one\n");
  fs.writeFileSync(at("letter.rtf"), "{\\rtf1\\ansi{\\fonttbl{\\f0 Times;}}\\f0 Low {\\b water}\\par caf\\'e9\\par}");
  fs.writeFileSync(at("torn.rtf"), "{\\rtf1\\ansi {{{{");
  // As word processors write it: fonts of other alphabets, characters with what stands for them, groups that are no text.
  fs.writeFileSync(
    at("alphabets.rtf"),
    String.raw`{\rtf1\ansi\ansicpg1252\uc1{\fonttbl{\f0\fcharset0 Times;}{\f1\fcharset204 Times Cyr;}}{\info{\title Hidden}}
{\*\generator Somebody 1.0;}\pard\f0 \u8220?Low\u8221? {\f1 \'cf\'f0\'e8} \ldblquote water\rdblquote\par
{\header of the page\par}one\tab two\line {\pict\bin4 abcd}three \{4\}\~5\par\uc2\u28526\'92\'aa end}`,
  );
  fs.copyFileSync("src/demo/templates/ring-totals.xlsx", at("rings.xlsx"));
  fs.writeFileSync(at("torn.xlsx"), fs.readFileSync(at("rings.xlsx")).subarray(0, 5000));
  fs.writeFileSync(at("claims.rtf"), "{\\rtf1\\bin999999999 a}");
  for (const [n, name] of ["a.txt", "b.csv", "c.png", ".dot"].entries()) {
    fs.writeFileSync(at(`box/${name}`), "x".repeat(10 * (n + 1)));
    fs.utimesSync(at(`box/${name}`), 1.6e9 + n, 1.6e9 + n);
  }
  engine = await place.open();
}, 60_000);
afterAll(async () => {
  await engine.close();
  place.remove();
});
const seen = (name: string) => lookOf(engine, itemNamed(engine, name));

describe("archives of other kinds", () => {
  test("a tar is listed however it is packed; anything else that is packed is one entry", async () => {
    for (const name of ["logs.tar.xz", "logs.tar.bz2"])
      expect(await seen(name)).toMatchObject({
        form: "archive",
        count: 3,
        bytes: 300,
        whole: true,
        entries: [{ name: "logs/0.txt" }, {}, {}],
      });
    expect(await seen("note.txt.xz")).toMatchObject({ form: "archive", entries: [{ name: "note.txt", bytes: 600 }] });
    expect(await seen("torn.tar.xz")).toMatchObject({ whole: false });
  });

  test("one with a password shows its names, or says that it is locked", async () => {
    expect(await seen("locked.7z")).toMatchObject({ form: "archive", locked: true, entries: [{ name: "a.rtf", bytes: 107 }] });
    expect(await seen("sealed.7z")).toMatchObject({ form: "bytes", why: expect.stringContaining("locked") });
  });

  test("a package that unpacks to more than is listed says so, and what it is", async () => {
    expect(await seen("zeros.deb")).toMatchObject({ form: "archive", whole: false, program: { name: "tide-table" } });
  });

  test("a package tells what it is, what it would install, and that it is not there", async () => {
    const look = await seen("tide.deb");
    expect(look).toMatchObject({
      form: "archive",
      whole: true,
      program: { name: "tide-table", version: "1.2", words: "tables of the tide", there: undefined },
    });
    expect(look.form === "archive" && look.entries.map(({ name }) => name)).toContain("./usr/bin/tide");
  });
});

describe("texts", () => {
  test("code has its tones, line by line, and every letter of it", async () => {
    const look = await seen("sail.py");
    if (look.form !== "text" || !look.tones) throw new Error(look.form);
    for (const [n, line] of look.lines.entries())
      expect(
        look.tones[n]!.reduce((sum, [, letters]) => sum + letters, 0),
        line,
      ).toBe(line.length);
    expect(look.tones[0]).toEqual([["remark", 10]]);
    expect(look.tones[1]).toContainEqual(["word", 3]);
    expect(look.tones[2]).toContainEqual(["text", 5]);
    expect(look.tones[2]).toContainEqual(["number", 2]);
  });

  test("Markdown is known as such; RTF is read, and where it is torn that is said", async () => {
    expect(await seen("read.md")).toMatchObject({ form: "text", markdown: true });
    expect(await seen("letter.rtf")).toMatchObject({ form: "text", lines: ["Low water", "café"] });
    expect(["text", "bytes"]).toContain((await seen("torn.rtf")).form);
    expect(await seen("alphabets.rtf")).toMatchObject({
      form: "text",
      lines: ["“Low” При “water”", "one\ttwo", "three {4}\u00a05", "潮 end"],
    });
    expect(await seen("claims.rtf")).toMatchObject({ form: "bytes" });
  });
});

test("a spreadsheet is seen sheet by sheet, as its program wrote it; a torn one says why it is not", async () => {
  const look = await seen("rings.xlsx");
  if (look.form !== "table") throw new Error(look.form);
  expect(look.sheets.map(({ name, rows, columns }) => [name, rows, columns])).toEqual([
    ["by ledge", 25, 6],
    ["weather", 37, 4],
  ]);
  expect(look.sheets[0]!.cells[0]).toEqual(["ring", "species", "ledge", "wing mm", "weight g", "note"]);
  expect(look.sheets[1]!.cells[1]![0]).toBe("00:00");
  expect(Number(look.sheets[0]!.cells[1]![3])).toBeGreaterThan(100);
  expect(await seen("torn.xlsx")).toMatchObject({ form: "bytes", why: expect.any(String) });
});

test("a sound's wave is as loud as it sounds, from its beginning to its end", async () => {
  const look = await seen("steps.wav");
  if (look.form !== "sound" || !look.wave) throw new Error(look.form);
  expect(look.wave).toHaveLength(300);
  expect([look.wave[40], look.wave[150], look.wave[260]]).toEqual([0, 255, 128]);
});

test("a folder tells its kinds, and each thing's size and date; what is hidden is counted", async () => {
  expect(await seen("box")).toMatchObject({
    form: "folder",
    count: 4,
    hidden: 1,
    entries: [
      { name: "a.txt", kind: "text", bytes: 10, mtimeMs: 1.6e12 },
      { name: "b.csv", kind: "table", bytes: 20 },
      { name: "c.png", kind: "picture", bytes: 30 },
      { name: "deep", kind: "folder" },
    ],
  });
  expect(await look(engine, { item: itemNamed(engine, "box").id })).toMatchObject({ form: "folder", entries: 4 });
});

describe("pictures", () => {
  const drawn = async (name: string, size: string) => {
    const query = new URLSearchParams({ item: itemNamed(engine, name).id, size });
    const response = await pictureOf(engine, query, new AbortController().signal);
    return sharp(Buffer.from(await response.arrayBuffer())).metadata();
  };

  test("of seldom forms are drawn too, within their box", async () => {
    expect(await drawn("phone.heic", "large")).toMatchObject({ width: 64, height: 48 });
    expect(await drawn("phone.heic", "pixels")).toMatchObject({ width: 64, height: 48 });
    expect(await drawn("old.bmp", "large")).toMatchObject({ width: 8, height: 6 });
  });

  test("of a talk are drawn from within it, and nothing else of it is", async () => {
    expect(await seen("gulls.pptx")).toMatchObject({
      form: "slides",
      slides: [{ lines: ["Gulls"], pictures: ["ppt/media/image1.png"] }],
    });
    const { id } = await thing(engine, itemNamed(engine, "gulls.pptx").id);
    const ask = (part: string) => partOf(engine, new URLSearchParams({ item: id, part }), new AbortController().signal);
    const picture = await ask("ppt/media/image1.png");
    expect(picture.headers.get("content-type")).toBe("image/png");
    expect(await sharp(Buffer.from(await picture.arrayBuffer())).metadata()).toMatchObject({ width: 420 });
    await expect(ask("ppt/slides/slide1.xml")).rejects.toMatchObject({ code: "unknown-item" });
    await expect(ask("ppt/media/../slides/slide1.png")).rejects.toMatchObject({ code: "unknown-item" });
    await expect(ask("ppt/media/none.png")).rejects.toMatchObject({ code: "no-picture" });
  });
});
