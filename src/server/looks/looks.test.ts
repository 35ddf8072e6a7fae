import { execFileSync, spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { pdf } from "../../../fixtures/pdf";
import type { Engine } from "../engine";
import { thing } from "../sitting/view";
import { look } from "./look";
import { lookOf } from "./looks";
import { lettersOf, pageOf } from "./page";

let place: Place;
let engine: Engine;
const at = (name: string) => path.join(place.root, "Desktop", name);

/** Written by Python's own zipfile, tarfile and email, in the forms that these documents have. */
const script = String.raw`
import sys, os, zipfile, tarfile, io, email.message, email.utils
d = sys.argv[1]
def zipped(name, parts, stored=()):
    with zipfile.ZipFile(os.path.join(d, name), "w", zipfile.ZIP_DEFLATED) as z:
        for part, content in parts:
            z.writestr(part, content, zipfile.ZIP_STORED if part in stored else zipfile.ZIP_DEFLATED)
def odf(name, kind, body):
    zipped(name, [("mimetype", "application/vnd.oasis.opendocument." + kind),
        ("content.xml", '<?xml version="1.0"?><office:document-content><office:body>' + body + '</office:body></office:document-content>')], ("mimetype",))
odf("log.odt", "text", "<text:h>Log &amp; notes</text:h><text:p>Low<text:s text:c=\"3\"/>water<text:tab/>06:10</text:p>")
odf("tides.ods", "spreadsheet", '<table:table table:name="May"><table:table-row><table:table-cell><text:p>day</text:p></table:table-cell><table:table-cell/><table:table-cell><text:p>high</text:p></table:table-cell></table:table-row><table:table-row table:number-rows-repeated="3"><table:table-cell table:number-columns-repeated="3"><text:p>7</text:p></table:table-cell></table:table-row><table:table-row table:number-rows-repeated="1048570"><table:table-cell table:number-columns-repeated="1024"/></table:table-row></table:table><table:table table:name="June"/>')
odf("talk.odp", "presentation", "<draw:page><text:p>Gulls</text:p><text:p>and others</text:p></draw:page><draw:page/>")
zipped("talk.pptx", [("[Content_Types].xml", "<Types/>"), ("ppt/slides/slide10.xml", "<p:sld><a:p><a:r><a:t>last</a:t></a:r></a:p></p:sld>"), ("ppt/slides/slide2.xml", "<p:sld><a:p><a:r><a:t>first </a:t></a:r><a:r><a:t>words</a:t></a:r></a:p></p:sld>")])
zipped("plain.zip", [("a/", ""), ("a/b.txt", "b" * 1000), ("ö.txt", "x")])
zipped("entities.odt", [("mimetype", "application/vnd.oasis.opendocument.text"), ("content.xml", '<!DOCTYPE a [<!ENTITY b "bbbb">]><a><text:p>&b;</text:p></a>')], ("mimetype",))
zipped("deep.odt", [("mimetype", "application/vnd.oasis.opendocument.text"), ("content.xml", "<a>" * 5000 + "</a>" * 5000)], ("mimetype",))
zipped("bomb.docx", [("[Content_Types].xml", "<Types/>"), ("word/document.xml", b"<a>" + b"0" * 400_000_000)])
with tarfile.open(os.path.join(d, "old.tar.gz"), "w:gz") as t:
    for n in range(5):
        info = tarfile.TarInfo("logs/%d.txt" % n); info.size = 100; t.addfile(info, io.BytesIO(b"x" * 100))
m = email.message.EmailMessage()
m["From"] = "Ada Fulmar <ada@station.example>"; m["To"] = "all@station.example"; m["Subject"] = "Ringing on Thursday – bring gloves"
m["Date"] = email.utils.formatdate(1700000000); m["Message-ID"] = "<1@station.example>"
m.set_content("We meet at six.\nBring gloves.\n"); m.add_attachment(b"0" * 1234, maintype="application", subtype="octet-stream", filename="list.bin")
open(os.path.join(d, "ringing.eml"), "wb").write(bytes(m))
`;

const track = `<?xml version="1.0"?><gpx version="1.1"><trk><trkseg>
<trkpt lat="60" lon="5"><time>2026-05-01T06:00:00Z</time></trkpt><trkpt lat="60" lon="5.01"><time>2026-05-01T06:10:00Z</time></trkpt>
</trkseg></trk></gpx>`;
const point = '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[5,60]}}]}';
const event = ["DTSTART:20260501T060000", "DTEND:20260501T070000", "SUMMARY:Ringing", "LOCATION:North cliff"];

beforeAll(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop/box"), { recursive: true }));
  const made = spawnSync("python3", ["-c", script, path.join(place.root, "Desktop")], { encoding: "utf8" });
  expect(made.stderr).toBe("");
  fs.writeFileSync(at("sheet.pdf"), pdf("Low water at six"));
  fs.writeFileSync(at("torn.pdf"), pdf("x").slice(0, 120));
  fs.writeFileSync(at("torn.zip"), fs.readFileSync(at("plain.zip")).subarray(0, 60));
  fs.writeFileSync(at("walk.gpx"), track);
  fs.writeFileSync(at("spots.geojson"), point);
  fs.writeFileSync(
    at("days.ics"),
    ["BEGIN:VCALENDAR", "VERSION:2.0", "BEGIN:VEVENT", ...event, "END:VEVENT", "END:VCALENDAR", ""].join("\r\n"),
  );
  fs.writeFileSync(at("one.csv.gz"), gzipSync("a,b\n".repeat(1000)));
  fs.writeFileSync(at("noise.pdf"), Buffer.from(Array.from({ length: 4000 }, (_, n) => (n * 7919) % 251)));
  fs.writeFileSync(at("tool.desktop"), "[Desktop Entry]\nType=Application\nName=Tool\nExec=no-such-tool --full %f\n");
  fs.writeFileSync(at("page.url"), "[InternetShortcut]\nURL=https://station.example/tides\n");
  fs.symlinkSync("/nowhere/at/all", at("dangling"));
  execFileSync("tar", ["-cf", at("box.tar"), "-C", place.root, "Desktop/box"]);
  engine = await place.open();
}, 60_000);
afterAll(async () => {
  await engine.close();
  place.remove();
});
const seen = (name: string) => lookOf(engine, itemNamed(engine, name));
const told = (name: string) => look(engine, { item: itemNamed(engine, name).id });

