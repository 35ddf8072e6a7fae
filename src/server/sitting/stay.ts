import type { ReportJson } from "@/contract/items";
import type { StayInput } from "@/contract/sitting";
import { perform } from "../act";
import type { Engine } from "../engine";
import { itemsNamed } from "../survey/items";
import { verdictStep } from "./verdict";

/** Things stay where they lie, on purpose, for good or until a date. */
export function stay(engine: Engine, input: StayInput): Promise<ReportJson> {
  return perform(
    engine,
    "Leaving things",
    () => {
      const items = itemsNamed(engine.db, input.items, "anywhere");
      const named = items.length === 1 ? items[0]!.label : engine.words().counted(items.length, "thing");
      const until = input.until === undefined ? "" : ` until ${engine.words().date(input.until)}`;
      return {
        act: "stay",
        words: () => `Left ${named} where ${items.length === 1 ? "it lies" : "they lie"}${until}`,
        steps: items.map((item) => verdictStep(engine, item, { verdict: "stay", at: engine.now(), until: input.until })),
        left: [],
        sitting: input.sitting,
      };
    },
    { trial: input.dryRun, verdict: input },
  );
}
