import type { DeleteAnswer, ParcelDeleteInput } from "@/contract/depots";
import { rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { prepared } from "../db/prepared";
import type { Engine } from "../engine";
import { temporaryName } from "../ledger/temporaries";
import { bagOf, parcelMeant } from "./depots";
import { tagsOf } from "./tags";

/**
 * Deletes a parcel in its depot: what destroys, beside emptying the trash. Says first how many files and bytes that is, and
 * what of it lies nowhere else. What was shown must be what is there.
 */
export async function deleteParcel(engine: Engine, input: ParcelDeleteInput): Promise<DeleteAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  const bag = await bagOf(engine, parcel);
  if (parcel.id === "") throw new Problem("parcel-stranger", { place: parcel.title });
  const what = { files: parcel.files ?? 0, bytes: parcel.bytes ?? 0 };
  if (input.seen && (input.seen.files !== what.files || input.seen.bytes !== what.bytes))
    throw new Problem("changed", { name: parcel.title });
  const { depot, folder } = bag;
  const tags = await tagsOf(depot.store, folder);
  const nowhereElse = lostWith(engine, parcel.id);
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
          aside: rawFromText(temporaryName()),
          files: what.files,
        },
      ],
      left: [],
    }),
    { trial: input.dryRun },
  );
  // It has lost its name; what lay under it goes now.
  if (report.entry !== null) await engine.sendings.removed(parcel.id);
  return { ...report, ...what, nowhereElse };
}

/** The files of a parcel whose content is known to lie nowhere else: not in another parcel, a home, a worktop or the trash. */
function lostWith({ db }: Engine, parcel: string): DeleteAnswer["nowhereElse"] {
  return prepared<[string, string], { files: number; bytes: number }>(
    db,
    `SELECT count(*) AS files, coalesce(sum(bytes), 0) AS bytes FROM (
       SELECT DISTINCT sha256, bytes FROM parcel_file AS own WHERE parcel = ?
         AND NOT EXISTS (SELECT 1 FROM parcel_file AS other WHERE other.sha256 = own.sha256 AND other.parcel <> ? AND other.state <> 'waiting')
         AND NOT EXISTS (SELECT 1 FROM filed WHERE filed.sha256 = own.sha256)
         AND NOT EXISTS (SELECT 1 FROM item WHERE item.sha256 = own.sha256 AND item.type = 'file' AND item.worktop IS NOT NULL AND item.seen = 1))`,
  ).get(parcel, parcel)!;
}
