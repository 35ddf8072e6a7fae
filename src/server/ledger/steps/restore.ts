import type { RestoreStep } from "@/core/ledger/steps/restore";
import { relocate } from "../relocate";
import type { StepKind } from "../step-kind";
import { expectFree, expectThing, identityAfter, identityNote } from "../transfer";
import { filesPath, putIn, settleInTrash, takeOut } from "./trash";

/** Brings a thing back from the trash: the trash step the other way round, also for what other programs put there. */
export const restore: StepKind<RestoreStep> = {
  check(step, context) {
    expectThing(filesPath(step.trash, step.name), step.identity, context, { item: step.item });
    expectFree(step.to, context);
  },
  async do(step, context) {
    const identity = await takeOut(step, step.to, step.identity, context);
    relocate(step.item, step.to, context, identity);
    return identityNote(identity, step.identity);
  },
  async undo(step, note, context) {
    const identity = await putIn(step.to, step, identityAfter(note, step.identity), context);
    relocate(step.item, filesPath(step.trash, step.name), context, identity);
  },
  async settle(step, note, context, direction) {
    const side = await settleInTrash(step, step.to, identityAfter(note, step.identity), note, context, direction === "undo");
    if (side === "gone") return "gone";
    relocate(step.item, side === "in" ? filesPath(step.trash, step.name) : step.to, context);
    return side === "out" ? "done" : "undone";
  },
};
