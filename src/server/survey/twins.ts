import { joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import type { Engine } from "../engine";
import type { SameSize } from "../jobs/work/hash-twins";
import { stateOf } from "../jobs/work/read-worktop";
import { itemsOn } from "./items";
import { filedOnWorktops, protectedPlaces } from "./protection";

interface Candidate {
  path: Raw;
  /** What must differ for it to be looked at again. */
  state: string;
  sha256: string | null;
  save(sha256: string): void;
}

/** Groups of files that were compared, by size, path and state, since this start. */
const compared = new WeakMap<Engine, Map<number, string>>();

/**
 * Computes the SHA-256 of every file that can be identical with another: of those on the worktops, in the homes and in
 * protected places that share their size, then their first and last bytes, then all bytes with another of these. The others are read no further than that.
 */
export async function hashLikelyTwins(engine: Engine): Promise<void> {
  const done = compared.get(engine) ?? new Map<number, string>();
  compared.set(engine, done);
  const saves = new Map<Raw, (sha256: string) => void>();
  const groups: SameSize[] = [];
  for (const [bytes, files] of ofOneSize(engine)) {
    const state = files.map((file) => `${file.path}\0${file.state}`).join("\0");
    if (done.get(bytes) === state || files.every((file) => file.sha256 !== null)) continue;
    done.set(bytes, state);
    groups.push({ bytes, files: files.map(({ path, sha256 }) => ({ path, sha256 })) });
    for (const file of files) if (file.sha256 === null) saves.set(file.path, file.save);
  }
  if (groups.length === 0) return;
  const total = groups.reduce((sum, { bytes, files }) => sum + bytes * files.filter((file) => file.sha256 === null).length, 0);
  await engine.jobs.run("Comparing files of one size", "bytes", total, async (job) => {
    const sums = await engine.workers.run("hashTwins", groups, { part: job.more, signal: job.signal });
    if (job.signal.aborted) for (const { bytes } of groups) done.delete(bytes);
    engine.db.transaction(() => {
      for (const [path, sum] of sums) saves.get(path)?.(sum);
    })();
  });
  engine.events.emit({ type: "changed", what: "items" });
}

/** The files that share their size with another, at least one of them on a worktop. */
function ofOneSize(engine: Engine): Map<number, Candidate[]> {
  const { db, account } = engine;
  const bySize = new Map<number, Candidate[]>();
  const saveItem = db.prepare("UPDATE item SET sha256 = ? WHERE id = ? AND ino = ? AND bytes = ? AND mtime_ns = ?");
  for (const item of account.worktops.flatMap((w) => itemsOn(db, w.id))) {
    const { type, ino, bytes, mtimeNs } = item.identity;
    if (type !== "file" || bytes === 0) continue;
    const candidate: Candidate = {
      path: item.path,
      state: stateOf(item.identity),
      sha256: item.sha256 ?? null,
      save: (sum) => saveItem.run(sum, item.id, ino, bytes, mtimeNs),
    };
    const same = bySize.get(bytes);
    if (same) same.push(candidate);
    else bySize.set(bytes, [candidate]);
  }
  // What lies in folders on the worktops is only compared with what lies in protected places.
  if (protectedPlaces(engine).length > 0)
    for (const { bytes } of filedOnWorktops(engine)) if (bytes > 0 && !bySize.has(bytes)) bySize.set(bytes, []);
  const saveFiled = db.prepare("UPDATE filed SET sha256 = ? WHERE folder = ? AND name = ?");
  const filedOfSize = db.prepare<
    [number],
    { folder_id: number; folder: Buffer; name: Buffer; ino: string; mtime_ns: string; sha256: string | null }
  >("SELECT folder_id, folder, name, ino, mtime_ns, sha256 FROM filed_at WHERE bytes = ?");
  for (const [bytes, files] of bySize) {
    for (const row of filedOfSize.all(bytes))
      files.push({
        path: joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name)),
        state: stateOf({ ino: row.ino, bytes, mtimeNs: row.mtime_ns }),
        sha256: row.sha256,
        save: (sum) => saveFiled.run(sum, row.folder_id, row.name),
      });
    if (files.length < 2) bySize.delete(bytes);
  }
  return bySize;
}
