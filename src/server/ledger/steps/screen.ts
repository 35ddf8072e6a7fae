import { isDeepStrictEqual } from "node:util";
import type { ScreenStep } from "@/core/ledger/steps/screen";
import { Problem } from "@/core/problem";
import { readScreen, writeScreenPart } from "../../db/record";
import type { StepContext, StepKind } from "../step-kind";

const changed = () => new Problem("changed", { name: "What the screen shows" });

function expect(part: ScreenStep["part"], state: ScreenStep["from"], { db }: StepContext): void {
  if (!isDeepStrictEqual(readScreen(db)[part], state)) throw changed();
}

function turn({ part }: ScreenStep, from: ScreenStep["from"], to: ScreenStep["to"], context: StepContext): void {
  expect(part, from, context);
  context.atCommit(() => writeScreenPart(context.db, part, to));
}

/** Sets one part of the screen's state. */
export const screen: StepKind<ScreenStep> = {
  check: (step, context) => expect(step.part, step.from, context),
  do(step, context) {
    turn(step, step.from, step.to, context);
    return null;
  },
  undo: (step, _note, context) => turn(step, step.to, step.from, context),
  settle: (step, _note, { db }) => (isDeepStrictEqual(readScreen(db)[step.part], step.to) ? "done" : "undone"),
};
