import type { CheckAnswer, DepotInput, ParcelInput } from "@/contract/depots";
import { pathInManifest, readManifest, tagManifestFile } from "@/core/depots/bagit";
import { Problem } from "@/core/problem";
import type { ProvenFile } from "../disk/carrier";
import { knownPlace } from "../elsewhere";
import type { Engine } from "../engine";
import type { Job } from "../jobs/jobs";
import { allOfIt, countChecked, noteCheck, noteDamage } from "./checks";
import { type Bag, bagOf, depotMeant, isAsSent, type Parcel, parcelMeant, parcels } from "./depots";
import { whileRead } from "./in-hand";
import { ParcelFiles } from "./parcel-files";

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

/** What a check finds is written down in every case: also where the parcel is gone, or it was cut short. */
export const checkParcel = (engine: Engine, parcel: Parcel): Promise<CheckAnswer> =>
  whileRead(engine, parcel, () => checkNow(engine, parcel));

async function checkNow(engine: Engine, parcel: Parcel): Promise<CheckAnswer> {
  const answer: CheckAnswer = { parcel: parcel.title, whole: true, files: 0, bytes: 0, damaged: [], missing: [], elsewhere: [] };
  let bag: Bag;
  try {
    bag = await bagOf(engine, parcel);
  } catch (error) {
    if (!(error instanceof Problem && error.code === "parcel-damaged")) throw error;
    return noted(engine, parcel, { ...answer, missing: [allOfIt] });
  }
  try {
    await engine.jobs.run(
      `Checking “${parcel.title}”`,
      "bytes",
      parcel.bytes ?? 0,
      (job) => read(engine, parcel, bag, answer, job),
      {
        parcel: parcel.id || undefined,
      },
    );
  } catch (error) {
    // What was found until then stands; what was not read is known no better than before.
    const bad = [...answer.damaged, ...answer.missing];
    if (parcel.id && bad.length > 0) noteDamage(engine.db, parcel.id, engine.now(), bad);
    throw error;
  } finally {
    countChecked(engine.db, bag.depot.id, engine.now(), answer.bytes);
    engine.events.emit({ type: "changed", what: "parcels" });
  }
  if (parcel.files !== undefined && answer.damaged.length + answer.missing.length === 0 && answer.files !== parcel.files)
    answer.missing.push(`${parcel.files - answer.files} files that were sent`);
  return noted(engine, parcel, answer);
}

function noted(engine: Engine, parcel: Parcel, found: CheckAnswer): CheckAnswer {
  const bad = [...found.damaged, ...found.missing];
  if (parcel.id) noteCheck(engine.db, parcel.id, engine.now(), bad);
  engine.events.emit({ type: "changed", what: "parcels" });
  const paths = bad.includes(allOfIt) && parcel.id ? new ParcelFiles(engine.db, parcel.id).all().map(({ path }) => path) : bad;
  const elsewhere = paths.slice(0, mostSought).flatMap((path) => {
    const place = knownPlace(engine, parcel.id, path);
    return place ? [{ path, place }] : [];
  });
  return { ...found, whole: bad.length === 0, elsewhere };
}

/** Of so many files it is said where their content still lies. */
const mostSought = 1000;

async function read(engine: Engine, parcel: Parcel, bag: Bag, answer: CheckAnswer, job: Job): Promise<void> {
  const sums = new Map<string, string>();
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
    for (const [written, sum] of manifest.sums) sums.set(pathInManifest(written), sum);
  }
  // Nor those of its files.
  if (parcel.id && !parcel.found)
    for (const { path, sha256 } of new ParcelFiles(engine.db, parcel.id).all()) if (sha256 !== null) sums.set(path, sha256);
  await readBack(engine, bag, sums, answer, job);
}

const batch = 500;

async function readBack(
  engine: Engine,
  bag: Bag,
  sums: ReadonlyMap<string, string>,
  answer: CheckAnswer,
  job: Job,
): Promise<void> {
  const link = engine.carrier();
  const parcel = { depot: bag.depot.address, folder: bag.folder };
  const all = [...sums].map(([path, sha256]): ProvenFile => ({ path, sha256, bytes: Number.MAX_SAFE_INTEGER }));
  try {
    for (let n = 0; n < all.length; n += batch)
      await link.carry(
        "prove",
        { parcel, files: all.slice(n, n + batch) },
        {
          signal: job.signal,
          breath: () => job.breath(),
          step: (bytes) => {
            answer.bytes += bytes;
            return job.step(bytes);
          },
          told(file) {
            if (!("problem" in file)) answer.files += file.path.startsWith("data/") ? 1 : 0;
            else (file.problem.code === "vanished" ? answer.missing : answer.damaged).push(file.path);
          },
        },
      );
  } finally {
    await link.end();
  }
}
