import type { ReportJson } from "@/contract/items";
import type { WaitInput } from "@/contract/sitting";
import { perform } from "../act";
import { readRecord, type VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { stateOf } from "../jobs/work/read-worktop";
import { itemsLying } from "../survey/items";
import { onceDecided, verdictStep } from "./verdict";

/** How long a thing waits where no date is given. */
export const waitDays = 30;
const day = 86_400_000;

/** Not sure yet: things come up again on a date. */
export function wait(engine: Engine, input: WaitInput): Promise<ReportJson> {
  return perform(
    engine,
    "Putting things off",
    () => {
      const { items, left } = onceDecided(engine, itemsLying(engine, input.items), input.sitting);
      const until = input.until ?? engine.now() + waitDays * day;
      const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
      return {
        act: "wait",
        words: () => `Let ${named} wait until ${engine.words().date(until)}`,
        steps: items.map((item) => {
          const before = readRecord<VerdictRecord>(engine.db, `verdict:${item.id}`);
          // Another date is no new beginning.
          const since = before?.verdict === "wait" ? (before.since ?? before.at) : engine.now();
          return verdictStep(engine, item, { verdict: "wait", at: engine.now(), until, since, state: stateOf(item.identity) });
        }),
        left,
        sitting: input.sitting,
      };
    },
    { trial: input.dryRun, verdict: input },
  );
}
