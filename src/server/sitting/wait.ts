import type { ReportJson } from "@/contract/items";
import type { WaitInput } from "@/contract/sitting";
import { perform } from "../act";
import type { Engine } from "../engine";
import { itemsNamed } from "../survey/items";
import { verdictStep } from "./verdict";

/** How long a thing waits where no date is given. */
export const waitDays = 30;
const day = 86_400_000;

/** Not sure yet: things come up again on a date. */
export function wait(engine: Engine, input: WaitInput): Promise<ReportJson> {
  return perform(
    engine,
    "Putting things off",
    () => {
      const items = itemsNamed(engine.db, input.items);
      const until = input.until ?? engine.now() + waitDays * day;
      const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
      return {
        act: "wait",
        words: () => `Let ${named} wait until ${engine.words().date(until)}`,
        steps: items.map((item) => verdictStep(engine, item, { verdict: "wait", at: engine.now(), until })),
        left: [],
        sitting: input.sitting,
      };
    },
    { trial: input.dryRun, verdict: input },
  );
}
