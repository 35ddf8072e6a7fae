import type { Json } from "@/core/ledger/shapes";
import type { SendStep } from "@/core/ledger/steps/send";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type ParcelRecord, readRecord, writeRecord } from "../../db/record";
import { addressOf } from "../../depots/address";
import { noteCheck } from "../../depots/checks";
import { withStore } from "../../depots/kinds/kinds";
import { type Packed, packedOf } from "../../depots/packed";
import { ParcelFiles } from "../../depots/parcel-files";
import { sendingRow } from "../../depots/sending-row";
import { isOurs } from "../../depots/tags";
import type { StepContext, StepKind } from "../step-kind";

/** What is known of a parcel that has arrived; throws where it has not, or was sent before. */
function expectArrived(step: SendStep, { db }: StepContext): Packed {
  const row = sendingRow(db, step.parcel);
  if (!row) throw new Problem("name-taken", { name: shownName(step.bag), place: step.depotTitle });
  const { files, proven } = new ParcelFiles(db, step.parcel).howFar();
  if (row.stage !== "named" || row.tags === null || proven !== files) throw new Problem("not-verified", { name: step.title });
  return packedOf(db, step.parcel);
}

/** What is given back otherwise once may be right the next time; what is not there is not. */
const mostTries = 3;

/** A parcel that was read back counts as sent. It is looked at once more that it stands under its name. */
export const send: StepKind<SendStep> = {
  check(step, context) {
    expectArrived(step, context);
  },
  async do(step, context) {
    const packed = expectArrived(step, context);
    const address = addressOf(context, step.depot, step.depotTitle);
    await context.outside(() =>
      withStore(
        address,
        context.disk,
        async (store) => {
          for (let tries = 1; !(await isOurs(store, step.bag, step.parcel, packed.tags)); tries++)
            if (tries === mostTries) throw new Problem("not-verified", { name: step.title });
        },
        context.stop(),
      ),
    );
    context.keep(packed as unknown as Json);
    markSent(step, packed, context);
    return packed as unknown as Json;
  },
  /** A parcel stays in its depot: taking an archive away is an act of its own. */
  undo() {},
  async settle(_step, note, context, direction) {
    if (direction === "undo") return "undone";
    // Of a sending that an older Vuoto was in the middle of.
    await context.clear();
    // Not marked as sent: the act is taken back, and done again when the sending goes on.
    return note ? "done" : "undone";
  },
};

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
    noteCheck(context.db, step.parcel, context.now(), []);
  });
}
