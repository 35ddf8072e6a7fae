import type { DeleteAnswer, ParcelDeleteInput } from "@/contract/depots";
import { asRuns, inRuns } from "@/core/depots/runs";
import { rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { goneNow } from "../actor";
import { type Content, destroying, Elsewhere, type FarCopy, originalInTrash, readFar } from "../elsewhere";
import type { Engine } from "../engine";
import { temporaryName } from "../ledger/temporaries";
import { bagOf, type Parcel, parcelMeant } from "./depots";
import { whileDeleted } from "./in-hand";
import { ParcelFiles } from "./parcel-files";
import { sendingRow, sendingRows } from "./sending-row";
import { tagsOf } from "./tags";

/**
 * Deletes a parcel in its depot: what destroys, beside emptying the trash. Says first how many files and bytes that is, and
 * what of it lies nowhere else, or where that is not known. What was shown must be what is there, and the copies that are to
 * remain are read whole before.
 */
export function deleteParcel(engine: Engine, input: ParcelDeleteInput): Promise<DeleteAnswer> {
  return input.dryRun ? deleteNow(engine, input) : destroying(engine, () => deleteNow(engine, input));
}

async function deleteNow(engine: Engine, input: ParcelDeleteInput): Promise<DeleteAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  const bag = await bagOf(engine, parcel);
  if (parcel.id === "") throw new Problem("parcel-stranger", { place: parcel.title });
  if (sendingRow(engine.db, parcel.id)) throw new Problem("on-its-way", { name: parcel.title });
  const what = { files: parcel.files ?? 0, bytes: parcel.bytes ?? 0 };
  const agreed = input.seen === undefined ? undefined : agreedIn(input.seen);
  if (agreed && (agreed.files !== what.files || agreed.bytes !== what.bytes))
    throw new Problem("changed", { name: parcel.title });
  const { depot, folder } = bag;
  const tags = await tagsOf(depot.store, folder);
  const { lost, uncopied } = await lostWith(engine, parcel, { whole: !input.dryRun, network: input.network });
  // Others than were said: a copy that was to remain is not, or no longer, as it should be.
  const mayGo = (file: number, why: Uncopied) =>
    agreed?.nowhereElse(file) || (agreed?.[why](file) && !(why === "far" && input.network));
  const gone = uncopiedAs.flatMap((why) => uncopied[why].filter((file) => !mayGo(file, why))).length;
  if (!input.dryRun && gone > 0)
    throw new Problem("copy-gone", {
      name: parcel.title,
      detail: `of ${engine.words().counted(gone, "file")} in it no copy was found that is whole`,
    });
  const aside = rawFromText(temporaryName());
  const deleting = () =>
    perform(
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
  const report = await (input.dryRun ? deleting() : whileDeleted(engine, parcel, deleting));
  // It has lost its name; what lay under it goes now.
  const removal = sendingRows(engine.db).find(({ part }) => part === aside);
  if (removal) await engine.sendings.removed(removal.parcel);
  return {
    ...report,
    ...what,
    ...lost,
    seen: [what.files, what.bytes, ...uncopiedAs.map((why) => asRuns(uncopied[why]))].join(";"),
  };
}

/** Why no copy of a file is sure. */
const uncopiedAs = ["nowhereElse", "inTrash", "notKnown", "far"] as const;
type Uncopied = (typeof uncopiedAs)[number];

/** What was shown of a parcel: its files and bytes, and by their numbers in its list those of which no copy is sure, and why. */
function agreedIn(seen: string) {
  const [files, bytes, nowhereElse = "", inTrash = "", notKnown = "", far = ""] = seen.split(";");
  return {
    files: Number(files),
    bytes: Number(bytes),
    nowhereElse: inRuns(nowhereElse),
    inTrash: inRuns(inTrash),
    notKnown: inRuns(notKnown),
    far: inRuns(far),
  };
}

interface Losses {
  lost: Pick<DeleteAnswer, Uncopied>;
  /** By their numbers in the parcel's list. */
  uncopied: Record<Uncopied, number[]>;
}

/** What would be lost with a parcel; `whole`: the copies that remain are read whole, in clouds where that is wanted. */
async function lostWith(
  engine: Engine,
  parcel: Parcel,
  { whole, network = false }: { whole: boolean; network?: boolean },
): Promise<Losses> {
  const nothing = () => ({ files: 0, bytes: 0 });
  const lost = { nowhereElse: nothing(), inTrash: nothing(), notKnown: { ...nothing(), why: [] as string[] }, far: nothing() };
  const uncopied: Losses["uncopied"] = { nowhereElse: [], inTrash: [], notKnown: [], far: [] };
  const words = `Looking for copies of what is in “${parcel.title}”`;
  await engine.jobs.run(words, "bytes", 0, async (job) => {
    const gone = goneNow();
    const pace = gone ? { ...job, signal: AbortSignal.any([gone, job.signal]) } : job;
    const elsewhere = new Elsewhere(engine, { pace, except: parcel.id, whole });
    const why = new Set<string>();
    const far: { file: number; copy: FarCopy }[] = [];
    const distinct = new Map<string, { file: number; item: string; content?: Content }>();
    const inTrash = new Map<string, boolean>();
    const files = new ParcelFiles(engine.db, parcel.id).all();
    // An older Vuoto sent it, and did not write down what is in it.
    if (files.length === 0) {
      lost.notKnown = { files: parcel.files ?? 0, bytes: parcel.bytes ?? 0, why: ["what is in it is in no list of Vuoto's"] };
      uncopied.notKnown.push(0);
      return;
    }
    for (const [file, { path, item, bytes, sha256 }] of files.entries())
      if (!distinct.has(sha256 ?? path))
        distinct.set(sha256 ?? path, { file, item, content: sha256 === null ? undefined : { bytes, sha256 } });
    const count = (file: number, why: Uncopied, bytes: number) => {
      lost[why].files++;
      lost[why].bytes += bytes;
      uncopied[why].push(file);
    };
    for (const { file, item, content } of distinct.values()) {
      const pause = pace.breath();
      if (pause) await pause;
      if (pace.signal.aborted) throw new Problem("cancelled", { name: words });
      const where = content ? await elsewhere.of(content) : { known: "nowhere" as const };
      if (content?.bytes === 0) continue;
      if (!inTrash.has(item)) inTrash.set(item, originalInTrash(engine, item));
      if (where.known === "nowhere") count(file, inTrash.get(item) ? "inTrash" : "nowhereElse", content?.bytes ?? 0);
      else if (where.known === "unsure") {
        count(file, "notKnown", content!.bytes);
        why.add(where.why);
      } else if ("far" in where && where.far) far.push({ file, copy: where.far });
    }
    const copies = far.map(({ copy }) => copy);
    const read = whole && network ? await readFar(engine, copies, job) : new Set<string>();
    for (const { file, copy } of far)
      if (!read.has(copy.sha256)) count(file, whole && network ? "nowhereElse" : "far", copy.bytes);
    lost.notKnown.why = [...why].slice(0, mostSaid);
  });
  return { lost, uncopied };
}

const mostSaid = 5;
