import type { DeleteAnswer, ParcelDeleteInput } from "@/contract/depots";
import { rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { goneNow } from "../actor";
import type { Engine } from "../engine";
import { temporaryName } from "../ledger/temporaries";
import { protectedPlaces } from "../survey/protection";
import { lastCheck } from "./checks";
import { bagOf, parcelMeant, parcels } from "./depots";
import { sendingRow, sendingRows } from "./sending-row";
import { tagsOf } from "./tags";

/**
 * Deletes a parcel in its depot: what destroys, beside emptying the trash. Says first how many files and bytes that is, and
 * what of it lies nowhere else. What was shown must be what is there.
 */
export async function deleteParcel(engine: Engine, input: ParcelDeleteInput): Promise<DeleteAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  const bag = await bagOf(engine, parcel);
  if (parcel.id === "") throw new Problem("parcel-stranger", { place: parcel.title });
  if (sendingRow(engine.db, parcel.id)) throw new Problem("on-its-way", { name: parcel.title });
  const what = { files: parcel.files ?? 0, bytes: parcel.bytes ?? 0 };
  if (input.seen && (input.seen.files !== what.files || input.seen.bytes !== what.bytes))
    throw new Problem("changed", { name: parcel.title });
  const { depot, folder } = bag;
  const tags = await tagsOf(depot.store, folder);
  const nowhereElse = await lostWith(engine, parcel.id);
  const aside = rawFromText(temporaryName());
  const report = await perform(
    engine,
    `Deleting “${parcel.title}”`,
    () => ({
      act: "parcel-delete",
      words: () => `Deleted the parcel “${parcel.title}” in ${depot.title}, with ${engine.words().counted(what.files, "file")}`,
      steps: [
        {
          type: "delete-parcel",
          parcel: parcel.id,
          title: parcel.title,
          depot: depot.id,
          depotTitle: depot.title,
          bag: folder,
          tags: tags ?? null,
          aside,
          files: what.files,
        },
      ],
      left: [],
    }),
    { trial: input.dryRun },
  );
  // It has lost its name; what lay under it goes now.
  const removal = sendingRows(engine.db).find(({ part }) => part === aside);
  if (removal) await engine.sendings.removed(removal.parcel);
  return { ...report, ...what, nowhereElse };
}

/**
 * The files of a parcel whose content is known to lie nowhere else: in no other parcel that arrived and is whole as far as it was
 * read, on no worktop, and in no home that is not merely synchronised.
 */
function lostWith(engine: Engine, parcel: string): Promise<DeleteAnswer["nowhereElse"]> {
  const { db } = engine;
  const whole = parcels(engine)
    .filter((one) => one.id !== parcel && one.state === "sent" && !one.found && !lastCheck(db, one.id)?.damaged.length)
    .map(({ id }) => id);
  const places = protectedPlaces(engine).map(({ folder, protection }) => ({
    folder,
    synchronised: protection === "synchronised",
  }));
  return engine.workers.run("lostWithParcel", { record: db.name, parcel, whole, places }, { signal: goneNow() });
}
