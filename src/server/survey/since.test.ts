import fs from "node:fs";
import path from "node:path";
import fc from "fast-check";
import { afterEach, expect, test } from "vitest";
import type { SheetView, Tile } from "@/contract/views";
import { tilesNow } from "@/ui/kit/since";
import { makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { operate } from "../operations";
import { marked, since } from "./since";
import { surveyView } from "./view";

let place: Place | undefined;
let engine: Engine | undefined;
afterEach(async () => {
  await engine?.close();
  place?.remove();
  [engine, place] = [undefined, undefined];
});

const sheetOf = (tiles: Tile[]) => ({ worktop: "desktop", tiles }) as unknown as SheetView;
const tile = (id: number, more = {}) => ({ id: `t${id}`, name: `thing ${id}`, ...more }) as unknown as Tile;

test("what changed, came, went or moved makes the very list of now out of the one before; what did not is the very same", () => {
  const owner = {} as Engine;
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.constantFrom("change", "go", "come", "move"), fc.nat(700), fc.nat(700)), { maxLength: 30 }),
      (steps) => {
        const before = Array.from({ length: 700 }, (_, n) => tile(n));
        const told = marked(owner, sheetOf(before));
        const now = [...before];
        for (const [what, at, to] of steps) {
          if (what === "change") now[at % now.length] = { ...now[at % now.length]!, name: `renamed ${to}` };
          else if (what === "go") now.splice(at % now.length, 1);
          else if (what === "come") now.splice(at % now.length, 0, tile(1000 + at, { name: `came ${to}` }));
          else now.splice(to % now.length, 0, ...now.splice(at % now.length, 1));
        }
        const answer = since(owner, told.mark!, { sheet: marked(owner, sheetOf(now)) });
        const made = tilesNow(before, answer.tiles);
        expect(made).toEqual(now);
        expect(made.filter((one) => before.includes(one)).length).toBeGreaterThan(600);
        expect(answer.tiles.length).toBeLessThan(130);
        expect(answer.view.sheet.tiles).toEqual([]);
      },
    ),
    { numRuns: 50 },
  );
});

test("a mark that is not known, and one that was answered, get everything; few things have none", async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop"));
    for (let n = 0; n < 520; n++) fs.writeFileSync(path.join(root, "Desktop", `${n}.txt`), `${n}`);
  });
  engine = await place.open();
  const { sheet } = await surveyView(engine);
  expect(sheet.mark).toBeDefined();
  fs.writeFileSync(path.join(place.root, "Desktop/fresh.txt"), "fresh");
  await engine.lookAgain("all");
  const now = await operate(engine, "survey/since", { mark: sheet.mark });
  expect(now.tiles.filter((one) => !Array.isArray(one))).toMatchObject([{ name: "fresh.txt" }]);
  expect(tilesNow(sheet.tiles, now.tiles)).toEqual((await surveyView(engine)).sheet.tiles);
  for (const mark of ["none", sheet.mark]) expect((await operate(engine, "survey/since", { mark })).tiles).toHaveLength(521);
  const quiet = await operate(engine, "quiet/since", { mark: "none" });
  expect(quiet.tiles).toHaveLength(521);
  await operate(engine, "quiet/hide", { items: [sheet.tiles[3]!.id] });
  const hidden = await operate(engine, "quiet/since", { mark: quiet.view.sheet!.mark });
  expect(hidden.tiles.filter((one) => !Array.isArray(one))).toMatchObject([{ id: sheet.tiles[3]!.id, outOfSight: true }]);
  for (let n = 0; n < 100; n++) fs.rmSync(path.join(place.root, "Desktop", `${n}.txt`), { force: true });
  await engine.lookAgain("all");
  expect((await surveyView(engine)).sheet.mark).toBeUndefined();
});
