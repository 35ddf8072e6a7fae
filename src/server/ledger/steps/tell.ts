import { isDeepStrictEqual } from "node:util";
import type { TellStep } from "@/core/ledger/steps/tell";
import { Problem } from "@/core/problem";
import type { Shown } from "@/core/screen/state";
import { readScreen, writeScreenPart } from "../../db/record";
import { tellScreen, toldOf } from "../../screen/told-commands";
import type { StepContext, StepKind } from "../step-kind";

function expect(context: StepContext, ...states: Shown[]): void {
  const now = readScreen(context.db).shown;
  if (!states.some((state) => isDeepStrictEqual(now, state))) throw new Problem("changed", { name: "What the screen shows" });
}

async function turn(to: TellStep["to"], shown: Shown, context: StepContext): Promise<void> {
  try {
    const told = toldOf(context.account);
    await context.outside(() => tellScreen(context, told, to));
  } catch (error) {
    // There are no facts to settle by: it counts as not done.
    if (error instanceof Problem) error.untouched = true;
    throw error;
  }
  context.atCommit(() => writeScreenPart(context.db, "shown", shown));
}

/** Tells the screen. After a crash it counts as told, so that it is told the contrary. */
export const tell: StepKind<TellStep> = {
  check(step, context) {
    expect(context, step.shown.from);
    toldOf(context.account);
  },
  async do(step, context) {
    expect(context, step.shown.from);
    await turn(step.to, step.shown.to, context);
    return null;
  },
  async undo(step, _note, context) {
    // Interrupted before its end, the record says as before.
    expect(context, step.shown.to, step.shown.from);
    await turn(step.to === "hide" ? "show" : "hide", step.shown.from, context);
  },
  settle: () => "done",
};
