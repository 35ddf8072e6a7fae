import { joinRaw, type Raw, shownName } from "@/core/names/raw";
import { type GatheringRecord, readRecords } from "../db/record";
import type { Engine } from "../engine";
import { markOf } from "../jobs/work/find-folder";
import { itemById } from "../survey/items";
import { homeRoots } from "./homes";

/** A gathering of which something still lies in its folder. */
export interface Gathering {
  id: string;
  title: string;
  at: number;
  /** Where its folder is now. */
  folder: Raw;
  /** What of it lies there, under its name there and where it came from. */
  things: { item: string; name: Raw; from: Raw; label: string }[];
  /** Whether the folder was made for gathering, and whether nothing else lies there. */
  made: boolean;
  alone: boolean;
}

/**
 * The gatherings that are outstanding, newest first. A folder that is not where it was is looked for on the worktops and in the
 * homes by what lay in it; things in it too, as they may have been renamed there.
 */
export async function gatherings(engine: Engine): Promise<Gathering[]> {
  const found: Gathering[] = [];
  const claimed = new Set<Raw>();
  const newestFirst = [...readRecords<GatheringRecord>(engine.db, "gathering")].sort(([, a], [, b]) => b.at - a.at);
  for (const [id, record] of newestFirst) {
    const folder = await folderNow(engine, record);
    if (!folder) continue;
    const entries = engine.disk.list(folder) ?? [];
    const names = new Set(entries.map(({ name }) => name));
    const byMark = new Map(
      entries.flatMap(({ name }) => {
        const identity = engine.disk.identity(joinRaw(folder, name));
        return identity ? [[markOf(identity), name] as const] : [];
      }),
    );
    // What was set out before is no longer in it, though something of its name may be.
    const isLeft = (item: string) => {
      const lies = itemById(engine.db, item)?.folder;
      return lies === record.folder || lies === folder;
    };
    const things = record.things.flatMap(({ item, from, name, mark }) => {
      // Renamed there or not; else under its name, where a program saved it anew.
      const there = byMark.get(mark) ?? (names.has(name as Raw) && isLeft(item) ? (name as Raw) : undefined);
      const path = there && joinRaw(folder, there);
      // What was gathered again belongs to the newer gathering.
      if (there === undefined || path === undefined || claimed.has(path)) return [];
      claimed.add(path);
      return [{ item, name: there, from: from as Raw, label: shownName(there) }];
    });
    if (things.length > 0)
      found.push({
        id,
        title: record.title,
        at: record.at,
        folder,
        things,
        made: record.made,
        alone: things.length === entries.length,
      });
  }
  return found;
}

async function folderNow(engine: Engine, { folder, things }: GatheringRecord): Promise<Raw | undefined> {
  // By more than the name: another gathering may lie under the old one by now.
  const isThere = things.some(({ name, mark }) => {
    const there = engine.disk.identity(joinRaw(folder as Raw, name as Raw));
    return there !== undefined && markOf(there) === mark;
  });
  if (isThere) return folder as Raw;
  const below = [...engine.account.worktops.map((worktop) => worktop.folder), ...homeRoots(engine)];
  const found = await engine.workers.run("findFolder", { marks: things.map(({ mark }) => mark), below });
  // Renamed and changed there, all of them; or empty by now.
  return found ?? (engine.disk.identity(folder as Raw)?.type === "folder" ? (folder as Raw) : undefined);
}
