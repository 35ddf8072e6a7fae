import { spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { faultyCalls } from "../../../fixtures/faulty-calls";
import { realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { sweep } from "./sweep";

let place: Place;
let engine: Engine | undefined;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const things = 60;

function makeThings(): Place {
  const old = new Date(Date.now() - 1e9);
  return makePlace((root) => {
    for (const folder of ["Desktop", "Documents/Home", "Documents/Other"])
      fs.mkdirSync(path.join(root, folder), { recursive: true });
    for (let n = 0; n < things; n++) {
      const file = path.join(root, `Desktop/thing ${n}.txt`);
      fs.writeFileSync(file, `thing ${n}`);
      fs.utimesSync(file, old, old);
    }
  });
}
afterEach(async () => {
  await engine?.close();
  engine = undefined;
  place.remove();
});
const home = { title: "Documents / Home" };

describe("a sweep", () => {
  test("cancelled in the middle keeps what it took, says the rest, and is undone as it is", async () => {
    place = makeThings();
    let renamed = 0;
    const e = await place.open({
      calls: {
        ...realCalls,
        renameNoReplace(...where) {
          realCalls.renameNoReplace(...where);
          if (++renamed === 20) e.jobs.cancelAll();
        },
      },
    });
    engine = e;
    const before = place.tree();
    const report = await sweep(e, { home, items: idsOn(e) });
    expect(report.done).toBeGreaterThanOrEqual(20);
    expect(report.done).toBeLessThan(things);
    expect(report.refused).toHaveLength(things - report.done);
    expect(report.refused[0]).toMatchObject({ code: "cancelled" });
    expect(fs.readdirSync(at("Documents/Home"))).toHaveLength(report.done);
    expect(fs.readdirSync(at("Desktop"))).toHaveLength(things - report.done);
    await undo(e, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test.each([
    ["ENOSPC", "no-space"],
    ["EROFS", "read-only"],
    ["EACCES", "no-permission"],
  ])("into a home that answers %s leaves that one thing, and takes the rest", async (code, said) => {
    place = makeThings();
    const calls = faultyCalls({ at: 7, how: { code }, only: "renameNoReplace" });
    calls.arm(false);
    engine = await place.open({ calls });
    const before = place.tree();
    calls.arm(true);
    const report = await sweep(engine, { home, items: idsOn(engine) });
    calls.arm(false);
    expect(report).toMatchObject({ done: things - 1, refused: [{ code: said, why: expect.stringMatching(/\.$/) }] });
    expect(fs.existsSync(at("Desktop", report.refused[0]!.name))).toBe(true);
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test("of things that changed, went, or are open for writing since the sheet was drawn leaves those, and says each", async () => {
    place = makeThings();
    engine = await place.open();
    const items = idsOn(engine);
    fs.writeFileSync(at("Desktop/thing 1.txt"), "saved anew");
    fs.rmSync(at("Desktop/thing 2.txt"));
    const open = fs.openSync(at("Desktop/thing 3.txt"), "a");
    const writer = spawn("sleep", ["60"], { stdio: ["ignore", open, "ignore"] });
    fs.rmSync(at("Desktop/thing 4.txt"));
    fs.symlinkSync("/etc/passwd", at("Desktop/thing 4.txt"));
    fs.writeFileSync(at("Documents/Home/thing 5.txt"), "there before");
    const report = await sweep(engine, { home, items });
    writer.kill();
    fs.closeSync(open);
    expect(report.done).toBe(things - 4);
    expect(Object.fromEntries(report.refused.map(({ name, code }) => [name, code]))).toEqual({
      "thing 1.txt": "changed",
      "thing 2.txt": "vanished",
      "thing 3.txt": "in-use",
      "thing 4.txt": "changed",
    });
    expect(fs.readFileSync(at("Documents/Home/thing 5.txt"), "utf8")).toBe("there before");
    expect(fs.readFileSync(at("Documents/Home/thing 5 (2).txt"), "utf8")).toBe("thing 5");
  });

  test("into several homes, one of which went meanwhile, is refused whole: the trial no longer holds", async () => {
    place = makeThings();
    engine = await place.open();
    const [a, b] = [itemNamed(engine, "thing 1.txt").id, itemNamed(engine, "thing 2.txt").id];
    fs.rmdirSync(at("Documents/Other"));
    const before = place.tree();
    await expect(
      sweep(engine, {
        homes: [
          { home: { folder: btoa(at("Documents/Home")) }, items: [a] },
          { home: { folder: btoa(at("Documents/Other")) }, items: [b] },
        ],
      }),
    ).rejects.toMatchObject({ code: "unknown-home" });
    expect(changesSince(before, place)).toEqual([]);
  });

  test("into a home on another file system is proven there before the original goes, and undone", async () => {
    place = makeThings();
    const far = fs.mkdtempSync("/dev/shm/vuoto-far-");
    try {
      fs.symlinkSync(far, at("Far"));
      fs.mkdirSync(at(".config"));
      fs.writeFileSync(at(".config/user-dirs.dirs"), 'XDG_MUSIC_DIR="$HOME/Far"\n');
      engine = await place.open();
      const before = place.tree();
      expect(await sweep(engine, { home: { folder: btoa(far) }, items: idsOn(engine) })).toMatchObject({
        done: things,
        refused: [],
      });
      expect(fs.readdirSync(far)).toHaveLength(things);
      await undo(engine, {});
      expect(changesSince(before, place)).toEqual([]);
      expect(fs.readdirSync(far)).toEqual([]);
    } finally {
      fs.rmSync(far, { recursive: true });
    }
  });
});
