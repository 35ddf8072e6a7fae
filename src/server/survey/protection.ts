import { isWithin, type Raw, rawFromBytes } from "@/core/names/raw";
import { tuckedFolder, type WorktopId } from "../account";
import type { Db } from "../db/db";
import { type PlaceRecord, readRecords } from "../db/record";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import { itemsOn, recordState } from "./items";

/** A place of which the person said how it is protected. */
export interface ProtectedPlace {
  id: string;
  folder: Raw;
  protection: PlaceRecord["protection"];
}

export function protectedPlaces(engine: Pick<Engine, "db">): ProtectedPlace[] {
  return [...readRecords<PlaceRecord>(engine.db, "place")].map(([id, { folder, protection }]) => ({
    id,
    folder: folder as Raw,
    protection,
  }));
}

/**
 * Of each item, whether a file with the same SHA-256 lies in a backed-up place, and of a folder whether one does of each
 * file in it; nothing where no place is marked so. An item that could not be read whole is left out. What is merely
 * synchronised does not count: a deletion is too.
 */
export function elsewhere(engine: Engine): Map<string, boolean> | undefined {
  const state = recordState(engine.db);
  const last = lastKnown.get(engine);
  if (last?.state === state && last.unwalked === engine.unwalked) return last.known;
  const known = lookElsewhere(engine);
  if (!engine.db.inTransaction) lastKnown.set(engine, { state, unwalked: engine.unwalked, known });
  return known;
}

/** What was last found, and the state of the record in which it was: several parts of a view ask. */
const lastKnown = sharedMemory<Engine, { state: string; unwalked: Engine["unwalked"]; known?: Map<string, boolean> }>(
  "protection",
);

function lookElsewhere(engine: Engine): Map<string, boolean> | undefined {
  const places = protectedPlaces(engine).filter((place) => place.protection === "backed up");
  if (places.length === 0) return undefined;
  const there = sumsIn(engine.db, places);
  const inside = filesInFolders(engine);
  return new Map(
    engine.account.worktops
      .flatMap((w) => itemsOn(engine.db, w.id))
      // A shortcut or a web link is no file that could be lost, and an empty thing has nothing to lose.
      .filter(
        (item) =>
          item.kind !== "shortcut" && item.kind !== "web link" && !(item.identity.type === "file" && item.identity.bytes === 0),
      )
      .filter((item) => !(item.identity.type === "folder" && item.facts.entries === 0))
      .flatMap((item): [string, boolean][] => {
        if (item.identity.type !== "folder") return [[item.id, item.sha256 !== undefined && there.has(item.sha256)]];
        const files = inside.get(item.path) ?? [];
        if (files.some((sha256) => sha256 === null || !there.has(sha256))) return [[item.id, false]];
        const unread = engine.unwalked.some(({ folder }) => isWithin(item.path, folder));
        return files.length === 0 || unread ? [] : [[item.id, true]];
      }),
  );
}

/** The things of a worktop that have no identical copy in a backed-up place; null where no place is marked so. */
export function nowhereElse(engine: Engine, worktop: WorktopId): string[] | null {
  const known = elsewhere(engine);
  if (!known) return null;
  return itemsOn(engine.db, worktop)
    .filter((item) => known.get(item.id) === false)
    .map((item) => item.id);
}

/** The checksums of all files in each folder that lies on a worktop; null where it shares its size with no other file. */
function filesInFolders(engine: Engine): Map<Raw, (string | null)[]> {
  const files = new Map<Raw, (string | null)[]>();
  for (const { folder, bytes, sha256 } of filedOnWorktops(engine)) {
    // An empty file has nothing to lose.
    if (bytes === 0) continue;
    const worktop = engine.account.worktops.find((w) => isWithin(w.folder, folder))!;
    const [first, second] = folder.slice(worktop.folder.length + 1).split("/");
    const item = `${worktop.folder}/${tuckedFolder(worktop).endsWith(`/${first}`) ? `${first}/${second}` : first}` as Raw;
    const known = files.get(item);
    if (known) known.push(sha256);
    else files.set(item, [sha256]);
  }
  return files;
}

/** The files in the folders on the worktops, as last walked. */
export function filedOnWorktops(engine: Engine): { folder: Raw; bytes: number; sha256: string | null }[] {
  return engine.db
    .prepare<[], { folder: Buffer; bytes: number; sha256: string | null }>(
      "SELECT folder, bytes, sha256 FROM filed_at WHERE home = 0",
    )
    .all()
    .map((row) => ({ ...row, folder: rawFromBytes(row.folder) }))
    .filter(({ folder }) => engine.account.worktops.some((w) => isWithin(w.folder, folder)));
}

/** The checksums of the files in these places that could be identical with others. */
function sumsIn(db: Db, places: ProtectedPlace[]): Set<string> {
  const rows = db
    .prepare<[], { folder: Buffer; sha256: string }>("SELECT folder, sha256 FROM filed_at WHERE sha256 IS NOT NULL")
    .all();
  return new Set(
    rows.filter((row) => places.some((place) => isWithin(place.folder, rawFromBytes(row.folder)))).map((row) => row.sha256),
  );
}
