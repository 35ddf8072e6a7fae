import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { sittingEnd } from "../sitting/view";
import { family } from "./family";
import { settle } from "./settle";

let place: Place;
let engine: Engine;
const old = new Date(Date.now() - 40 * 86_400_000);
beforeEach(async () => {
  place = makePlace((root) => {
    const files = {
      "Desktop/tide table north.csv": "a,b",
      "Desktop/tide table south 2.csv": "c,d",
      "Downloads/tide-table-east.csv": "e,f",
      "Desktop/same.bin": "1234567",
      "Downloads/same again.bin": "1234567",
      "Desktop/third.bin": "1234567",
      "Desktop/alone.gpx": "<gpx/>",
    };
    for (const [name, content] of Object.entries(files)) {
      fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
      fs.writeFileSync(path.join(root, name), content);
      fs.utimesSync(path.join(root, name), old, old);
    }
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});
const of = (label: string) => family(engine, itemNamed(engine, label).id);
const names = async (label: string) => (await of(label))?.each.map(({ name }) => name).sort();

test("a family is found from any thing in it, over both worktops, and says what joins it", async () => {
  const tides = ["tide table north.csv", "tide table south 2.csv", "tide-table-east.csv"];
  for (const name of tides) expect(await names(name)).toEqual(tides);
  expect(await of(tides[0]!)).toMatchObject({ why: "named “tide table”", settles: null });
  expect(await of("alone.gpx")).toBeNull();
});

test("what is proven is settled on its proof, and never the one that stays", async () => {
  const twins: string[] = [];
  for (const name of ["same again.bin", "same.bin", "third.bin"]) if ((await of(name))?.settles === "twins") twins.push(name);
  expect(twins).toHaveLength(2);
  const found = (await of(twins[0]!))!;
  expect(found.each.map(({ proof }) => proof)).toEqual([
    expect.stringContaining("byte for byte"),
    expect.stringContaining("byte for byte"),
  ]);
  const report = await settle(engine, { finding: "twins", items: found.each.map(({ id }) => id), sitting: "s", tookMs: 900 });
  expect(report).toMatchObject({ done: 2, refused: [] });
  expect(await sittingEnd(engine, "s")).toMatchObject({ settled: 2, entries: 1 });
  const left = ["Desktop", "Downloads"].flatMap((worktop) => fs.readdirSync(path.join(place.root, worktop)));
  expect(left.filter((name) => name.endsWith(".bin"))).toHaveLength(1);
});

test("what has a verdict is in no family any more; one verdict on the rest is one act with one undo", async () => {
  const before = place.tree();
  const [first, ...rest] = (await of("tide table north.csv"))!.each.map(({ id }) => id);
  await stay(engine, { items: [first!] });
  expect(rest).toHaveLength(2);
  // Two of a name are no family.
  expect((await of("tide-table-east.csv"))?.why ?? "").not.toContain("named");
  expect(await letGo(engine, { items: rest })).toMatchObject({ done: 2 });
  await undo(engine, {});
  expect(new Set([...place.tree().keys()].filter((rel) => !rel.startsWith(".local")))).toEqual(new Set(before.keys()));
  expect(idsOn(engine, "downloads")).toHaveLength(2);
});
