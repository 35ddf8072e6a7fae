import { isDeepStrictEqual } from "node:util";
import type { Json } from "@/core/ledger/shapes";
import type { SetStep } from "@/core/ledger/steps/set";
import { Problem } from "@/core/problem";
import { readRecord, writeRecord } from "../../db/record";
import { expectNoneOnItsWay } from "../../depots/sending-row";
import type { StepContext, StepKind } from "../step-kind";

const read = (key: string, { db }: StepContext) => readRecord<Json>(db, key);

function expect(key: string, value: Json, context: StepContext): void {
  if (!isDeepStrictEqual(read(key, context), value)) throw new Problem("changed", { name: "What you decided before" });
}

/** A depot stays in the list while a parcel goes there. */
function expectUnused(key: string, to: Json, { db }: StepContext): void {
  const [, depot] = to === null ? (/^depot:(.*)$/.exec(key) ?? []) : [];
  if (depot !== undefined) expectNoneOnItsWay(db, depot, true);
}

function turn({ key }: SetStep, from: Json, to: Json, context: StepContext): void {
  expect(key, from, context);
  expectUnused(key, to, context);
  context.atCommit(() => writeRecord(context.db, key, to));
}

/** Records something the person decided. After a crash the record itself tells on which side it stands. */
export const set: StepKind<SetStep> = {
  check(step, context) {
    if (step.shared) return;
    expect(step.key, step.from, context);
    expectUnused(step.key, step.to, context);
  },
  do(step, context) {
    if (!step.shared || read(step.key, context) === null) turn(step, step.from, step.to, context);
    return null;
  },
  undo(step, _note, context) {
    if (!step.shared) turn(step, step.to, step.from, context);
  },
  settle: (step, _note, context) => (isDeepStrictEqual(read(step.key, context), step.to) ? "done" : "undone"),
};
