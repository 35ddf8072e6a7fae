import type { ItemRef, ReportJson } from "@/contract/items";
import { stepSentence } from "@/core/ledger/sentence";
import type { Plan } from "@/core/ledger/step";
import type { Engine } from "./engine";
import { noteVerdicts } from "./sitting/pace";
import { itemById } from "./survey/items";

/** A verdict given in a sitting, and how long it took. */
interface Verdict {
  items: ItemRef[];
  sitting?: string;
  given?: string;
  tookMs?: number;
}

/**
 * Performs a plan through the ledger and answers the report; with `trial`, what it would do. Afterwards the worktops are
 * looked at again. An act is a job, seen once it takes longer than a moment, and can be cancelled. `bytes` says how many
 * there are to read, where these and not the things tell how far it is.
 */
export async function perform(
  engine: Engine,
  doing: string,
  makePlan: () => Plan | Promise<Plan>,
  options: { trial?: boolean; bytes?: number; verdict?: Verdict } = {},
): Promise<ReportJson> {
  const { trial } = options;
  const makeGiven = async () => ({ ...(await makePlan()), given: options.verdict?.given });
  const { plan, ...report } = trial
    ? await engine.ledger.perform(makePlan, { trial })
    : await engine.jobs.run(doing, options.bytes === undefined ? "things" : "bytes", options.bytes ?? 0, (job) =>
        engine.ledger.perform(makeGiven, { pace: job }),
      );
  if (!trial) engine.lookLater();
  const { verdict } = options;
  if (verdict?.sitting && report.entry !== null)
    noteVerdicts(engine, verdict.sitting, verdict.items, verdict.tookMs ?? 0, report.entry);
  if (!trial) return report;
  const words = engine.words();
  const titleOf = (id: string) => itemById(engine.db, id)?.label ?? "a thing";
  return { ...report, steps: plan.steps.map((step) => stepSentence(step, engine.account.root, words, titleOf)) };
}
