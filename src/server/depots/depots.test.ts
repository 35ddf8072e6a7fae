import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { type DepotRecord, readRecords, writeRecord } from "../db/record";
import { realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { again, undo } from "../ledger/undo";
import { archive } from "../sitting/archive";
import { itemById } from "../survey/items";
import { addDepot } from "./add";
import { check } from "./check";
import { parcels } from "./depots";
import { listParcels } from "./list";
import { ParcelFiles } from "./parcel-files";
import { restoreParcel } from "./restore";
import { cancelSending, send } from "./send";
import { depotsView } from "./view";

let place: Place;
let engine: Engine;
const disk = (...parts: string[]) => path.join(place.folder, "disk", ...parts);
const bureau = () => fs.readdirSync(path.join(place.root, "Bureau"));

beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 31, 12));
  fs.mkdirSync(disk());
  engine = await place.open();
  await addDepot(engine, { location: disk(), title: "Disk" });
  await archive(engine, { items: idsOn(engine), parcel: "Season 12" });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const sendIt = () => send(engine, { parcel: "Season 12", depot: "Disk" });

describe("a parcel", () => {
  test("is visible while not sent, and nothing has moved", async () => {
    const before = bureau().length;
    expect((await depotsView(engine)).waiting).toMatchObject([
      { title: "Season 12", words: expect.stringContaining("not sent yet") },
    ]);
    expect(before).toBe(12);
    expect(fs.readdirSync(disk())).toEqual([]);
  });

  test("is a bag that ordinary tools check", async () => {
    await sendIt();
    const bag = disk("Season 12");
    // As the page in it says, for who has no Vuoto.
    const page = fs.readFileSync(path.join(bag, "HOW-TO-BRING-IT-BACK.txt"), "utf8");
    for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"]) {
      expect(page).toContain(`    sha256sum -c ${manifest}\n`);
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: bag });
    }
    expect(fs.readFileSync(path.join(bag, "bagit.txt"), "utf8")).toBe("BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n");
    const [bytes, files] = /^Payload-Oxum: (\d+)\.(\d+)$/m
      .exec(fs.readFileSync(path.join(bag, "bag-info.txt"), "utf8"))!
      .slice(1)
      .map(Number);
    const payload = fs.readdirSync(path.join(bag, "data"), { recursive: true, withFileTypes: true }).filter((e) => e.isFile());
    expect(payload).toHaveLength(files!);
    expect(payload.reduce((sum, e) => sum + fs.statSync(path.join(e.parentPath, e.name)).size, 0)).toBe(bytes);
    expect(bureau()).toEqual([]);
  });

  test("is known file by file: each with the checksum of its original, read back; a thing that could not be sent is not in it", async () => {
    const [changed] = idsOn(engine).map((id) => itemById(engine.db, id)!);
    const parcel = parcels(engine)[0]!.id;
    fs.utimesSync(Buffer.from(changed!.path, "latin1"), 1, 1);
    const before = new Map(
      bureau()
        .map((name) => path.join(place.root, "Bureau", name))
        .filter((file) => fs.lstatSync(file).isFile())
        .map((file) => [path.basename(file), createHash("sha256").update(fs.readFileSync(file)).digest("hex")]),
    );
    const report = await sendIt();
    expect(report.refused.map(({ item }) => item)).toEqual([changed!.id]);
    const files = new ParcelFiles(engine.db, parcel).all();
    expect(new Set(files.map(({ state }) => state))).toEqual(new Set(["proven"]));
    expect(files.map(({ item }) => item)).not.toContain(changed!.id);
    const manifest = fs.readFileSync(disk("Season 12/manifest-sha256.txt"), "utf8");
    expect(files.map(({ path, sha256 }) => `${sha256}  ${path}\n`).join("")).toBe(manifest);
    for (const { path: at, sha256 } of files) {
      const original = before.get(at.slice("data/".length));
      if (original) expect(sha256).toBe(original);
    }
  });

  test("stays known file by file when its sending is undone, and cannot be done again beside itself", async () => {
    await sendIt();
    const parcel = parcels(engine)[0]!.id;
    const known = new ParcelFiles(engine.db, parcel).all();
    await undo(engine, {});
    await again(engine, {});
    expect(fs.readdirSync(disk())).toEqual(["Season 12"]);
    expect(known.length).toBeGreaterThan(0);
    expect(new ParcelFiles(engine.db, parcel).all()).toEqual(known);
  });

  test("of which nothing could be sent leaves nothing behind, in the depot or in the record", async () => {
    for (const name of bureau()) fs.rmSync(path.join(place.root, "Bureau", name), { recursive: true });
    await expect(sendIt()).resolves.toMatchObject({ done: 0 });
    expect(fs.readdirSync(disk())).toEqual([]);
    expect(new ParcelFiles(engine.db, parcels(engine)[0]!.id).all()).toEqual([]);
  });

  test("is found where its depot lies now, and where it lay once that is off the list", async () => {
    await sendIt();
    await emptyAll(engine);
    const [[key, depot]] = [...readRecords<DepotRecord>(engine.db, "depot")].map(([id, d]) => [`depot:${id}`, d] as const) as [
      [string, DepotRecord],
    ];
    fs.renameSync(disk(), disk("../moved"));
    writeRecord(engine.db, key, { ...depot, folder: rawFromText(disk("../moved").replace("disk/../", "")) });
    const fetched = await undo(engine, {});
    expect(fetched).toMatchObject({ done: 12, refused: [] });
    await again(engine, {});
    fs.renameSync(disk("../moved"), disk());
    writeRecord(engine.db, key, null);
    expect(await undo(engine, {})).toMatchObject({ done: 12, refused: [] });
  });

  test("sent again under a title that is taken gets a folder of its own", async () => {
    fs.mkdirSync(disk("Season 12"));
    await sendIt();
    expect(fs.readdirSync(disk()).sort()).toEqual(["Season 12", "Season 12 (2)"]);
    expect(fs.readdirSync(disk("Season 12"))).toEqual([]);
  });

  test("that was damaged is found out, and nothing is restored from the damaged part", async () => {
    await sendIt();
    const data = fs
      .readdirSync(disk("Season 12/data"), { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && e.name.endsWith(".txt"));
    const one = path.join(data[0]!.parentPath, data[0]!.name);
    fs.writeFileSync(one, "other");
    fs.rmSync(path.join(data[1]!.parentPath, data[1]!.name));
    const answer = await check(engine, { parcel: "Season 12" });
    expect(answer.whole).toBe(false);
    expect(answer.damaged).toHaveLength(1);
    expect(answer.missing).toHaveLength(1);
    const report = await restoreParcel(engine, { parcel: "Season 12", programs: true });
    expect(report.refused.map((r) => r.code).sort()).toEqual(["file-damaged", "file-damaged"]);
    expect(report.done).toBe(10);
    expect(bureau()).toHaveLength(10);
  });

  test("whose list names a place outside is refused, into a new folder too", async () => {
    await sendIt();
    const list = disk("Season 12/things.json");
    const things = JSON.parse(fs.readFileSync(list, "utf8"));
    const into = path.join(place.root, "Papers/back");
    const before = place.tree();
    for (const change of [
      (t: typeof things) => (t.things[0].name = "../out"),
      (t: typeof things) => (t.things[0].entries[0].rel = "../out"),
      (t: typeof things) => (t.things[0].entries[0].payload = "data/../../../etc/passwd"),
      (t: typeof things) => (t.version = 2),
    ]) {
      const hostile = structuredClone(things);
      change(hostile);
      fs.writeFileSync(list, JSON.stringify(hostile));
      await expect(restoreParcel(engine, { parcel: "Season 12", into, programs: true })).rejects.toMatchObject({
        code: "parcel-damaged",
      });
    }
    expect(differences(before, place.tree())).toEqual([]);
  });

  test("to which somebody added a thing, all checksums made anew, gets nothing into an old place", async () => {
    await sendIt();
    const bag = disk("Season 12");
    const things = JSON.parse(fs.readFileSync(path.join(bag, "things.json"), "utf8"));
    const content = "#!/bin/sh\ntouch /tmp/was-run\n";
    const sum = (text: string | Buffer) => createHash("sha256").update(text).digest("hex");
    fs.writeFileSync(path.join(bag, "data/tool"), content);
    const entry = {
      rel: "",
      type: "file",
      mode: 0o4755,
      mtimeNs: "1",
      bytes: content.length,
      payload: "data/tool",
      sha256: sum(content),
    };
    const xattrs = [
      ["security.capability", { base64: "AAAAAg==" }],
      ["user.note", "kept"],
      ["system.posix_acl_access", "x"],
    ];
    for (const folder of [".local/bin", "Papers/.git/hooks", "Bureau"])
      things.things.push({
        item: folder,
        name: "tool",
        folder: path.join(place.root, folder),
        position: null,
        entries: [{ ...entry, xattrs }],
      });
    things.things.push({
      item: "l",
      name: "folder",
      folder: path.join(place.root, "Bureau"),
      position: null,
      entries: [
        { rel: "", type: "folder", mode: 0o777, mtimeNs: "1", bytes: 0 },
        { rel: "way", type: "link", mode: 0o777, mtimeNs: "1", bytes: 0, target: "../../../.config" },
        { ...entry, rel: "way/tool" },
      ],
    });
    fs.writeFileSync(path.join(bag, "things.json"), JSON.stringify(things));
    fs.appendFileSync(path.join(bag, "manifest-sha256.txt"), `${sum(content)}  data/tool\n`);
    const tags = ["bagit.txt", "bag-info.txt", "manifest-sha256.txt", "things.json"];
    fs.writeFileSync(
      path.join(bag, "tagmanifest-sha256.txt"),
      tags.map((name) => `${sum(fs.readFileSync(path.join(bag, name)))}  ${name}\n`).join(""),
    );
    // To other programs it is whole; to ours it is not what was sent.
    for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"])
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: bag });
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: false, damaged: ["tagmanifest-sha256.txt"] });

    const before = place.tree();
    await expect(restoreParcel(engine, { parcel: "Season 12", programs: true })).rejects.toMatchObject({
      code: "parcel-stranger",
    });
    expect(differences(before, place.tree())).toEqual([]);

    // Into a new folder it comes, once it was asked, and with no right that only the system gives.
    const into = path.join(place.root, "Papers/back");
    await expect(restoreParcel(engine, { parcel: "Season 12", into })).rejects.toMatchObject({
      code: "asks-programs",
      message: expect.stringContaining("tool"),
    });
    const report = await restoreParcel(engine, { parcel: "Season 12", into, programs: true });
    expect(report.refused.map((r) => r.name)).toEqual(["folder"]);
    const tools = fs.readdirSync(into).filter((name) => name.startsWith("tool"));
    expect(tools).toHaveLength(3);
    for (const name of tools) {
      expect(fs.statSync(path.join(into, name)).mode & 0o7777).toBe(0o755);
      const names = realCalls.listXattrs(Buffer.from(path.join(into, name))).map(String);
      expect(names).toEqual(["user.note"]);
    }
    const outside = differences(before, place.tree(), () => true).filter((line) => !line.includes("Papers/back"));
    expect(outside).toEqual([]);
    await undo(engine, {});
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("that another program packed is restored into a new folder, by its manifest", async () => {
    const bag = disk("Other");
    fs.mkdirSync(path.join(bag, "data/in"), { recursive: true });
    fs.writeFileSync(path.join(bag, "data/in/100%.txt"), "percent");
    fs.writeFileSync(path.join(bag, "data/plain.txt"), "plain");
    fs.writeFileSync(path.join(bag, "bagit.txt"), "BagIt-Version: 0.97\nTag-File-Character-Encoding: UTF-8\n");
    const sum = (name: string) => execFileSync("sha256sum", [path.join(bag, name)], { encoding: "utf8" }).slice(0, 64);
    fs.writeFileSync(
      path.join(bag, "manifest-sha256.txt"),
      `${sum("data/in/100%.txt")}  data/in/100%25.txt\n${sum("data/plain.txt")}  data/plain.txt\n`,
    );
    const before = place.tree();
    await expect(restoreParcel(engine, { parcel: "Other" })).rejects.toMatchObject({ code: "parcel-stranger" });
    const into = path.join(place.root, "Papers/Other");
    expect(await restoreParcel(engine, { parcel: "Other", into })).toMatchObject({ refused: [], done: 2 });
    expect(fs.readFileSync(path.join(into, "in/100%.txt"), "utf8")).toBe("percent");
    fs.writeFileSync(path.join(bag, "data/plain.txt"), "other");
    const again = await restoreParcel(engine, { parcel: "Other", into: `${into} again` });
    expect(again.refused).toMatchObject([{ name: "plain.txt", code: "file-damaged" }]);
    // What can no longer be fetched again is not taken away.
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [{ name: "plain.txt", code: "not-verified" }, {}] });
    fs.writeFileSync(path.join(bag, "data/plain.txt"), "plain");
    await undo(engine, { entry: "all" });
    expect(differences(before, place.tree(), () => true)).toEqual([]);
  });

  test("is not restored into a folder that is there, nor into one that may not be named", async () => {
    await sendIt();
    const into = (folder: string) => restoreParcel(engine, { parcel: "Season 12", programs: true, into: folder });
    await expect(into(path.join(place.root, "Papers"))).rejects.toMatchObject({ code: "name-taken" });
    await expect(into(path.join(place.root, "nowhere/deep"))).rejects.toMatchObject({ code: "folder-gone" });
    for (const folder of [".config/x", "bin", "bin/x", ".local/share/Trash/x"])
      await expect(into(path.join(place.root, folder)), folder).rejects.toMatchObject({ code: "place-unsuitable" });
    await expect(into(path.join(place.data, "x"))).rejects.toMatchObject({ code: "place-unsuitable" });
    await expect(into("/usr/local/bin/x")).rejects.toMatchObject({ code: "place-unsuitable" });
  });

  test("leaves alone what changed or is gone, and sends the rest", async () => {
    const files = bureau().filter((name) => name.endsWith(".txt"));
    fs.appendFileSync(path.join(place.root, "Bureau", files[0]!), "more");
    fs.rmSync(path.join(place.root, "Bureau", files[1]!));
    const report = await sendIt();
    expect(Object.fromEntries(report.refused.map((r) => [r.name, r.code]))).toEqual({
      [files[0]!]: "changed",
      [files[1]!]: "vanished",
    });
    expect(bureau()).toEqual([files[0]]);
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
  });

  test("cancelled on its way counts as nothing, leaves nothing, and can be sent again", async () => {
    fs.writeFileSync(path.join(place.root, "Bureau/large.bin"), Buffer.alloc(60_000_000, 5));
    fs.utimesSync(path.join(place.root, "Bureau/large.bin"), 1, 1);
    await engine.lookAgain();
    await archive(engine, { items: [itemNamed(engine, "large.bin").id], parcel: "Season 12" });
    const stop = engine.events.listen(({ event }) => {
      if (event.type === "job" && event.job.state === "running") engine.jobs.cancel(event.job.id);
    });
    const timer = setInterval(() => {
      engine.jobs.cancelAll();
    }, 1);
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    clearInterval(timer);
    stop();
    expect(bureau()).toHaveLength(13);
    const [parcel] = await listParcels(engine);
    expect(parcel).toMatchObject({ state: "paused", provenAt: null });
    expect(await cancelSending(engine, { parcel: "Season 12" })).toMatchObject({ words: expect.stringContaining("is gone") });
    expect(fs.readdirSync(disk())).toEqual([]);
    expect(bureau()).toHaveLength(13);
    expect(await sendIt()).toMatchObject({ done: 13, refused: [] });
  });

  test("stays when its sending is undone, and the originals are back", async () => {
    const before = bureau();
    await sendIt();
    await undo(engine, {});
    expect(bureau()).toEqual(before);
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
  });

  test("whose depot is gone cannot be sent or checked, and says why", async () => {
    fs.renameSync(disk(), disk("../away"));
    await expect(sendIt()).rejects.toMatchObject({ code: "depot-gone" });
    expect(bureau()).toHaveLength(12);
    expect((await depotsView(engine)).depots).toMatchObject([{ state: "away" }]);
    fs.renameSync(disk("../away"), disk());
    expect(await sendIt()).toMatchObject({ refused: [] });
  });
});
