import fc from "fast-check";
import { afterAll, beforeAll, expect, test } from "vitest";
import { kinds } from "@/core/survey/kinds";
import type { Engine } from "@/server/engine";
import { sweepView } from "@/server/homes/view";
import { ledgerView } from "@/server/ledger/view";
import { quiet } from "@/server/quiet/quiet";
import { quietView } from "@/server/quiet/view";
import { letGo } from "@/server/sitting/let-go";
import { stay } from "@/server/sitting/stay";
import { sittingView } from "@/server/sitting/view";
import { protect } from "@/server/survey/protect";
import { surveyView } from "@/server/survey/view";
import { makeRandomAccount } from "../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../fixtures/engine";
import {
  ledgerFrom,
  quietFrom,
  sittingFrom,
  surveyFrom,
  sweepFrom,
  tellLedger,
  tellQuiet,
  tellSitting,
  tellSurvey,
  tellSweep,
} from "./told";
import type { SittingView } from "./views";

let place: Place;
let engine: Engine;
beforeAll(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 33, 2000));
  engine = await place.open();
  await engine.lookAgain("all");
});
afterAll(async () => {
  await engine.close();
  place.remove();
});

/** As the browser has it: what is undefined is not there. */
const plain = (view: object) => JSON.parse(JSON.stringify(view)) as object;

test("a page of two thousand things holds 120 kB at most, and nothing of it is lost on the way", async () => {
  const survey = await surveyView(engine);
  expect(survey.sheet.tiles).toHaveLength(2000);
  const sitting = await sittingView(engine);
  const sweep = await sweepView(engine);
  const told = [tellSurvey(survey), tellQuiet(quietView(engine)), tellSitting(sitting), tellSweep(sweep)];
  // Each quote is escaped where the page holds it.
  for (const one of told) expect(one.length + one.split('"').length).toBeLessThan(120_000);
  expect(plain(surveyFrom(told[0] as never))).toEqual(plain(survey));
  expect(plain(sittingFrom(told[2] as never))).toEqual(plain(sitting));
  expect(plain(sweepFrom(told[3] as never))).toEqual(plain(sweep));
});

test("what is hidden, decided, hard to name, or known to lie elsewhere or nowhere else is told as it is", async () => {
  const ids = idsOn(engine);
  await stay(engine, { items: ids.slice(0, 40) });
  await letGo(engine, { items: ids.slice(40, 60) });
  await protect(engine, { folder: { path: btoa(`${place.root}/Papers`) }, protection: "backed up" });
  await quiet(engine, { level: "what stays" });
  const survey = await surveyView(engine);
  const back = surveyFrom(tellSurvey(survey));
  expect(plain(back)).toEqual(plain(survey));
  expect(back.sheet.tiles.filter((tile) => tile.outOfSight)).toHaveLength(1940);
  expect(back.sheet.tiles.filter((tile) => tile.verdict)).toHaveLength(40);
  expect(new Set(back.sheet.tiles.map((tile) => tile.elsewhere))).toContain(false);
  const hidden = quietView(engine);
  expect(hidden.stays).toHaveLength(40);
  expect(hidden.sheet!.tiles.filter((tile) => tile.outOfSight)).toHaveLength(1940);
  expect(plain(quietFrom(tellQuiet(hidden)))).toEqual(plain(hidden));
  const trash = ledgerView(engine, { sheet: "trash" });
  expect(trash.trash).toHaveLength(20);
  expect(plain(ledgerFrom(tellLedger(trash)))).toEqual(plain(trash));
  const overlooked = await sweepView(engine, undefined, "overlooked");
  expect(overlooked.overlooked.some(({ more }) => more.length > 0)).toBe(true);
  expect(plain(sweepFrom(tellSweep(overlooked)))).toEqual(plain(overlooked));
});

test("any name is told as it is, whatever signs are in it", () => {
  const item = fc.record({
    id: fc.stringMatching(/^[\w-]{1,36}$/),
    name: fc.oneof(
      fc.string({ unit: "grapheme" }),
      fc.constantFrom("|", "~", "%", "%0025", "a|b~c", '"', "\\", "<script>", "\u2028", " ", ""),
    ),
    kind: fc.constantFrom(...kinds),
    bytes: fc.nat({ max: Number.MAX_SAFE_INTEGER }),
    picture: fc.boolean(),
    mtimeMs: fc.nat({ max: 4e9 }).map((second) => second * 1000),
    worktop: fc.constantFrom("desktop", "downloads", ""),
    family: fc.option(fc.integer({ min: 1, max: 500 }), { nil: undefined }),
    due: fc.option(fc.integer({ min: 1, max: 4e12 }), { nil: undefined }),
  });
  fc.assert(
    fc.property(
      fc.array(
        item.filter(({ name }) => name !== ""),
        { maxLength: 20 },
      ),
      (pile) => {
        const rest = { families: [], parcels: [], projects: [], notes: null, waiting: 0, times: [] };
        const view: SittingView = { sitting: "s", settled: [], pile, ...rest };
        expect(sittingFrom(tellSitting(view))).toEqual(view);
        // Nothing in it that could end the script it stands in.
        expect(tellSitting(view)).not.toMatch(/[\u2028\u2029<]/);
      },
    ),
  );
});
