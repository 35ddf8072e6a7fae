import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { archive } from "../sitting/archive";
import { addDepot } from "./add";
import { check } from "./check";
import { restoreParcel } from "./restore";
import { send } from "./send";
import { depotsView } from "./view";

let place: Place;
let engine: Engine;
const disk = (...parts: string[]) => path.join(place.folder, "disk", ...parts);
const bureau = () => fs.readdirSync(path.join(place.root, "Bureau"));

beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 31, 12));
  fs.mkdirSync(disk());
  engine = await place.open();
  await addDepot(engine, { folder: disk(), title: "Disk" });
  await archive(engine, { items: idsOn(engine), parcel: "Season 12" });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const sendIt = () => send(engine, { parcel: "Season 12", depot: "Disk" });

describe("a parcel", () => {
  test("is visible while not sent, and nothing has moved", () => {
    const before = bureau().length;
    expect(depotsView(engine).waiting).toMatchObject([{ title: "Season 12", words: expect.stringContaining("not sent yet") }]);
    expect(before).toBe(12);
    expect(fs.readdirSync(disk())).toEqual([]);
  });

  test("is a bag that ordinary tools check", async () => {
    await sendIt();
    const bag = disk("Season 12");
    for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"])
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: bag });
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
    const report = await restoreParcel(engine, { parcel: "Season 12" });
    expect(report.refused.map((r) => r.code).sort()).toEqual(expect.arrayContaining(["parcel-damaged"]));
    expect(report.done).toBe(10);
    expect(bureau()).toHaveLength(10);
  });

  test("whose list names a place outside is refused", async () => {
    await sendIt();
    const list = disk("Season 12/things.json");
    const things = JSON.parse(fs.readFileSync(list, "utf8"));
    for (const change of [
      (t: typeof things) => (t.things[0].name = "../out"),
      (t: typeof things) => (t.things[0].entries[0].rel = "../out"),
      (t: typeof things) => (t.things[0].entries[0].payload = "data/../../../etc/passwd"),
      (t: typeof things) => (t.version = 2),
    ]) {
      const hostile = structuredClone(things);
      change(hostile);
      fs.writeFileSync(list, JSON.stringify(hostile));
      await expect(restoreParcel(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "parcel-damaged" });
    }
    things.things[0].folder = "/etc";
    fs.writeFileSync(list, JSON.stringify(things));
    const report = await restoreParcel(engine, { parcel: "Season 12" });
    expect(report.refused[0]).toMatchObject({ code: "out-of-bounds" });
    expect(fs.readdirSync("/etc")).not.toContain(things.things[0].name);
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
      for (const job of engine.jobs.list()) engine.jobs.cancel(job.id);
    }, 1);
    const report = await sendIt();
    clearInterval(timer);
    stop();
    expect(report.done).toBe(0);
    expect(report.refused[0]).toMatchObject({ code: "cancelled" });
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
    expect(depotsView(engine).depots).toMatchObject([{ there: false }]);
    fs.renameSync(disk("../away"), disk());
    expect(await sendIt()).toMatchObject({ refused: [] });
  });
});
