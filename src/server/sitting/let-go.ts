import type { ReportJson } from "@/contract/items";
import type { LetGoInput } from "@/contract/sitting";
import { perform } from "../act";
import type { Engine } from "../engine";
import { trashSteps } from "../ledger/trash-place";
import { itemsLying, thingsOf, withLocks } from "../survey/items";

/** Lets things go: to the trash, from where each comes back to its exact place. */
export function letGo(engine: Engine, input: LetGoInput): Promise<ReportJson> {
  return perform(
    engine,
    "Letting things go",
    () => ({
      act: "let-go",
      words: (done) => `Let go of ${thingsOf(done, ["trash"], (n) => engine.words().counted(n, "thing"))}`,
      steps: trashSteps(engine, withLocks(engine.db, itemsLying(engine, input.items))),
      left: [],
      sitting: input.sitting,
    }),
    { trial: input.dryRun, verdict: input },
  );
}
