import { afterAll, beforeAll, expect, test } from "vitest";
import type { Engine } from "@/server/engine";
import { sweepView } from "@/server/homes/view";
import { quiet } from "@/server/quiet/quiet";
import { quietView } from "@/server/quiet/view";
import { letGo } from "@/server/sitting/let-go";
import { stay } from "@/server/sitting/stay";
import { sittingView } from "@/server/sitting/view";
import { protect } from "@/server/survey/protect";
import { surveyView } from "@/server/survey/view";
import { makeRandomAccount } from "../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../fixtures/engine";
import { quietFrom, sittingFrom, surveyFrom, sweepFrom, tellQuiet, tellSitting, tellSurvey, tellSweep } from "./told";

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

test("a page of two thousand things holds 300 kB at most, and nothing of it is lost on the way", async () => {
  const survey = await surveyView(engine);
  expect(survey.sheet.tiles).toHaveLength(2000);
  const sitting = await sittingView(engine);
  const sweep = sweepView(engine);
  const told = [tellSurvey(survey), tellQuiet(quietView(engine)), tellSitting(sitting), tellSweep(sweep)];
  // Each quote is escaped where the page holds it.
  for (const one of told) expect(one.length + one.split('"').length).toBeLessThan(300_000);
  expect(plain(surveyFrom(told[0] as never))).toEqual(plain(survey));
  expect(plain(sittingFrom(told[2] as never))).toEqual(plain(sitting));
  expect(plain(sweepFrom(told[3] as never))).toEqual(plain(sweep));
});

test("what is hidden, decided, hard to name, or known to lie elsewhere or nowhere else is told as it is", async () => {
  const ids = idsOn(engine);
  await stay(engine, { items: ids.slice(0, 40) });
  await letGo(engine, { items: ids.slice(40, 60) });
  await protect(engine, { folder: btoa(`${place.root}/Papers`), protection: "backed up" });
  await quiet(engine, { level: "what stays" });
  const survey = await surveyView(engine);
  const back = surveyFrom(tellSurvey(survey));
  expect(plain(back)).toEqual(plain(survey));
  expect(back.sheet.tiles.filter((tile) => tile.outOfSight)).toHaveLength(1940);
  expect(back.sheet.tiles.filter((tile) => tile.verdict)).toHaveLength(40);
  expect(new Set(back.sheet.tiles.map((tile) => tile.elsewhere))).toContain(false);
  const hidden = quietView(engine);
  const { outOfSight, ...rest } = quietFrom(tellQuiet(hidden));
  expect(outOfSight.map(({ id, name, kind }) => ({ id, name, kind }))).toEqual(hidden.outOfSight);
  expect(plain(rest)).toEqual(plain({ ...hidden, outOfSight: undefined }));
});
