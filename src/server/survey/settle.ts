import type { ReportJson } from "@/contract/items";
import type { SettleInput } from "@/contract/survey";
import type { Plan } from "@/core/ledger/step";
import type { Proof } from "@/core/ledger/steps/trash";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Found, SettlingKind } from "@/core/survey/findings";
import { perform } from "../act";
import type { Engine } from "../engine";
import { trashSteps } from "../ledger/trash-place";
import { type Item, itemById, itemsNamed, thingsOf } from "./items";
import { unpackedOf } from "./spent";
import { findings } from "./survey";

/**
 * Lets go of what a finding is about, or of those of it that are named: one act, one undo. Each proof is repeated at the
 * moment its thing goes; what no longer holds is left and said.
 */
export function settle(engine: Engine, input: SettleInput): Promise<ReportJson> {
  return perform(engine, "Letting things go", () => planSettle(engine, input), {
    trial: input.dryRun,
    verdict: input.items && { ...input, items: input.items },
  });
}

async function planSettle(engine: Engine, input: SettleInput): Promise<Plan> {
  const finding = (await findings(engine)).find(({ kind }) => kind === input.finding);
  const named = input.items && itemsNamed(engine.db, input.items);
  const wanted = named && new Set(named.map((item) => item.id));
  const each = (finding?.each ?? []).filter(({ id }) => !wanted || wanted.has(id));
  const items = each.map(({ id }) => itemById(engine.db, id)!);
  const found = new Map(each.map((one) => [one.id, one]));
  const steps = trashSteps(engine, items).map((step) => {
    if (step.type !== "trash") return step;
    const of = found.get(step.item!)!;
    return { ...step, proof: proofFor(engine, input.finding, of, itemById(engine.db, of.id)!) };
  });
  return {
    act: "settle",
    words: (done) => `Let go of ${thingsOf(done, ["trash"], (n) => engine.words().counted(n, "thing"))}: ${input.finding}`,
    steps,
    sitting: input.sitting,
    left: (named ?? [])
      .filter((item) => !found.has(item.id))
      .map((item) => {
        const problem = new Problem("proof-gone", { name: item.label });
        return { name: item.label, item: item.id, code: problem.code, why: problem.message };
      }),
  };
}

function proofFor(engine: Engine, kind: SettlingKind, found: Found, item: Item): Proof {
  switch (kind) {
    case "twins": {
      const { stays } = found;
      const other = stays && ("id" in stays ? itemById(engine.db, stays.id)!.path : (stays.place as Raw));
      return { kind, other: other!, sha256: item.sha256! };
    }
    case "spent archive":
      return { kind, folder: unpackedOf(engine, item)!.folder };
    default:
      return { kind };
  }
}
