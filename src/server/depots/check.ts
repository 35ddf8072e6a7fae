import type { CheckAnswer, CheckInput } from "@/contract/depots";
import { pathInManifest, readManifest, tagManifestFile } from "@/core/depots/bagit";
import { Problem } from "@/core/problem";
import { sumOf } from "../disk/tree";
import type { Engine } from "../engine";
import { bagOf, isAsSent, parcelMeant } from "./depots";

/** Reads every file of a sent parcel from its depot and compares it with the manifest. Changes nothing. */
export async function check(engine: Engine, input: CheckInput): Promise<CheckAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  const bag = await bagOf(engine, parcel);
  const answer: CheckAnswer = { parcel: parcel.title, whole: true, files: 0, bytes: 0, damaged: [], missing: [] };
  await engine.jobs.run(
    `Checking “${parcel.title}”`,
    "bytes",
    parcel.bytes ?? 0,
    async (job) => {
      for (const name of [tagManifestFile, "manifest-sha256.txt"]) {
        const text = await bag.text(name);
        if (!text) {
          answer.missing.push(name);
          continue;
        }
        const { sums, damaged } = readManifest(text);
        // Whoever changes a parcel can make its checksums anew, but not the one that our record keeps.
        if (name === tagManifestFile && parcel.tags !== undefined && !(await isAsSent(bag, parcel))) damaged.push(name);
        if (damaged.length > 0) answer.damaged.push(name);
        for (const [path, sum] of sums) {
          const place = bag.at(pathInManifest(path));
          const stat = await bag.depot.store.stat(place);
          if (!stat) answer.missing.push(path);
          else if ((await sumOf(bag.depot.store.read(place), job).catch(unreadable)) !== sum) answer.damaged.push(path);
          else if (path.startsWith("data/")) {
            answer.files++;
            answer.bytes += stat.bytes;
          }
        }
      }
    },
    { parcel: parcel.id },
  );
  if (parcel.files !== undefined && answer.damaged.length + answer.missing.length === 0 && answer.files !== parcel.files)
    answer.missing.push(`${parcel.files - answer.files} files that were sent`);
  answer.whole = answer.damaged.length === 0 && answer.missing.length === 0;
  return answer;
}

function unreadable(error: unknown): string {
  if (error instanceof Problem && error.code === "cancelled") throw error;
  return "";
}
