import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { stay } from "../sitting/stay";
import { ledgerList, stepsInWords } from "./list";
import { undo } from "./undo";
import { ledgerView } from "./view";

const acts = 230;
let place: Place;
let engine: Engine;
beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    for (let n = 0; n < acts; n++) fs.writeFileSync(path.join(root, "Desktop", `thing-${n}.txt`), "");
  });
  engine = await place.open();
  for (const item of idsOn(engine)) await stay(engine, { items: [item] });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("every act of a long sitting can be reached and undone, a page at a time", async () => {
  const seen: number[] = [];
  let before: string | undefined;
  for (let page = 1; page <= 4; page++) {
    const view = ledgerView(engine, { before });
    expect(view).toMatchObject({ total: acts, standing: acts, latest: page === 1 });
    seen.push(...view.entries.map(({ id }) => id));
    if (view.older === undefined) break;
    before = String(view.older);
  }
  expect(seen).toEqual(Array.from({ length: acts }, (_, n) => acts - n));
  await undo(engine, { entry: 1 });
  expect(ledgerView(engine, {})).toMatchObject({ total: acts + 1, standing: acts - 1 });
  expect(ledgerView(engine, { before: "2" }).entries).toMatchObject([{ id: 1, state: "undone", canUndo: false }]);
});

test("what is asked for strangely shows the latest acts, and what is not there nothing", () => {
  for (const before of ["-1", "0", "1e9", "x", "9".repeat(40)])
    expect(ledgerView(engine, { before }).entries[0]?.id, before).toBe(acts);
  expect(ledgerView(engine, { before: "1" }).entries).toEqual([]);
  expect(ledgerList(engine, { most: 3, before: 10 }).map(({ id }) => id)).toEqual([9, 8, 7]);
  expect(stepsInWords(engine, 1)).toMatchObject([{ state: "done", words: expect.stringMatching(/^thing-\d+\.txt: stay/) }]);
});
