import type { DeleteParcelStep } from "@/core/ledger/steps/delete-parcel";
import { Problem, unlessProblem } from "@/core/problem";
import { writeRecord } from "../../db/record";
import { addressOf } from "../../depots/address";
import { forgetFound } from "../../depots/found-rows";
import { withStore } from "../../depots/kinds/kinds";
import { addRemoval } from "../../depots/sending-row";
import type { DepotStore } from "../../depots/store";
import { tagsOf } from "../../depots/tags";
import type { StepContext, StepKind } from "../step-kind";

const inDepot = <T>(
  step: DeleteParcelStep,
  context: StepContext,
  work: (store: DepotStore) => Promise<T>,
  stop = context.stop(),
) => withStore(addressOf(context, step.depot, step.depotTitle), context.disk, work, stop);

/** Longer than this a start does not wait to hear what became of it; milliseconds. */
const mostWaited = 4000;

/** Throws unless the very parcel lies there that was shown. */
async function expectIt(step: DeleteParcelStep, store: DepotStore): Promise<void> {
  await store.reach();
  if ((await store.stat(step.bag))?.type !== "folder") throw new Problem("vanished", { name: step.title });
  if (((await tagsOf(store, step.bag)) ?? null) !== step.tags) throw new Problem("changed", { name: step.title });
}

function gone(step: DeleteParcelStep, context: StepContext): void {
  context.atCommit(() => {
    writeRecord(context.db, `parcel:${step.parcel}`, null);
    forgetFound(context.db, step.parcel);
    addRemoval(context.db, step.depot, step.aside, context.now());
  });
}

/**
 * Takes a parcel away in its depot: the second step that destroys. It loses its name first, in one call, and is no parcel from
 * then on; what lies under the other name is taken away after that, however long it takes, and after a crash too.
 */
export const deleteParcel: StepKind<DeleteParcelStep> = {
  check: (step, context) => inDepot(step, context, (store) => expectIt(step, store)),
  async do(step, context) {
    await context.outside(() =>
      inDepot(step, context, async (store) => {
        await expectIt(step, store);
        context.keep({ aside: step.aside });
        await store.commit(step.bag, step.aside);
      }),
    );
    gone(step, context);
    return { aside: step.aside };
  },
  undo(step) {
    throw new Problem("parcel-deleted", { name: step.title });
  },
  expectUndoable(step) {
    throw new Problem("parcel-deleted", { name: step.title });
  },
  async settle(step, note, context, direction) {
    if (direction === "undo") return "done";
    if (!note) return "undone";
    const soon = AbortSignal.any([context.stop(), AbortSignal.timeout(mostWaited)]);
    const still = await unlessProblem(() => inDepot(step, context, async (store) => Boolean(await store.stat(step.bag)), soon));
    // Where it cannot be asked it is found again, should it lie there after all.
    if (still) return "undone";
    gone(step, context);
    return "done";
  },
};
