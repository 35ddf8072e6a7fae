import Database from "better-sqlite3";
import { isWithin, joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import type { WorkContext } from "../work-context";
import { hashTwins, type SameSize } from "./hash-twins";
import { stateOf } from "./read-worktop";

/** A file that may have a twin: `filed` its id where it lies in a folder that was walked, else it is a thing on a worktop. */
interface Candidate {
  path: Raw;
  /** What must differ for it to be looked at again. */
  state: string;
  sha256: string | null;
  filed?: number;
}

export interface FindTwins {
  /** The record, which is only read. */
  record: string;
  things: { path: Raw; bytes: number; state: string; sha256: string | null }[];
  /** The worktops: what lies in folders on them is compared too, where it has at least so many bytes. */
  inFolders: Raw[];
  leastInFolders: number;
  /** Groups that were compared before, by size: their files and states. */
  done: Map<number, string>;
}

export interface FoundTwins {
  things: [path: Raw, sha256: string][];
  filed: [id: number, sha256: string][];
  /** The groups compared now. */
  done: Map<number, string>;
}

/** What is told on the way: how many bytes there are to read, and how many more were. */
export type FindingTwins = { of: number } | number;

/**
 * Finds, among the things on the worktops and the files known elsewhere, those that share their size, and hashes those that
 * are identical with another. Groups in a state in which they were compared before are passed over.
 */
export async function findTwins(asked: FindTwins, context: WorkContext): Promise<FoundTwins> {
  const groups: SameSize[] = [];
  const where = new Map<Raw, Candidate>();
  const done = new Map<number, string>();
  let total = 0;
  for (const [bytes, files] of ofOneSize(asked)) {
    if (files.every((file) => file.sha256 !== null)) continue;
    const state = files.map((file) => `${file.path}\0${file.state}`).join("\0");
    if (asked.done.get(bytes) === state) continue;
    done.set(bytes, state);
    groups.push({ bytes, files: files.map(({ path, sha256 }) => ({ path, sha256 })) });
    for (const file of files) if (file.sha256 === null) where.set(file.path, file);
    total += bytes * files.filter((file) => file.sha256 === null).length;
  }
  const found: FoundTwins = { things: [], filed: [], done };
  if (groups.length === 0) return found;
  context.tell({ of: total } satisfies FindingTwins);
  for (const [path, sum] of await hashTwins(groups, context)) {
    const { filed } = where.get(path)!;
    if (filed !== undefined) found.filed.push([filed, sum]);
    else found.things.push([path, sum]);
  }
  return found;
}

/** The files that share their size with another, at least one of them on a worktop. */
function ofOneSize({ record, things, inFolders, leastInFolders }: FindTwins): Map<number, Candidate[]> {
  const bySize = new Map<number, Candidate[]>();
  for (const { bytes, ...candidate } of things) {
    if (bytes === 0) continue;
    const same = bySize.get(bytes);
    if (same) same.push(candidate);
    else bySize.set(bytes, [candidate]);
  }
  const db = new Database(record, { readonly: true, fileMustExist: true });
  try {
    const onWorktops = db.prepare<[number], { folder: Buffer; bytes: number }>(
      "SELECT DISTINCT folder, bytes FROM filed_at WHERE home = 0 AND bytes >= ?",
    );
    for (const { folder, bytes } of onWorktops.iterate(leastInFolders))
      if (!bySize.has(bytes) && inFolders.some((worktop) => isWithin(worktop, rawFromBytes(folder)))) bySize.set(bytes, []);
    const ofSize = db.prepare<
      [number],
      { id: number; folder: Buffer; name: Buffer; ino: string; mtime_ns: string; sha256: string | null }
    >("SELECT id, folder, name, ino, mtime_ns, sha256 FROM filed_at WHERE bytes = ?");
    for (const [bytes, files] of bySize) {
      for (const row of ofSize.iterate(bytes))
        files.push({
          path: joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name)),
          state: stateOf({ ino: row.ino, bytes, mtimeNs: row.mtime_ns }),
          sha256: row.sha256,
          filed: row.id,
        });
      if (files.length < 2) bySize.delete(bytes);
    }
  } finally {
    db.close();
  }
  return bySize;
}
