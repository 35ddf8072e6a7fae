import { bagIdentifier } from "@/core/depots/bagit";
import type { Json } from "@/core/ledger/shapes";
import type { ParcelThing, SendStep } from "@/core/ledger/steps/send";
import { joinRaw, nameOf, shownName } from "@/core/names/raw";
import { asProblem, Problem } from "@/core/problem";
import { type ParcelRecord, readRecord, writeRecord } from "../../db/record";
import type { Packed } from "../../disk/bag";
import { diskProblem } from "../../disk/disk-problem";
import type { StepContext, StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";

const bagOf = (step: SendStep) => joinRaw(step.depot, step.bag);

/**
 * Packs things into a bag in a depot, and only once all of it was read back the bag takes its name. Until then it counts as
 * nothing.
 */
export const send: StepKind<SendStep> = {
  check(step, context) {
    if (context.disk.identity(step.depot)?.type !== "folder")
      throw new Problem("depot-gone", { place: shownName(nameOf(step.depot)) });
    expectFree(bagOf(step), context);
  },
  async do(step, context) {
    this.check(step, context);
    const { disk } = context;
    const part = context.temporary("copy", step.depot);
    try {
      const { fit, unfit } = sortOut(step, context);
      const { parcel, title, madeAt } = step;
      const packed = await context.apart("pack", { part, parcel, title, madeAt, things: fit });
      Object.assign(packed.failed, unfit);
      context.made("copy", packed.ino);
      context.keep(packed as unknown as Json);
      expectFree(bagOf(step), context);
      disk.rename(part, bagOf(step));
      try {
        disk.syncFolder(step.depot);
      } catch (error) {
        // Not known to be durable, so not sent.
        disk.rename(bagOf(step), part);
        throw error;
      }
      markSent(step, packed, context);
      return packed as unknown as Json;
    } catch (error) {
      try {
        await context.clear();
      } catch {
        // The depot is gone; what it holds of the part never counted.
      }
      throw ofDepot(error, step);
    }
  },
  /** A parcel stays in its depot: taking an archive away is an act of its own. */
  undo() {},
  async settle(step, note, context, direction) {
    if (direction === "undo") return "undone";
    await context.clear();
    const info = context.disk.readSmall(joinRaw(bagOf(step), "bag-info.txt"));
    if (!note || !info || bagIdentifier(info.toString("utf8")) !== step.parcel) return "undone";
    markSent(step, note as unknown as Packed, context);
    return "done";
  },
};

/** The things that can be sent, and why the others cannot. */
function sortOut(step: SendStep, context: StepContext): { fit: ParcelThing[]; unfit: Packed["failed"] } {
  const unfit: Packed["failed"] = {};
  const fit = step.things.filter((thing) => {
    try {
      expectThing(thing.from, thing.identity, context);
      return true;
    } catch (error) {
      const { code, facts } = asProblem(diskProblem(error, { name: shownName(nameOf(thing.from)) }));
      unfit[thing.item] = { code, facts };
      return false;
    }
  });
  return { fit, unfit };
}

function ofDepot(error: unknown, step: SendStep): Problem {
  const problem = asProblem(diskProblem(error, { place: shownName(nameOf(step.depot)) }));
  if (problem.code === "folder-gone" || problem.code === "vanished")
    return new Problem("depot-gone", { place: shownName(nameOf(step.depot)) });
  if (problem.code === "no-space" || problem.code === "read-only")
    return new Problem(problem.code, { place: shownName(nameOf(step.depot)) });
  return problem;
}

function markSent(step: SendStep, note: Packed, context: StepContext): void {
  context.atCommit(() => {
    const key = `parcel:${step.parcel}`;
    const parcel = readRecord<ParcelRecord>(context.db, key);
    if (!parcel) return;
    const sent: ParcelRecord = {
      ...parcel,
      depot: step.depotId,
      state: "sent",
      sentAt: context.now(),
      bag: step.bag,
      things: Object.keys(note.proven).length,
      files: note.files,
      bytes: note.bytes,
      tags: note.tags,
    };
    writeRecord(context.db, key, sent as unknown as Json);
  });
}
