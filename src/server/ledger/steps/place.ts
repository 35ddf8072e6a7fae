import type { Point } from "@/core/ledger/shapes";
import type { PlaceStep } from "@/core/ledger/steps/place";
import { Problem } from "@/core/problem";
import { readPosition, writePosition } from "../../db/record";
import type { StepContext, StepKind } from "../step-kind";

const same = (a: Point | null, b: Point | null) => (a === null || b === null ? a === b : a.x === b.x && a.y === b.y);

function put(item: string, from: Point | null, to: Point | null, context: StepContext): void {
  if (!same(readPosition(context.db, item), from)) throw new Problem("changed", { detail: "its place on the screen" });
  context.atCommit(() => writePosition(context.db, item, to));
}

/** Gives an icon a place on the screen. */
export const place: StepKind<PlaceStep> = {
  check(step, context) {
    if (!same(readPosition(context.db, step.item), step.from))
      throw new Problem("changed", { detail: "its place on the screen" });
  },
  do(step, context) {
    put(step.item, step.from, step.to, context);
    return null;
  },
  undo(step, _note, context) {
    put(step.item, step.to, step.from, context);
  },
  settle(step, _note, context) {
    return same(readPosition(context.db, step.item), step.to) ? "done" : "undone";
  },
};
