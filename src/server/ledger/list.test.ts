import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { gentle } from "../jobs/gentle";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { ledgerList, stepsInWords } from "./list";
import { undo } from "./undo";
import { ledgerView } from "./view";

const acts = 205;
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
  for (let page = 1; page <= 3; page++) {
    const view = ledgerView(engine, { before });
    expect(view).toMatchObject({ total: acts, standing: acts, latest: page === 1 });
    seen.push(...view.entries.map(({ id }) => id));
    if (view.older === undefined) break;
    before = String(view.older);
  }
  expect(seen).toEqual(Array.from({ length: acts }, (_, n) => acts - n));
  await undo(engine, { entry: 1 });
  expect(ledgerView(engine, {})).toMatchObject({ total: acts + 1, standing: acts - 1 });
  expect(ledgerView(engine, { before: "2" }).entries).toMatchObject([{ id: 1, state: "undone", undo: undefined }]);
});

test("what is asked for strangely shows the latest acts, and what is not there nothing", () => {
  for (const before of ["-1", "0", "1e9", "x", "9".repeat(40)])
    expect(ledgerView(engine, { before }).entries[0]?.id, before).toBe(acts);
  expect(ledgerView(engine, { before: "1" }).entries).toEqual([]);
  expect(ledgerList(engine, { most: 3, before: 10 }).map(({ id }) => id)).toEqual([9, 8, 7]);
  expect(stepsInWords(engine, 1)).toMatchObject([{ state: "done", words: expect.stringMatching(/^thing-\d+\.txt: stay/) }]);
});

test("an act that is still being done is not said to be done", async () => {
  const entry = (await letGo(engine, { items: idsOn(engine).slice(0, 3) })).entry!;
  const said = () => frameView(engine).last?.words;
  expect(said()).toBe("Let go of 3 things");
  const during: (string | undefined)[] = [];
  await engine.ledger.undo(entry, { pace: { ...gentle(), step: async () => void during.push(said()) } });
  expect(new Set(during)).toEqual(new Set(["Let go of 3 things"]));
  expect(said()).toBe("Undone: Let go of 3 things");
});

test("a sitting stands above its acts, also days later, and is undone as a whole", async () => {
  const items = idsOn(engine);
  for (const item of items.slice(0, 3)) await letGo(engine, { items: [item], sitting: "first" });
  await letGo(engine, { items: [items[3]!] });
  await letGo(engine, { items: [items[4]!], sitting: "second" });
  const first = () => ledgerView(engine, {}).sittings.find(({ id }) => id === "first");
  expect(
    ledgerView(engine, {})
      .entries.slice(0, 5)
      .map(({ sitting }) => sitting),
  ).toEqual(["second", undefined, "first", "first", "first"]);
  expect(first()).toMatchObject({ standing: 3, words: expect.stringMatching(/^A sitting, .+: 3 acts, none undone$/) });
  await undo(engine, { entry: acts + 2 });
  expect(first()).toMatchObject({ standing: 2, words: expect.stringMatching(/3 acts, 1 undone$/) });
  expect(await undo(engine, { sitting: "first" })).toMatchObject({ words: "Undid 2 acts", refused: [] });
  expect(first()).toMatchObject({ standing: 0, words: expect.stringMatching(/3 acts, all undone$/) });
  expect(idsOn(engine)).toHaveLength(acts - 2);
  // What is on another page is not said on this one.
  expect(ledgerView(engine, { before: "50" }).sittings).toEqual([]);
});

test("undo asked for several times in quick succession takes back as many acts", async () => {
  const words = await Promise.all([1, 2, 3].map(() => undo(engine, {}).then((report) => report.words)));
  expect(new Set(words).size).toBe(3);
  expect(ledgerView(engine, {}).standing).toBe(acts - 3);
});
