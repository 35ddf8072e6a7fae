import type { Json } from "@/core/ledger/shapes";
import type { MoveStep } from "@/core/ledger/steps/move";
import { freeName } from "@/core/names/free-name";
import { folderOf, joinRaw, nameOf, type Raw } from "@/core/names/raw";
import { relocate, whereItLies, whereItWasPut } from "../relocate";
import type { Direction, StepContext, StepKind } from "../step-kind";
import { expectFree, expectThing, identityAfter, identityNote, settleTransfer, transfer } from "../transfer";

/** That a program has it open is in the way of nothing that comes back in sight. */
const options = ({ item, evenInUse, sight }: MoveStep, direction: Direction) => ({
  item,
  evenInUse: evenInUse || sight === (direction === "do" ? "back" : "out") ? (true as const) : undefined,
});

/** Where it is taken from when it is done: one that came back under another name, when that was undone, lies under that one. */
const source = ({ item, from, sight }: MoveStep, context: StepContext): Raw =>
  (sight && whereItWasPut(item, from, context)) || from;

/** Moves one thing to a free name in another folder. */
export const move: StepKind<MoveStep> = {
  check(step, context) {
    expectThing(source(step, context), step.identity, context, options(step, "do"));
    expectFree(step.to, context);
  },
  async do(step, context) {
    const identity = await transfer(source(step, context), step.to, step.identity, context, options(step, "do"));
    relocate(step.item, step.to, context, identity);
    return identityNote(identity, step.identity);
  },
  async undo(step, note, context) {
    const lies = whereItLies(step.item, step.to, step.from, context);
    let to = step.from;
    if (step.sight === "out" && context.disk.identity(to)) {
      const name = freeName(nameOf(to), (taken) => context.disk.identity(joinRaw(folderOf(to), taken)) !== undefined);
      to = joinRaw(folderOf(to), name);
      context.keep({ ...(note as object), back: name });
    }
    const identity = await transfer(lies, to, identityAfter(note, step.identity), context, options(step, "undo"));
    relocate(step.item, to, context, identity);
  },
  async settle(step, note, context, direction) {
    const identity = identityAfter(note, step.identity);
    const back = joinRaw(folderOf(step.from), nameBack(note) ?? nameOf(step.from));
    const [from, to] = direction === "do" ? [source(step, context), step.to] : [step.to, back];
    const side = await settleTransfer(from, to, identity.ino, note, context, step.item);
    if (side === "neither") return "gone";
    const done = (side === "to") === (direction === "do");
    relocate(step.item, done ? step.to : direction === "do" ? from : back, context);
    return done ? "done" : "undone";
  },
};

/** The name under which a thing came back in sight, when that it went was undone, where that is not the one it had. */
export const nameBack = (note: Json): Raw | undefined =>
  typeof note === "object" && note !== null && !Array.isArray(note) && "back" in note ? (note.back as Raw) : undefined;
