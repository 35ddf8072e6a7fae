import type { ReportJson } from "@/contract/items";
import type { LongerInput } from "@/contract/quiet";
import type { Plan } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { isOver } from "@/core/quiet/levels";
import { endsSoon } from "@/core/quiet/occasions";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { outOfSight } from "../screen/sight";
import { thingsOn } from "../survey/items";
import { changeOccasion, longerMs, occasionsNow } from "./occasions";
import { planShown } from "./quiet";

/** What ends next: an occasion, or what was taken out of sight until a time. */
interface Ending {
  occasion?: { id: string; title: string };
  at: number;
}

function nextEnding(engine: Engine): Ending | undefined {
  const { shown } = readScreen(engine.db);
  const endings = occasionsNow(engine).flatMap(({ id, occasion: { title }, period }): Ending[] =>
    period && Number.isFinite(period.end) ? [{ occasion: { id, title }, at: period.end }] : [],
  );
  if (shown.level !== "everything" && shown.until !== null && !isOver(shown, engine.now())) endings.push({ at: shown.until });
  return endings.sort((a, b) => a.at - b.at)[0];
}

/** What ends within two minutes, if anything does. */
export function endingSoon(engine: Engine): Ending | undefined {
  const next = nextEnding(engine);
  return next && endsSoon(next.at, engine.now()) ? next : undefined;
}

/** Lets what ends next go on for longer. What is in sight and what is not stays as it is. */
export function longer(engine: Engine, { until, dryRun }: LongerInput): Promise<ReportJson> {
  const next = nextEnding(engine);
  if (next?.occasion) return changeOccasion(engine, { occasion: next.occasion.id, does: "longer", until, dryRun });
  return perform(engine, "Letting it go on", () => planLonger(engine, until), { trial: dryRun });
}

function planLonger(engine: Engine, asked?: number): Plan {
  const next = nextEnding(engine);
  if (!next || next.occasion) throw new Problem("nothing-ends");
  const until = asked ?? next.at + longerMs;
  if (until <= engine.now()) throw new Problem("bad-words", { detail: "That time is past." });
  const from = readScreen(engine.db).shown;
  const hidden = [...outOfSight(engine, thingsOn(engine.db, "desktop"), from)];
  const plan = planShown(engine, { ...from, hidden, until });
  return { ...plan, words: () => `It goes on until ${engine.words().dateTime(until)}`, level: from.level };
}