describe("a look by content", () => {
  test("texts of word processors and letters are read, without their looks", async () => {
    expect(await seen("log.odt")).toEqual({ form: "text", lines: ["Log & notes", "Low   water\t06:10"], whole: true });
    expect(await seen("ringing.eml")).toMatchObject({
      form: "letter",
      from: "Ada Fulmar <ada@station.example>",
      subject: "Ringing on Thursday – bring gloves",
      date: 1_700_000_000_000,
      lines: ["We meet at six.", "Bring gloves."],
      attachments: [{ name: "list.bin", bytes: 1234 }],
    });
    const line = "2026-05-01 06:00 to 2026-05-01 07:00  Ringing, North cliff";
    expect(await seen("days.ics")).toMatchObject({ form: "text", lines: [line] });
  });

  test("sheets with their size; what repeats is counted, and a million empty rows are none", async () => {
    const row = ["7", "7", "7"];
    expect(await seen("tides.ods")).toEqual({
      form: "table",
      sheets: [
        { name: "May", rows: 4, columns: 3, cells: [["day", "", "high"], row, row, row] },
        { name: "June", rows: 0, columns: 0, cells: [] },
      ],
    });
    expect(await told("tides.ods")).toMatchObject({
      form: "table",
      sheets: [{ name: "May", rows: 4, columns: 3 }, { name: "June" }],
      facts: ["2 sheets", "4 rows by 3 columns"],
    });
  });

  test("the words of a talk, slide by slide, by their numbers", async () => {
    expect(await seen("talk.pptx")).toEqual({
      form: "slides",
      count: 2,
      slides: [
        { lines: ["first words"], pictures: [] },
        { lines: ["last"], pictures: [] },
      ],
    });
    expect(await seen("talk.odp")).toEqual({
      form: "slides",
      count: 2,
      slides: [
        { lines: ["Gulls", "and others"], pictures: [] },
        { lines: [], pictures: [] },
      ],
    });
  });

  test("pages: how many, their text, and each drawn", async () => {
    expect(await told("sheet.pdf")).toMatchObject({ form: "pages", pages: 2, text: expect.stringContaining("Low water at six") });
    const { id } = itemNamed(engine, "sheet.pdf");
    const ask = (n: string) => pageOf(engine, new URLSearchParams({ item: id, n }), new AbortController().signal);
    const answer = await ask("2");
    const picture = Buffer.from(await answer.arrayBuffer());
    expect([answer.headers.get("content-type"), picture.subarray(1, 4).toString()]).toEqual(["image/png", "PNG"]);
    expect([picture.readUInt32BE(16), picture.readUInt32BE(20)]).toEqual([1000, 500]);
    for (const n of ["3", "0", "x"]) await expect(ask(n), n).rejects.toThrow();
  });

  test("archives by their list: zip, tar in its packings, one packed file", async () => {
    expect(await seen("plain.zip")).toMatchObject({
      form: "archive",
      count: 3,
      whole: true,
      bytes: 1001,
      entries: [
        { name: "a/", folder: true },
        { name: "a/b.txt", bytes: 1000 },
        { name: "ö.txt", bytes: 1 },
      ],
    });
    expect(await told("old.tar.gz")).toMatchObject({ form: "archive", entries: 5, facts: ["5 entries, 500 bytes unpacked"] });
    expect(await seen("box.tar")).toMatchObject({ form: "archive", entries: [{ name: "Desktop/box/", folder: true }] });
    expect(await seen("one.csv.gz")).toMatchObject({ form: "archive", count: 1, bytes: 4000, entries: [{ name: "one.csv" }] });
  });

  test("a way to scale, with its length and when", async () => {
    // A hundredth of a degree of longitude at 60 north, on a sphere of 6,371.009 km.
    const metres = ((2 * Math.PI * 6_371_009) / 36_000) * Math.cos(Math.PI / 3);
    const way = await seen("walk.gpx");
    expect(way).toMatchObject({ form: "track", points: 2, from: Date.parse("2026-05-01T06:00:00Z") });
    if (way.form !== "track") throw new Error(way.form);
    expect(way.metres).toBeCloseTo(metres, 0);
    expect(way.ways).toEqual([
      [
        [0, 0],
        [1000, 0],
      ],
    ]);
    expect(await seen("spots.geojson")).toMatchObject({ form: "track", points: 1, metres: 0 });
  });

  test("a font by its letters, drawn here: its file is sent to nobody", async () => {
    // One of another maker's, as this system has it.
    const from = path.join("node_modules/pdfjs-dist/standard_fonts", "LiberationSans-Regular.ttf");
    fs.copyFileSync(from, at("face.ttf"));
    fs.writeFileSync(at("torn.ttf"), fs.readFileSync(from).subarray(0, 900));
    await engine.lookAgain();
    expect(await seen("face.ttf")).toEqual({ form: "font" });
    const letters = (name: string) =>
      lettersOf(engine, new URLSearchParams({ item: itemNamed(engine, name).id }), new AbortController().signal);
    const picture = Buffer.from(await (await letters("face.ttf")).arrayBuffer());
    const { default: sharp } = await import("sharp");
    const { channels } = await sharp(picture).stats();
    // Black on white, and a good deal of it.
    expect(channels[0]!.min).toBe(0);
    expect(channels[0]!.mean).toBeLessThan(250);
    await expect(letters("torn.ttf")).rejects.toMatchObject({ code: "no-picture" });
  });

  test("what leads elsewhere says where, and whether that is there", async () => {
    expect(await seen("page.url")).toEqual({ form: "link", target: "https://station.example/tides" });
    expect(await seen("dangling")).toEqual({ form: "link", target: "/nowhere/at/all", isThere: false });
    expect(await seen("tool.desktop")).toMatchObject({ form: "shortcut", isThere: false, runs: "no-such-tool --full %f" });
  });
});

