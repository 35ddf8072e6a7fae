import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";
import sharp from "sharp";
import { expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { idsOn, makePlace } from "../../../fixtures/engine";
import { pdf } from "../../../fixtures/pdf";
import { addDepot } from "../depots/add";
import { check } from "../depots/check";
import { listParcels } from "../depots/list";
import { send } from "../depots/send";
import { sweep } from "../homes/sweep";
import { titles } from "../homes/titles";
import { lookAtPicture } from "../jobs/work/picture";
import { emptying } from "../ledger/empty";
import { undo } from "../ledger/undo";
import { lookOf } from "../looks/looks";
import { archive } from "../sitting/archive";
import { itemsOn } from "../survey/items";
import { protect } from "../survey/protect";
import { settle } from "../survey/settle";
import { findingInDetail, findings } from "../survey/survey";
import { openToRead } from "./stream";

const long = new Date("2019-05-01T12:00:00Z");
const templates = path.join(import.meta.dirname, "../../demo/templates");

/** Every plain file below a folder, by path: when it was last opened. */
function opened(folder: string): Map<string, number> {
  const files = fs.readdirSync(folder, { recursive: true, withFileTypes: true }).filter((entry) => entry.isFile());
  return new Map(files.map((entry) => path.join(entry.parentPath, entry.name)).map((file) => [file, fs.statSync(file).atimeMs]));
}

test("whatever Vuoto reads is not opened last by Vuoto: looks, checksums, comparing, learning, packing, reading back", async () => {
  const place = makePlace((root) => {
    const at = (name: string) => path.join(root, "Desktop", name);
    for (const folder of ["Desktop/out", "Desktop/box", "Documents/Tides", "Pictures/Cliff"])
      fs.mkdirSync(path.join(root, folder), { recursive: true });
    fs.writeFileSync(at("sheet.pdf"), pdf("Low water"));
    for (const name of fs.readdirSync(templates)) fs.copyFileSync(path.join(templates, name), at(name));
    fs.writeFileSync(at("log.csv"), "day,high\n1,2\n".repeat(400));
    fs.writeFileSync(at("log (1).csv"), "day,high\n1,2\n".repeat(400));
    fs.writeFileSync(at("old.txt.gz"), gzipSync("words"));
    for (const name of ["a.txt", "b.txt"]) fs.writeFileSync(at(`out/${name}`), `of ${name}`);
    execFileSync("tar", ["-czf", at("out.tar.gz"), "-C", at("out"), "a.txt", "b.txt"]);
    execFileSync("python3", ["-m", "zipfile", "-c", at("out.zip"), at("out/a.txt"), at("out/b.txt")]);
    fs.writeFileSync(at("letter.eml"), "From: Ada <ada@station.example>\nSubject: Ringing\n\nWe meet at six.\n");
    fs.writeFileSync(at("walk.gpx"), '<gpx version="1.1"><wpt lat="60" lon="5"/></gpx>');
    const wave = Buffer.alloc(44 + 8000);
    wave.write("RIFF\x24\x1f\0\0WAVEfmt \x10\0\0\0\x01\0\x01\0\x40\x1f\0\0\x40\x1f\0\0\x01\0\x08\0data\x40\x1f\0\0", "latin1");
    fs.writeFileSync(at("gull.wav"), wave);
    fs.writeFileSync(at("tool.desktop"), "[Desktop Entry]\nType=Application\nName=Tool\nExec=tool\n");
    fs.writeFileSync(at("box/deep.txt"), "deep ".repeat(20_000));
    for (let n = 0; n < 6; n++) {
      fs.writeFileSync(path.join(root, `Documents/Tides/tides ${n}.csv`), `day,high,low\n${n},2,3\n`);
      fs.copyFileSync(at("log.csv"), path.join(root, `Pictures/Cliff/log ${n}.csv`));
    }
    fs.writeFileSync(at("tides 9.csv"), "day,high,low\n9,2,3\n");
  });
  const desktop = path.join(place.root, "Desktop");
  for (const [n, name] of ["one.jpg", "two.jpg", "three.png"].entries()) {
    const picture = sharp({ create: { width: 300, height: 200, channels: 3, background: { r: 90 * n, g: 40, b: 9 } } });
    await (name.endsWith("png") ? picture.png() : picture.jpeg()).toFile(path.join(desktop, name));
  }
  const set = () => {
    for (const file of opened(place.root).keys()) fs.utimesSync(file, long, new Date("2020-01-01"));
  };
  set();
  const control = path.join(place.folder, "control");
  fs.writeFileSync(control, "read as any program reads");
  fs.utimesSync(control, long, new Date("2020-01-01"));
  fs.readFileSync(control);
  // Where nothing records who read, this could not fail.
  expect(fs.statSync(control).atimeMs).toBeGreaterThan(long.getTime());

  const engine = await place.open();
  const touched = () => [...opened(place.root)].flatMap(([file, at]) => (at === long.getTime() ? [] : [file])).filter(isThing);
  const isThing = (file: string) => /\/(Desktop|Documents|Pictures|Trash\/files)\//.test(file);
  try {
    await protect(engine, { folder: "~/Documents", protection: "backed up" });
    await engine.lookAgain("all");
    for (const finding of await findings(engine)) await findingInDetail(engine, finding.kind);
    expect(touched(), "looking").toEqual([]);
    const forms = new Set<string>();
    for (const item of itemsOn(engine.db, "desktop")) forms.add((await lookOf(engine, item)).form);
    expect(forms.size).toBeGreaterThan(9);
    expect(touched(), "looks").toEqual([]);
    for (const name of ["one.jpg", "three.png"])
      await lookAtPicture({ path: rawFromText(path.join(desktop, name)), width: 100, height: 100 });
    const stream = openToRead(rawFromText(path.join(desktop, "gull.wav")))!;
    await new Response(stream.stream(0, stream.bytes - 1, new AbortController().signal)).arrayBuffer();
    await titles(engine, { items: idsOn(engine), title: "{date} {number}" });
    expect(touched(), "pictures, sounds, new titles").toEqual([]);
    await sweep(engine, { all: true, dryRun: true });
    expect((await settle(engine, { finding: "twins" })).done).toBe(2);
    expect((await settle(engine, { finding: "spent archive" })).done).toBe(2);
    await emptying(engine);
    expect(touched(), "letting go with proof, and counting the trash").toEqual([]);
    await undo(engine, {});
    fs.mkdirSync(path.join(place.folder, "depot"));
    await addDepot(engine, { location: path.join(place.folder, "depot"), title: "Depot" });
    await archive(engine, { items: idsOn(engine), parcel: "All" });
    expect((await send(engine, { parcel: "All", depot: "Depot" })).refused).toEqual([]);
    await check(engine, { parcel: listParcels(engine)[0]!.id });
    expect(touched(), "packing, and reading back").toEqual([]);
    await undo(engine, {});
    expect(touched(), "undone").toEqual([]);
  } finally {
    await engine.close();
    place.remove();
  }
});
