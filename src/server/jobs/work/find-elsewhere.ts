import Database from "better-sqlite3";
import { isWithin, type Raw, rawFromBytes } from "@/core/names/raw";

export interface FindElsewhere {
  /** The record, which is only read. */
  record: string;
  /** The backed-up places. */
  places: Raw[];
  /** The checksums of the things that are files. */
  sums: string[];
  /** The things that are folders. */
  folders: Raw[];
}

/** What of the things has an identical copy in a backed-up place, as far as the walk of them tells. */
export interface FoundElsewhere {
  /** Of the checksums asked about, those that lie there. */
  sums: Set<string>;
  /** Of each folder in which files lie, whether each of them has a copy there. */
  folders: Map<Raw, boolean>;
}

/** Looks which checksums lie in backed-up places, and of which folders all files do. An empty file has nothing to lose. */
export async function findElsewhere({ record, places, sums, folders }: FindElsewhere): Promise<FoundElsewhere> {
  const db = new Database(record, { readonly: true, fileMustExist: true });
  try {
    const there = new Set<string>();
    const protectedFolders = db.prepare<[], { id: number; place: Buffer }>("SELECT id, place FROM folder").all();
    const sumsIn = db.prepare<[number], string>("SELECT sha256 FROM filed WHERE folder = ? AND sha256 IS NOT NULL").pluck();
    for (const { id, place } of protectedFolders)
      if (places.some((root) => isWithin(root, rawFromBytes(place)))) for (const sum of sumsIn.iterate(id)) there.add(sum);
    const wanted = new Set(folders);
    const found = new Map<Raw, boolean>();
    const filesIn = db.prepare<[number], { bytes: number; sha256: string | null }>(
      "SELECT bytes, sha256 FROM filed WHERE folder = ? AND bytes > 0",
    );
    for (const { id, place } of protectedFolders) {
      const item = itemAbove(rawFromBytes(place), wanted);
      if (item === undefined || found.get(item) === false) continue;
      for (const { sha256 } of filesIn.iterate(id)) {
        const copied = sha256 !== null && there.has(sha256);
        found.set(item, copied && (found.get(item) ?? true));
        if (!copied) break;
      }
    }
    return { sums: new Set(sums.filter((sum) => there.has(sum))), folders: found };
  } finally {
    db.close();
  }
}

/** The thing that a folder is, or lies in. */
export function itemAbove(folder: Raw, things: ReadonlySet<Raw>): Raw | undefined {
  for (let at = folder; at !== ""; at = at.slice(0, at.lastIndexOf("/")) as Raw) if (things.has(at)) return at;
  return undefined;
}
