import type { MoveStep } from "@/core/ledger/steps/move";
import { relocate, whereItLies } from "../relocate";
import type { StepKind } from "../step-kind";
import { expectFree, expectThing, identityAfter, identityNote, settleTransfer, transfer } from "../transfer";

/** Moves one thing to a free name in another folder. */
export const move: StepKind<MoveStep> = {
  check(step, context) {
    expectThing(step.from, step.identity, context, step);
    expectFree(step.to, context);
  },
  async do(step, context) {
    const identity = await transfer(step.from, step.to, step.identity, context, step);
    relocate(step.item, step.to, context, identity);
    return identityNote(identity, step.identity);
  },
  async undo(step, note, context) {
    const lies = whereItLies(step.item, step.to, step.from, context);
    const identity = await transfer(lies, step.from, identityAfter(note, step.identity), context, step);
    relocate(step.item, step.from, context, identity);
  },
  async settle(step, note, context, direction) {
    const identity = identityAfter(note, step.identity);
    const [from, to] = direction === "do" ? [step.from, step.to] : [step.to, step.from];
    const side = await settleTransfer(from, to, identity.ino, note, context, step.item);
    if (side === "neither") return "gone";
    const done = (side === "to") === (direction === "do");
    relocate(step.item, done ? step.to : step.from, context);
    return done ? "done" : "undone";
  },
};
