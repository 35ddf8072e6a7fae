import type { ItemRef, ReportJson } from "@/contract/items";
import { stepSentence } from "@/core/ledger/sentence";
import type { Plan } from "@/core/ledger/step";
import { unlessProblem } from "@/core/problem";
import type { Engine } from "./engine";
import { noteVerdicts } from "./sitting/pace";
import { itemById } from "./survey/items";

/** A verdict given in a sitting, and how long it took. */
interface Verdict {
  items: ItemRef[];
  sitting?: string;
  tookMs?: number;
}

/** From how many steps, or bytes to copy, an act is shown as a job with progress. */
const longAct = 50;

/**
 * Performs a plan through the ledger and answers the report; with `trial`, what it would do. Afterwards the worktops are
 * looked at again. A long act is a job that can be cancelled.
 */
export async function perform(
  engine: Engine,
  doing: string,
  makePlan: () => Plan,
  options: { trial?: boolean; bytes?: number; verdict?: Verdict } = {},
): Promise<ReportJson> {
  let size = longAct;
  if (!options.trial && options.bytes === undefined) size = unlessProblem(() => makePlan().steps.length) ?? 0;
  const { trial } = options;
  const work = () => engine.ledger.perform(makePlan, { trial });
  const { plan, ...report } =
    trial || (options.bytes === undefined && size < longAct)
      ? await work()
      : await engine.jobs.run(doing, options.bytes === undefined ? "things" : "bytes", options.bytes ?? size, (job) =>
          engine.ledger.perform(makePlan, { pace: job }),
        );
  if (!trial) engine.lookLater();
  const { verdict } = options;
  if (verdict?.sitting && report.entry !== null)
    noteVerdicts(engine, verdict.sitting, verdict.items, verdict.tookMs ?? 0, report.entry);
  const words = engine.words();
  const steps = plan.steps.map((step) =>
    stepSentence(step, engine.account.root, words, (id) => itemById(engine.db, id)?.label ?? "a thing"),
  );
  return { ...report, steps };
}
