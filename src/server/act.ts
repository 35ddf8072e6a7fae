import type { ItemRef, ReportJson, TrialStep } from "@/contract/items";
import type { Plan } from "@/core/ledger/step";
import { stepSentence, subjectOf } from "@/core/ledger/step";
import { goneNow } from "./actor";
import type { Engine } from "./engine";
import { beginSitting } from "./sitting/before";
import { noteVerdicts, weighed } from "./sitting/pace";
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
 * there are to read, where these and not the things tell how far it is; `parcel` which one it is about. A plan that takes
 * its time hears by its signal when it is cancelled, or nobody waits for its trial any more.
 */
export async function perform(
  engine: Engine,
  doing: string,
  makePlan: (signal?: AbortSignal) => Plan | Promise<Plan>,
  options: { trial?: boolean; bytes?: number; verdict?: Verdict; parcel?: string } = {},
): Promise<ReportJson> {
  const { trial } = options;
  const makeGiven = async (signal: AbortSignal) => ({ ...(await makePlan(signal)), given: options.verdict?.given });
  const { verdict } = options;
  if (verdict?.sitting && !trial) beginSitting(engine, verdict.sitting);
  const things = verdict?.sitting ? weighed(engine, verdict.items) : [];
  const { plan, fine, ...report } = trial
    ? await engine.ledger.perform(() => makePlan(goneNow()), { trial })
    : await engine.jobs.run(
        doing,
        options.bytes === undefined ? "things" : "bytes",
        options.bytes ?? 0,
        (job) => engine.ledger.perform(() => makeGiven(job.signal), { pace: job }),
        { parcel: options.parcel },
      );
  if (!trial) engine.lookLater();
  if (verdict?.sitting && report.entry !== null) noteVerdicts(engine, verdict.sitting, things, verdict.tookMs ?? 0, report.entry);
  if (!trial) return report;
  const words = engine.words();
  const titleOf = (id: string) => itemById(engine.db, id)?.label ?? "a thing";
  const saying = { root: engine.account.root, words, titleOf };
  const steps = fine.map(
    (step): TrialStep => ({
      type: step.type,
      subject: subjectOf(step),
      item: "item" in step ? step.item : undefined,
      words: stepSentence(step, saying),
    }),
  );
  return { ...report, steps };
}
