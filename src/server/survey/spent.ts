import { shownPlace } from "@/core/ledger/step-type";
import { nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Unpacked } from "@/core/survey/findings";
import type { Engine, Reading } from "../engine";
import { gentle } from "../jobs/gentle";
import type { ArchiveCompared } from "../jobs/work/compare-archive";
import { stateOf } from "../jobs/work/read-worktop";
import { type Item, thingsOn } from "./items";

const mostFolders = 6;
const shortestName = 3;

/** "logger.tar.gz" is about "logger". */
const subjectOf = (name: Raw) => name.replace(/\.(tar\.gz|tgz|tar|zip)$/i, "").toLowerCase();

const outcomeOf = (engine: Engine, item: string) => {
  const row = engine.db
    .prepare<[string], { state: string; outcome: string }>("SELECT state, outcome FROM compared WHERE item = ?")
    .get(item);
  return row && { state: row.state, outcome: JSON.parse(row.outcome) as ArchiveCompared };
};

/** Compares each archive on the worktops with the folders of a like name beside it and in the homes, once for each state. */
export async function compareArchives(engine: Engine): Promise<void> {
  const items = engine.account.worktops.flatMap((w) => thingsOn(engine.db, w.id));
  const archives = items.filter(({ kind, identity }) => kind === "archive" && identity.type === "file");
  const beside = archives.map((item) => ({ item, folders: foldersLike(engine, item, items) }));
  const states = await statesOf(engine, new Set(beside.flatMap(({ folders }) => folders)));
  if (engine.closing) return;
  const due = beside.flatMap(({ item, folders }) => {
    const state = [stateOf(item.identity), ...folders.map((folder) => `${folder}:${states.get(folder)}`)].join();
    return outcomeOf(engine, item.id)?.state === state ? [] : [{ item, folders, state }];
  });
  if (due.length === 0) return;
  const keep = engine.db.prepare(
    "INSERT INTO compared VALUES (?, ?, ?) ON CONFLICT (item) DO UPDATE SET state = excluded.state, outcome = excluded.outcome",
  );
  const total = due.reduce((sum, { item }) => sum + item.identity.bytes, 0);
  await engine.jobs.run("Comparing archives with what lies beside them", "bytes", total, async (job) => {
    for (const { item, folders, state } of due) {
      const outcome = await engine.workers.run("compareArchive", { archive: item.path, folders }, { signal: job.signal });
      if (job.signal.aborted) return;
      keep.run(item.id, state, JSON.stringify(outcome));
      job.more(item.identity.bytes);
    }
  });
  engine.events.emit({ type: "changed", what: "items" });
}

/** The states of folders with all that lies in them, each walked once, on a thread of its own; undefined of what cannot be read. */
async function statesOf(engine: Engine, folders: ReadonlySet<Raw>): Promise<Map<Raw, string | undefined>> {
  const states = new Map<Raw, string | undefined>();
  if (folders.size === 0) return states;
  const link = engine.carrier();
  try {
    for (const path of folders)
      states.set(
        path,
        await link.carry("state", { path, watched: "none" }, { ...gentle(), signal: engine.ending }).catch(unknown),
      );
  } finally {
    await link.end();
  }
  return states;
}

function unknown(error: unknown): undefined {
  if (!(error instanceof Problem)) throw error;
}

function foldersLike(engine: Reading, archive: Item, items: readonly Item[]): Raw[] {
  const stem = subjectOf(archive.name);
  // One of the very name first, then those that share most of it.
  const likeness = (folder: Raw): number => {
    const name = folder.toLowerCase();
    if (stem === name) return Number.POSITIVE_INFINITY;
    return name.length >= shortestName && (stem.startsWith(name) || name.startsWith(stem))
      ? Math.min(name.length, stem.length)
      : 0;
  };
  const beside = items
    .filter((item) => item.identity.type === "folder" && likeness(item.name) > 0)
    .sort((a, b) => likeness(b.name) - likeness(a.name) || a.name.length - b.name.length)
    .map((item) => item.path);
  const filed = engine.db
    .prepare<[], Buffer>("SELECT place FROM folder WHERE home = 1")
    .pluck()
    .all()
    .map(rawFromBytes)
    .filter((folder) => nameOf(folder).toLowerCase() === stem);
  return [...beside.slice(0, mostFolders), ...filed.slice(0, mostFolders)];
}

/** What comparing an item came to, where it was compared with a folder; with the folder itself. */
export function unpackedOf(engine: Engine, item: Item): (Unpacked & { folder: Raw }) | undefined {
  if (item.kind !== "archive") return undefined;
  const outcome = outcomeOf(engine, item.id)?.outcome;
  if (!outcome || outcome.problem || outcome.folder === undefined) return undefined;
  const { folder, entries, missing } = outcome;
  return { folder, entries, missing, place: shownPlace(folder, engine.account.root) };
}

/** Why an archive could not be compared, or what of it is missing where it seems unpacked; in words, for a closer look. */
export function comparedInWords(engine: Engine, item: Item): string | undefined {
  if (item.kind !== "archive") return undefined;
  const outcome = outcomeOf(engine, item.id)?.outcome;
  if (outcome?.problem) return `not compared: ${outcome.problem}`;
  if (!outcome || outcome.folder === undefined) return undefined;
  const place = shownPlace(outcome.folder, engine.account.root);
  if (outcome.missing.length === 0) return `all ${outcome.entries} entries lie in ${place}, byte for byte`;
  const [first, ...more] = outcome.missing;
  return `in ${place} ${shownName(first as Raw)}${more.length > 0 ? ` and ${more.length} more` : ""} is missing or differs`;
}