describe("what cannot be shown", () => {
  test.each([
    ["torn.pdf", /damaged|cut off/],
    ["torn.zip", /damaged|cut off/],
    ["entities.odt", /entities of its own/],
    ["deep.odt", /too deep/],
    ["bomb.docx", /300 MB/],
  ])("%s says why, and how its bytes begin", async (name, why) => {
    const found = await seen(name);
    expect(found).toMatchObject({ form: "bytes", why: expect.stringMatching(why) });
    expect(found.form === "bytes" && found.head.length).toBeGreaterThan(0);
    // It can be decided about all the same.
    expect((await thing(engine, itemNamed(engine, name).id)).homes).toEqual([]);
  });

  test("noise under a known name is no damage: nothing knows it", async () => {
    expect(await seen("noise.pdf")).toMatchObject({ form: "bytes" });
  });

  test("a process that was ended while nobody looked is not waited for", async () => {
    const { LookingApart } = await import("./looking-apart");
    const looking = new LookingApart();
    try {
      expect(await looking.look(itemNamed(engine, "sheet.pdf").path)).toMatchObject({ form: "pages" });
      const pids = spawnSync("pgrep", ["-P", String(process.pid), "-f", "dist/look.mjs"], { encoding: "utf8" })
        .stdout.trim()
        .split("\n");
      for (const pid of pids) process.kill(Number(pid), "SIGKILL");
      await expect.poll(() => pids.some((pid) => fs.existsSync(`/proc/${pid}`))).toBe(false);
      expect(await looking.look(itemNamed(engine, "sheet.pdf").path)).toMatchObject({ form: "pages" });
    } finally {
      looking.end();
    }
  });

  test("whoever ends the process in which it is read, nobody is left waiting, and the next one is read", async () => {
    const children = () =>
      spawnSync("pgrep", ["-P", String(process.pid), "-f", "dist/look.mjs"], { encoding: "utf8" })
        .stdout.trim()
        .split("\n");
    fs.writeFileSync(at("late.pdf"), pdf("late"));
    await engine.lookAgain();
    const looking = seen("late.pdf");
    await expect.poll(() => children()[0]).not.toBe("");
    for (const pid of children()) process.kill(Number(pid), "SIGKILL");
    expect(["pages", "bytes"]).toContain((await looking).form);
    expect(await seen("late.pdf")).toMatchObject({ form: "pages" });
  });
});
