import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { StraightenInput } from "@/contract/straighten";
import { isBlankName } from "@/core/hollow/blanks";
import type { Point } from "@/core/ledger/shapes";
import { overlapping } from "@/core/survey/figures";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { readScreen, writeRecord } from "../db/record";
import type { Engine } from "../engine";
import { makeHollow, openHollow } from "../hollow/acts";
import { undo } from "../ledger/undo";
import { place as placeIcons } from "../quiet/place";
import { hide, quiet } from "../quiet/quiet";
import { screenOf } from "../screen/screens";
import { itemsOn } from "../survey/items";
import { straighten } from "./straighten";

let account: Place;
let engine: Engine;
const lies = () => new Map(screenOf(engine).positions(engine, itemsOn(engine.db, "desktop")));
const sorted = (spots: ReadonlyMap<string, Point>) => [...spots].sort(([a], [b]) => (a < b ? -1 : 1));
const tried = async (input: Omit<StraightenInput, "dryRun">) => (await straighten(engine, { ...input, dryRun: true })).straight;

beforeEach(async () => {
  account = makePlace((root) => makeRandomAccount(root, 5, 40));
  engine = await account.open();
  writeRecord(engine.db, "setting:screen", "simulated");
  const ids = idsOn(engine);
  // Strewn about, some over others and some half off the screen.
  await placeIcons(engine, {
    spots: ids.map((item, n) => ({ item, x: (n * 397) % 1900, y: (n * 211) % 1060 })),
  });
});
afterEach(async () => {
  await engine.close();
  account.remove();
});

describe("straightening", () => {
  test.each(["name", "kind", "size", "date", "beds", "near"] as const)(
    "%s: nothing overlaps or is off the screen, one act, undone to the pixel",
    async (by) => {
      const before = lies();
      const trial = await tried({ by });
      expect(sorted(lies())).toEqual(sorted(before));
      const report = await straighten(engine, { by });
      expect(report.refused).toEqual([]);
      const now = lies();
      for (const { item, x, y } of trial.spots) expect(now.get(item)).toEqual({ x, y });
      const { size } = readScreen(engine.db);
      expect(overlapping([...now.values()], size).size).toBe(0);
      for (const { x, y } of now.values()) {
        expect(x).toBeGreaterThanOrEqual(24);
        expect(y + size.icon.height + size.label.height).toBeLessThanOrEqual(size.height - 24);
      }
      await undo(engine, {});
      expect(sorted(lies())).toEqual(sorted(before));
    },
  );

  test("near its place moves less than sorting, and again nothing at all", async () => {
    const near = await tried({ by: "near" });
    expect(near.way).toBeLessThan(near.sortedWay / 2);
    await straighten(engine, { by: "near" });
    expect(await tried({ by: "near" })).toMatchObject({ way: 0, spots: [] });
  });

  test("with smaller icons more fit, and the size goes with the act and its undo", async () => {
    const before = readScreen(engine.db).size;
    const { fits } = await tried({ by: "near" });
    expect((await tried({ by: "near", icon: 32 })).fits).toBeGreaterThan(fits);
    await straighten(engine, { by: "name", icon: 32, spacing: 4, margin: 0 });
    expect(readScreen(engine.db).size.icon.width).toBe(32);
    expect(overlapping([...lies().values()], readScreen(engine.db).size).size).toBe(0);
    await undo(engine, {});
    expect(readScreen(engine.db).size).toEqual(before);
  });

  test("where they do not fit it says with what they would, and moves nothing", async () => {
    const icons = idsOn(engine).length;
    const [before, spacing] = [lies(), 200];
    const { best, fits, spots } = await tried({ by: "near", icon: 96, spacing, margin: 200 });
    expect(fits).toBeLessThan(icons);
    expect(spots).toEqual([]);
    expect(best!.fits).toBeGreaterThanOrEqual(icons);
    await expect(straighten(engine, { by: "near", icon: 96, spacing, margin: 200 })).rejects.toMatchObject({
      code: "too-many-icons",
      message: expect.stringContaining(`with icons of ${best!.icon}`),
    });
    expect(sorted(lies())).toEqual(sorted(before));
    const { icon, margin } = best!;
    expect((await straighten(engine, { by: "near", icon, spacing: best!.spacing, margin })).refused).toEqual([]);
  });

  test("what is out of sight keeps its place for when it comes back, and makes room where that is taken", async () => {
    const [first, second, ...rest] = idsOn(engine);
    await placeIcons(engine, {
      spots: [
        { item: first!, x: 1700, y: 900 },
        { item: second!, x: 41, y: 30 },
      ],
    });
    await hide(engine, { items: [first!, second!] });
    const report = await straighten(engine, { by: "name" });
    expect(report.straight).toMatchObject({ icons: rest.length, aside: 1 });
    expect(lies().get(first!)).toEqual({ x: 1700, y: 900 });
    await quiet(engine, { level: "everything" });
    expect(overlapping([...lies().values()], readScreen(engine.db).size).size).toBe(0);
  });

  test("what came or went since it was tried is in it, or is not", async () => {
    const before = await tried({ by: "name" });
    fs.writeFileSync(path.join(account.root, "Bureau/0 comes first"), "new");
    fs.rmSync(itemNamed(engine, itemsOn(engine.db, "desktop").at(-1)!.label).path, { recursive: true });
    await engine.lookAgain();
    const report = await straighten(engine, { by: "name" });
    expect(report.straight.icons).toBe(before.icons);
    expect(report.refused).toEqual([]);
    const [, top] = [...lies()].find(([id]) => id === itemNamed(engine, "0 comes first").id)!;
    expect(top).toEqual({ x: 40, y: 24 });
  });

  test("a hollow stays where its owner knows it to be, and nothing comes to lie over it", async () => {
    for (const by of ["name", "beds", "near"] as const) {
      await makeHollow(engine, { x: 150, y: 140, note: by });
      await engine.lookAgain();
      const hollow = itemsOn(engine.db, "desktop").find(({ name }) => isBlankName(name))!;
      await straighten(engine, { by });
      const now = lies();
      expect(now.get(hollow.id)).toEqual({ x: 150, y: 140 });
      expect(overlapping([...now.values()], readScreen(engine.db).size).size).toBe(0);
      await openHollow(engine, { hollow: by, name: `was ${by}` });
      await engine.lookAgain();
    }
  });

  test("on a screen that keeps places to itself it is not done, and says so", async () => {
    writeRecord(engine.db, "setting:screen", null);
    await expect(straighten(engine, { by: "near", dryRun: true })).rejects.toMatchObject({ code: "keeps-places" });
  });
});
