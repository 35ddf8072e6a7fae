import Database from "better-sqlite3";
import type { BrowseAnswer } from "@/contract/depots";
import { type ParcelThingJson, parcelThings } from "@/contract/parcel";
import { rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { distinct, filesWith, listed, type NamedThing, partsNamed, wordsOf } from "../../depots/contents";
import { type TagFile, tagFilesOf } from "../../depots/tag-files";
import type { WorkContext } from "../work-context";

/** What the record keeps of a parcel, from its beginning; `record` is only read. */
interface InRecord {
  record: string;
  parcel: string;
}

function* thingsKept(db: Database.Database, parcel: string): Generator<Omit<NamedThing, "entries"> & { list: string }> {
  const rows = db.prepare<[string], { name: Buffer; folder: Buffer; entries: string }>(
    `SELECT name, folder, entries FROM parcel_thing
     WHERE parcel = ? AND problem IS NULL AND entries IS NOT NULL ORDER BY payload`,
  );
  for (const { name, folder, entries } of rows.iterate(parcel))
    yield { name: shownName(rawFromBytes(name)), folder: shownName(rawFromBytes(folder)), list: entries };
}

function reading<T>(record: string, work: (db: Database.Database) => T): T {
  const db = new Database(record, { readonly: true, fileMustExist: true });
  try {
    return work(db);
  } finally {
    db.close();
  }
}

/** What a parcel's bag says of itself: the files for that, the tag manifest last. */
export async function tagFiles({
  record,
  ...parcel
}: {
  record: string;
  id: string;
  title: string;
  at: number;
}): Promise<TagFile[]> {
  return reading(record, (db) => tagFilesOf(db, parcel));
}

/** What lies in a folder of a parcel; null where the record knows nothing of the parcel. @throws Problem "vanished" */
export async function listInParcel({
  record,
  parcel,
  folder,
  most,
}: InRecord & { folder: string; most: number }): Promise<Pick<BrowseAnswer, "entries" | "more"> | null> {
  return reading(record, (db) => {
    const things = [...thingsKept(db, parcel)];
    if (things.length === 0) return null;
    const named = distinct(things).flatMap(({ name, list, ...thing }): NamedThing[] =>
      // Nothing of the others is asked about.
      folder === "" || folder === name || folder.startsWith(`${name}/`) ? [{ ...thing, name, entries: JSON.parse(list) }] : [],
    );
    const found = listed(named, folder, most);
    if (!found) throw new Problem("vanished", { name: folder });
    return found;
  });
}

/** A file that was found in a parcel. */
export interface FoundFile {
  parcel: string;
  path: string;
  bytes: number;
}

/** The files of parcels in whose path every word is, so many at most, and how many more there are. Tells of each parcel that it was looked through. */
export async function findInParcels(
  { record, parcels, search, most }: { record: string; parcels: string[]; search: string; most: number },
  context: WorkContext,
): Promise<{ found: FoundFile[]; more: number }> {
  const words = wordsOf(search);
  return reading(record, (db) => {
    const found: FoundFile[] = [];
    let more = 0;
    for (const parcel of parcels) {
      for (const { list, ...thing } of distinct([...thingsKept(db, parcel)])) {
        if (context.cancelled()) throw new Problem("cancelled", { name: "Looking through parcels" });
        for (const file of filesWith(words, [{ ...thing, entries: JSON.parse(list) }]))
          if (found.length < most) found.push({ parcel, ...file });
          else more++;
      }
      context.tell(1);
    }
    return { found, more };
  });
}

/**
 * A bag's own list, read from its text; with `names` only what is called so, and which of them are not there.
 *
 * @throws Problem "parcel-damaged" where it cannot be read
 */
export async function readParcelList({
  text,
  title,
  names,
}: {
  text: string;
  title: string;
  names?: string[];
}): Promise<{ things: ParcelThingJson[]; missing: string[] }> {
  const damaged = (detail: string) => new Problem("parcel-damaged", { place: title, detail });
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    throw damaged("its list of things cannot be read");
  }
  const list = parcelThings.safeParse(json);
  if (!list.success) throw damaged("its list of things is not as it should be");
  const { things } = list.data;
  return names ? partsNamed(things, names) : { things, missing: [] };
}
