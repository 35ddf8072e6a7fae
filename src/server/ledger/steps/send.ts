import { bagIdentifier } from "@/core/depots/bagit";
import type { Json } from "@/core/ledger/shapes";
import type { ParcelThing, SendStep } from "@/core/ledger/steps/send";
import { joinRaw, nameOf, rawFromText, shownName } from "@/core/names/raw";
import { asProblem, Problem } from "@/core/problem";
import { type ParcelRecord, readRecord, writeRecord } from "../../db/record";
import { addressOf } from "../../depots/address";
import { storeAt } from "../../depots/kinds/kinds";
import { type Packed, Packing } from "../../depots/packing";
import { ParcelFiles } from "../../depots/parcel-files";
import { readWhole } from "../../depots/store";
import { diskProblem } from "../../disk/disk-problem";
import type { StepContext, StepKind } from "../step-kind";
import { expectThing } from "../transfer";

const storeOf = (step: SendStep, { db, disk }: StepContext) => {
  const address = addressOf(db, step.depot, step.depotTitle);
  return { address, store: storeAt(address, disk) };
};

async function expectNameFree(step: SendStep, context: StepContext): Promise<void> {
  const { store } = storeOf(step, context);
  if ((await store.state()) !== "in reach") throw new Problem("depot-gone", { place: step.depotTitle });
  if (await store.stat(step.bag)) throw new Problem("name-taken", { name: shownName(step.bag), place: step.depotTitle });
}

/**
 * Packs things into a bag in a depot, and only once all of it was read back the bag takes its name. Until then it counts as
 * nothing.
 */
export const send: StepKind<SendStep> = {
  check: expectNameFree,
  async do(step, context) {
    await expectNameFree(step, context);
    const { address, store } = storeOf(step, context);
    const part = context.temporary("copy", address.folder);
    const files = new ParcelFiles(context.db, step.parcel);
    try {
      const { fit, unfit } = sortOut(step, context);
      const { parcel, title, madeAt } = step;
      const place = { depot: address, folder: nameOf(part) };
      const packing = new Packing({ place, parcel, title, madeAt, things: fit }, context.disk, files, context.carry);
      const packed = await context.outside(() => packing.run());
      Object.assign(packed.failed, unfit);
      context.made("copy", context.disk.identity(part)?.ino ?? "");
      context.keep(packed as unknown as Json);
      await expectNameFree(step, context);
      await store.commit(nameOf(part), step.bag);
      markSent(step, packed, context);
      return packed as unknown as Json;
    } catch (error) {
      forgetFiles(step, context);
      try {
        await context.clear();
      } catch {
        // The depot is gone; what it holds of the part never counted.
      }
      throw asProblem(diskProblem(error, { place: step.depotTitle }));
    }
  },
  /** A parcel stays in its depot: taking an archive away is an act of its own. */
  undo() {},
  async settle(step, note, context, direction) {
    if (direction === "undo") return "undone";
    await context.clear();
    const { store } = storeOf(step, context);
    const info = await readWhole(store, joinRaw(step.bag, rawFromText("bag-info.txt")), 1 << 20);
    if (!note || !info || bagIdentifier(info.toString("utf8")) !== step.parcel) {
      forgetFiles(step, context);
      return "undone";
    }
    markSent(step, note as unknown as Packed, context);
    return "done";
  },
};

/** What is known of files that are not sent after all. Those of a parcel that was sent before are known for good. */
function forgetFiles(step: SendStep, { db }: StepContext): void {
  if (readRecord<ParcelRecord>(db, `parcel:${step.parcel}`)?.state !== "sent") new ParcelFiles(db, step.parcel).forget();
}

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

function markSent(step: SendStep, note: Packed, context: StepContext): void {
  context.atCommit(() => {
    const key = `parcel:${step.parcel}`;
    const parcel = readRecord<ParcelRecord>(context.db, key);
    if (!parcel) return;
    const sent: ParcelRecord = {
      ...parcel,
      depot: step.depot,
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
