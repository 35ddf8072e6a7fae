import { spawnSync } from "node:child_process";
import fs from "node:fs";
import net from "node:net";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { joinRaw, type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";
import { hostileNames } from "../../../fixtures/accounts";
import { changesSince, smallPlace } from "../../../fixtures/acts";
import { idsOn, itemNamed, type Place } from "../../../fixtures/engine";
import { addDepot } from "../depots/add";
import { check } from "../depots/check";
import { restoreParcel } from "../depots/restore";
import { send } from "../depots/send";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { undo } from "./undo";

let place: Place;
let engine: Engine;
beforeEach(() => {
  place = smallPlace();
});
afterEach(async () => {
  await engine.close();
  // What lies deeper than a path can name is removed by a tool that goes down folder by folder.
  spawnSync("rm", ["-rf", place.folder]);
  place.remove();
});

const at = (...parts: string[]) => path.join(place.root, ...parts);
const rawAt = (...parts: string[]) => rawFromText(at(...parts));
const far = () => fs.readlinkSync(at("Far"));
const toFar = (items: string[]) => put(engine, { home: { folder: btoa(far()) }, items });

/** Everything that an act can do with one thing: across file systems and back, trash and back, parcel and back. */
async function throughEverything(name: string, parcelToo = true): Promise<void> {
  const id = itemNamed(engine, name).id;
  const contentBefore = contentState(rawAt("Bureau", name));
  const same = () => expect(contentState(rawAt("Bureau", name))).toEqual(contentBefore);
  for (const act of [() => letGo(engine, { items: [id] }), () => toFar([id])]) {
    expect(await act()).toMatchObject({ done: 1, refused: [] });
    expect(fs.existsSync(at("Bureau", name))).toBe(false);
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    same();
  }
  if (!parcelToo) return;
  await addDepot(engine, { location: path.join(place.folder, "depot"), title: "Disk" });
  await archive(engine, { items: [id], parcel: "P" });
  expect(await send(engine, { parcel: "P", depot: "Disk" })).toMatchObject({ refused: [] });
  expect(fs.existsSync(at("Bureau", name))).toBe(false);
  expect(await check(engine, { parcel: "P" })).toMatchObject({ whole: true });
  expect(await restoreParcel(engine, { parcel: "P", programs: true })).toMatchObject({ refused: [] });
  same();
}

/** Names, types, sizes, modes and times of all that lies in a thing, however deep. */
function contentState(thing: Raw): string[] {
  const lines: string[] = [];
  engine.disk.inFolder(thing, (top) => {
    const visit = (folder: typeof top, rel: string) => {
      for (const { name } of folder.list().sort((a, b) => (a.name < b.name ? -1 : 1))) {
        const stat = folder.stat(name)!;
        lines.push(
          `${rel}/${name} ${stat.mode} ${stat.mtimeNs} ${stat.isFile() ? folder.readSmall(name, 1 << 20).toString("hex") : ""}`,
        );
        if (stat.isDirectory()) folder.inside(name, (inner) => visit(inner, `${rel}/${name}`));
      }
    };
    visit(top, "");
  });
  return lines;
}

describe("a folder", () => {
  test("deeper than the longest path the system takes", async () => {
    const level = "d".repeat(200);
    fs.mkdirSync(at("Bureau/deep"));
    engine = await place.open();
    // Made folder by folder, as a program that keeps folders open can.
    let folder = rawAt("Bureau/deep");
    for (let n = 0; n < 30; n++) {
      engine.disk.makeFolder(joinRaw(folder, level));
      folder = joinRaw(folder, level);
    }
    engine.disk.createSmall(joinRaw(folder, "leaf"), Buffer.from("found"));
    expect(folder.length).toBeGreaterThan(4096);
    expect(() => fs.statSync(folder)).toThrow(/ENAMETOOLONG/);
    await engine.lookAgain("all");
    await throughEverything("deep");
  });

  test("of 10,000 entries", async () => {
    fs.mkdirSync(at("Bureau/wide"));
    for (let n = 0; n < 10_000; n++) fs.writeFileSync(at("Bureau/wide", `${n}`), n % 50 === 0 ? `${n}` : "");
    engine = await place.open();
    // A parcel of them takes half a minute: in the long form.
    await throughEverything("wide", process.env.VUOTO_TORTURE !== undefined);
  }, 120_000);

  test("in which nothing may be written, with files only to be read", async () => {
    fs.mkdirSync(at("Bureau/kept/inner"), { recursive: true });
    fs.writeFileSync(at("Bureau/kept/inner/file"), "content", { mode: 0o400 });
    fs.chmodSync(at("Bureau/kept/inner"), 0o555);
    fs.chmodSync(at("Bureau/kept"), 0o1555);
    engine = await place.open();
    await throughEverything("kept");
    expect(fs.statSync(at("Bureau/kept")).mode & 0o7777).toBe(0o555);
  });

  test("of every name there may be", async () => {
    fs.mkdirSync(at("Bureau/names"));
    for (const [n, name] of hostileNames().entries())
      fs.writeFileSync(Buffer.concat([Buffer.from(`${at("Bureau/names")}/`), name]), `${n}`);
    // Letters composed and decomposed are two names.
    const folder = fs.readdirSync(Buffer.from(at("Bureau/names")), { encoding: "buffer" }).map(rawFromBytes);
    expect(folder).toHaveLength(new Set(hostileNames().map(rawFromBytes)).size);
    engine = await place.open();
    await throughEverything("names");
  });
});

describe("what is no file, folder or link", () => {
  let server: net.Server;
  beforeEach(async () => {
    spawnSync("mkfifo", [at("Bureau/pipe")]);
    server = net.createServer();
    await new Promise<void>((done) => server.listen(at("Bureau/socket"), done));
    fs.mkdirSync(at("Bureau/holding"));
    spawnSync("mkfifo", [at("Bureau/holding/pipe")]);
    engine = await place.open();
  });
  afterEach(() => new Promise((done) => server.close(done)));

  test("is left alone and said; a folder that holds such a thing is moved, but not copied", async () => {
    const before = place.tree();
    const count = idsOn(engine).length;
    const report = await letGo(engine, { items: idsOn(engine) });
    expect(report.refused.map((r) => [r.name, r.code]).sort()).toEqual([
      ["pipe", "special-file"],
      ["socket", "special-file"],
    ]);
    expect(report.done).toBe(count - 2);
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    const crossing = await toFar(idsOn(engine));
    expect(crossing.refused.map((r) => [r.name, r.code]).sort()).toEqual([
      ["holding", "special-file"],
      ["pipe", "special-file"],
      ["socket", "special-file"],
    ]);
    expect(crossing.refused.find((r) => r.name === "holding")!.why).toContain("pipe");
    expect(await undo(engine, {})).toMatchObject({ refused: [] });
    expect(changesSince(before, place)).toEqual([]);
  });
});

test("a file with two names stays one file in the trash and back, and a sparse one stays sparse across file systems", async () => {
  fs.writeFileSync(at("Bureau/one"), "same file");
  fs.linkSync(at("Bureau/one"), at("Bureau/two"));
  const sparse = fs.openSync(at("Bureau/sparse"), "w");
  fs.ftruncateSync(sparse, 50_000_000);
  fs.writeSync(sparse, "end", 40_000_000);
  fs.closeSync(sparse);
  engine = await place.open();
  const before = place.tree();
  await letGo(engine, { items: idsOn(engine) });
  const trashed = (name: string) => fs.statSync(at(".local/share/Trash/files", name)).ino;
  expect(trashed("one")).toBe(trashed("two"));
  await undo(engine, {});
  expect(changesSince(before, place)).toEqual([]);
  await toFar([itemNamed(engine, "sparse").id]);
  const there = fs.statSync(path.join(far(), "sparse"));
  expect(there.size).toBe(50_000_000);
  expect(there.blocks * 512).toBeLessThan(5_000_000);
  await undo(engine, {});
  expect(changesSince(before, place)).toEqual([]);
});

test("extended attributes, modes and times to the nanosecond cross file systems and come back", async () => {
  fs.writeFileSync(at("Bureau/dressed"), "x", { mode: 0o640 });
  engine = await place.open();
  const raw = rawAt("Bureau/dressed");
  engine.disk.writing(raw, (inside, name) => {
    inside.calls.setXattr(inside.at(name), Buffer.from("user.origin"), Buffer.from([0, 255]));
    inside.calls.setMtime(inside.at(name), 1_234_567_890_123_456_789n);
  });
  await engine.lookAgain();
  const before = place.tree();
  await toFar([itemNamed(engine, "dressed").id]);
  const there = fs.statSync(path.join(far(), "dressed"), { bigint: true });
  expect([there.mode & 0o777n, there.mtimeNs]).toEqual([0o640n, 1_234_567_890_123_456_789n]);
  await undo(engine, {});
  expect(changesSince(before, place)).toEqual([]);
});
