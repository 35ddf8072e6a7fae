import { isDeepStrictEqual } from "node:util";
import type { Json, SetStep, ShowStep, Step } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { everythingShown, readRecord, writeRecord } from "../../db/record";
import type { StepContext, StepKind } from "../step-kind";

interface Change {
  key: string;
  from: Json;
  to: Json;
  shared?: true;
}

/** A step that changes one record: written with the entry, so after a crash the record itself tells on which side it stands. */
function recordStep<S extends Step>(changeOf: (step: S) => Change, missing: Json, what: string): StepKind<S> {
  const read = (key: string, context: StepContext) => readRecord<Json>(context.db, key) ?? missing;
  const turn = (key: string, from: Json, to: Json, context: StepContext) => {
    if (!isDeepStrictEqual(read(key, context), from)) throw new Problem("changed", { name: what });
    context.atCommit(() => writeRecord(context.db, key, to));
  };
  return {
    check(step, context) {
      const { key, from, shared } = changeOf(step);
      if (!shared && !isDeepStrictEqual(read(key, context), from)) throw new Problem("changed", { name: what });
    },
    do(step, context) {
      const { key, from, to, shared } = changeOf(step);
      if (shared && read(key, context) !== null) return null;
      turn(key, from, to, context);
      return null;
    },
    undo(step, _note, context) {
      const { key, from, to, shared } = changeOf(step);
      if (!shared) turn(key, to, from, context);
    },
    settle(step, _note, context) {
      const { key, to } = changeOf(step);
      return isDeepStrictEqual(read(key, context), to) ? "done" : "undone";
    },
  };
}

/** Records something the person decided: a verdict, a home, a depot, a parcel, a setting. */
export const set = recordStep<SetStep>((step) => step, null, "What you decided before");

/** Changes what the screen shows. */
export const show = recordStep<ShowStep>(
  (step) => ({ key: "shown", from: step.from as unknown as Json, to: step.to as unknown as Json }),
  everythingShown as unknown as Json,
  "What the screen shows",
);
