import { isWithin, type Raw } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { tuckedFolder, type WorktopId } from "../account";
import { prepared } from "../db/prepared";
import { type PlaceRecord, readRecords } from "../db/record";
import { answers } from "../disk/mounts";
import type { Engine, Reading } from "../engine";
import { type Item, itemsOn, thingsOn } from "./items";

/** A place of which the person said how it is protected. */
export interface ProtectedPlace {
  id: string;
  folder: Raw;
  protection: PlaceRecord["protection"];
}

export function protectedPlaces(engine: Reading): ProtectedPlace[] {
  return [...readRecords<PlaceRecord>(engine.db, "place")].map(([id, { folder, protection }]) => ({
    id,
    folder: folder as Raw,
    protection,
  }));
}

/** The nearest marked place that a folder lies in. */
export const nearestPlace = (places: readonly ProtectedPlace[], folder: Raw): ProtectedPlace | undefined =>
  places.filter((place) => isWithin(place.folder, folder)).sort((a, b) => b.folder.length - a.folder.length)[0];

/** How a folder is protected. */
export const protectionOf = (engine: Reading, folder: Raw): ProtectedPlace["protection"] | undefined =>
  nearestPlace(protectedPlaces(engine), folder)?.protection;

/**
 * Of each item, whether a file with the same SHA-256 lies in a backed-up place, and of a folder whether one does of each
 * file in it; nothing where no place is marked so, or one of them is not here. An item that could not be read whole is left out. What is merely
 * synchronised does not count: a deletion is too. As of the last look; of what was tucked away since, a copy counts once it was
 * seen again.
 */
export function elsewhere(engine: Engine): Map<string, boolean> | undefined {
  const found = engine.elsewhere;
  if (!found || backedUp(engine).length === 0 || absentPlaces(engine).length > 0) return undefined;
  const tucked = new Set(engine.account.worktops.map(tuckedFolder));
  // A program that copies what lies here may take away the copy of what it no longer finds.
  const seenSince = (item: Item) => !tucked.has(item.folder) || (engine.walkedAt ?? 0) >= lastQuietAt(engine);
  return new Map(
    engine.account.worktops
      .flatMap((w) => itemsOn(engine.db, w.id))
      .filter(mayBeLost)
      .flatMap((item): [string, boolean][] => {
        if (item.identity.type !== "folder") {
          const isThere = item.sha256 !== undefined && found.sums.has(item.sha256);
          return isThere && !seenSince(item) ? [] : [[item.id, isThere]];
        }
        const copied = found.folders.get(item.path);
        if (copied && !seenSince(item)) return [];
        if (copied !== true) return copied === undefined ? [] : [[item.id, false]];
        return engine.unwalked.some(({ folder }) => isWithin(item.path, folder)) ? [] : [[item.id, true]];
      }),
  );
}

/** Backed-up places that are not here now: what lies there is not known. */
export const absentPlaces = (engine: Engine): Raw[] =>
  backedUp(engine)
    .map(({ folder }) => folder)
    .filter((folder) => !answers(folder) || unlessProblem(() => engine.disk.stat(folder))?.isDirectory() !== true);

/** When things were last taken out of sight, or brought back. */
const lastQuietAt = ({ db }: Engine): number =>
  prepared<[], number>(db, "SELECT at FROM entry WHERE act = 'quiet' ORDER BY id DESC LIMIT 1").pluck().get() ?? 0;

const backedUp = (engine: Engine) => protectedPlaces(engine).filter((place) => place.protection === "backed up");

/** A shortcut or a web link is no file that could be lost, and an empty thing has nothing to lose. */
export const mayBeLost = ({ kind, identity, facts }: Item) =>
  kind !== "shortcut" &&
  kind !== "web link" &&
  !(identity.type === "file" && identity.bytes === 0) &&
  !(identity.type === "folder" && facts.entries === 0);

/** Looks anew which files in the folders on the worktops lie elsewhere too, in a thread, where anything about it has changed. */
export async function lookInside(engine: Engine): Promise<void> {
  const items = engine.account.worktops.flatMap((w) => itemsOn(engine.db, w.id));
  const asked = {
    record: engine.db.name,
    folders: items.flatMap((item) => (item.identity.type === "folder" ? [item.path] : [])),
    files: new Map(items.flatMap((item): [string, Raw][] => (item.sha256 ? [[item.sha256, item.path]] : []))),
  };
  const key = JSON.stringify([engine.walked, asked.folders, [...asked.files]]);
  if (lastInside.get(engine) === key) return;
  engine.inside = asked.folders.length === 0 ? new Map() : await engine.workers.run("findInside", asked);
  lastInside.set(engine, key);
  engine.events.emit({ type: "changed", what: "items" });
}
const lastInside = new WeakMap<Engine, string>();

/** What was asked about at the last look; while it is the same, so is the answer. */
const lastAsked = new WeakMap<Engine, string>();

/** Looks anew what has a copy in a backed-up place, in a thread, where anything about it has changed. */
export async function lookElsewhere(engine: Engine): Promise<void> {
  const places = backedUp(engine);
  if (places.length === 0) {
    if (engine.elsewhere) engine.events.emit({ type: "changed", what: "items" });
    engine.elsewhere = undefined;
    lastAsked.delete(engine);
    return;
  }
  const items = engine.account.worktops.flatMap((w) => itemsOn(engine.db, w.id));
  const asked = {
    record: engine.db.name,
    places: places.map((place) => place.folder),
    sums: items.flatMap((item) => item.sha256 ?? []),
    folders: items.flatMap((item) => (item.identity.type === "folder" ? [item.path] : [])),
  };
  const key = JSON.stringify([engine.walked, asked]);
  if (engine.elsewhere && lastAsked.get(engine) === key) return;
  engine.elsewhere = await engine.workers.run("findElsewhere", asked);
  lastAsked.set(engine, key);
  engine.events.emit({ type: "changed", what: "items" });
}

/** The things of a worktop that have no identical copy in a backed-up place; null where no place is marked so. */
export function nowhereElse(engine: Engine, worktop: WorktopId): string[] | null {
  const known = elsewhere(engine);
  if (!known) return null;
  return thingsOn(engine.db, worktop)
    .filter((item) => known.get(item.id) === false)
    .map((item) => item.id);
}
