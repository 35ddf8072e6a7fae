import type { CheckAnswer, DepotInput, ParcelInput } from "@/contract/depots";
import { pathInManifest, readManifest, tagManifestFile } from "@/core/depots/bagit";
import { joinRaw, rawFromBytes, shownName } from "@/core/names/raw";
import { fromAccount } from "../account";
import { prepared } from "../db/prepared";
import type { ProvenFile } from "../disk/carrier";
import type { Engine } from "../engine";
import { countChecked, noteCheck } from "./checks";
import { type Bag, bagOf, depotMeant, isAsSent, type Parcel, parcelMeant, parcels } from "./depots";

/** Reads every file of a sent parcel from its depot and compares it with the manifest. Changes nothing there. */
export async function check(engine: Engine, input: ParcelInput): Promise<CheckAnswer> {
  return checkParcel(engine, await parcelMeant(engine, input.parcel));
}

/** The same with each parcel of a depot, one after the other. */
export async function checkDepot(engine: Engine, input: DepotInput): Promise<CheckAnswer[]> {
  const depot = depotMeant(engine, input.depot);
  await depot.store.reach();
  const answers: CheckAnswer[] = [];
  for (const parcel of parcels(engine))
    if (parcel.depot === depot.id && parcel.state === "sent") answers.push(await checkParcel(engine, parcel));
  return answers;
}

const manifestFile = "manifest-sha256.txt";

export async function checkParcel(engine: Engine, parcel: Parcel): Promise<CheckAnswer> {
  const bag = await bagOf(engine, parcel);
  const answer: CheckAnswer = { parcel: parcel.title, whole: true, files: 0, bytes: 0, damaged: [], missing: [], elsewhere: [] };
  const sums = new Map<string, string>();
  await engine.jobs.run(
    `Checking “${parcel.title}”`,
    "bytes",
    parcel.bytes ?? 0,
    async (job) => {
      for (const name of [tagManifestFile, manifestFile]) {
        const text = await bag.text(name);
        if (text === undefined) {
          // Another program's bag may have none for its tag files.
          if (name === manifestFile || !parcel.found) answer.missing.push(name);
          continue;
        }
        const manifest = readManifest(text);
        // Whoever changes a parcel can make its checksums anew, but not the one that our record keeps.
        const changed = name === tagManifestFile && parcel.tags !== undefined && !(await isAsSent(bag, parcel));
        if (changed || manifest.damaged.length > 0) answer.damaged.push(name);
        for (const [path, sum] of manifest.sums) sums.set(path, sum);
      }
      await readBack(engine, bag, sums, answer, {
        step: (n) => job.step(n),
        breath: () => job.breath(),
        signal: job.signal,
      });
    },
    { parcel: parcel.id || undefined },
  );
  if (parcel.files !== undefined && answer.damaged.length + answer.missing.length === 0 && answer.files !== parcel.files)
    answer.missing.push(`${parcel.files - answer.files} files that were sent`);
  answer.whole = answer.damaged.length === 0 && answer.missing.length === 0;
  answer.elsewhere = [...answer.damaged, ...answer.missing].flatMap((path) => {
    const sum = sums.get(path);
    const place = sum && elsewhere(engine, parcel.id, sum);
    return place ? [{ path, place }] : [];
  });
  if (parcel.id) noteCheck(engine.db, parcel.id, engine.now(), [...answer.damaged, ...answer.missing]);
  countChecked(engine.db, bag.depot.id, engine.now(), answer.bytes);
  engine.events.emit({ type: "changed", what: "parcels" });
  return answer;
}

const batch = 500;

async function readBack(
  engine: Engine,
  bag: Bag,
  sums: ReadonlyMap<string, string>,
  answer: CheckAnswer,
  pace: Parameters<ReturnType<Engine["carrier"]>["carry"]>[2],
): Promise<void> {
  const link = engine.carrier();
  const parcel = { depot: bag.depot.address, folder: bag.folder };
  const all = [...sums].map(([written, sha256]) => ({ written, path: pathInManifest(written), sha256 }));
  try {
    for (let n = 0; n < all.length; n += batch) {
      const part = all.slice(n, n + batch);
      const writtenOf = new Map(part.map(({ path, written }) => [path, written]));
      const files = part.map(({ path, sha256 }): ProvenFile => ({ path, sha256, bytes: Number.MAX_SAFE_INTEGER }));
      let read = 0;
      await link.carry(
        "prove",
        { parcel, files },
        {
          ...pace,
          step: (bytes) => {
            read += bytes;
            return pace.step(bytes);
          },
          told: (file) => {
            const written = writtenOf.get(file.path)!;
            if (!("problem" in file)) answer.files += file.path.startsWith("data/") ? 1 : 0;
            else (file.problem.code === "vanished" ? answer.missing : answer.damaged).push(written);
          },
        },
      );
      answer.bytes += read;
    }
  } finally {
    await link.end();
  }
}

/** Where content of that checksum still lies, as far as it is known: in another parcel, in a home, or on a worktop. */
function elsewhere(engine: Engine, parcel: string, sha256: string): string | undefined {
  const { db } = engine;
  const other = prepared<[string, string], string>(
    db,
    "SELECT parcel FROM parcel_file WHERE sha256 = ? AND parcel <> ? AND state <> 'waiting' LIMIT 1",
  )
    .pluck()
    .get(sha256, parcel);
  const title = other && parcels(engine).find(({ id, state }) => id === other && state === "sent")?.title;
  if (title) return `the parcel “${title}”`;
  const row = prepared<[string, string], { folder: Buffer; name: Buffer }>(
    db,
    `SELECT folder, name FROM filed_at WHERE sha256 = ?
     UNION ALL SELECT folder, name FROM item WHERE sha256 = ? AND type = 'file' AND worktop IS NOT NULL AND seen = 1 LIMIT 1`,
  ).get(sha256, sha256);
  return row && fromAccount(engine.account, shownName(joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name))));
}
