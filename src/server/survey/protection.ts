import { createHash } from "node:crypto";
import type { ReportJson } from "@/contract/items";
import type { ProtectInput } from "@/contract/survey";
import { shownPlace } from "@/core/ledger/sentence";
import type { Json } from "@/core/ledger/step";
import { isWithin, type Raw, rawFromBytes } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { tuckedFolder, type WorktopId } from "../account";
import { perform } from "../act";
import type { Db } from "../db/db";
import { type PlaceRecord, readRecord, readRecords } from "../db/record";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { homeRoots, walkHomes } from "../homes/homes";
import { itemsOn } from "./items";
import { hashLikelyTwins } from "./refresh";

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

const placeId = (folder: Raw) => createHash("sha256").update(folder, "latin1").digest("base64url").slice(0, 16);

/** Marks a folder as backed up or as synchronised, or takes the mark away; then looks for copies in it. */
export async function protect(engine: Engine, input: ProtectInput): Promise<ReportJson> {
  const report = await perform(
    engine,
    "Marking a place",
    () => {
      const asked = atob(input.folder) as Raw;
      const { account } = engine;
      const title = shownPlace(asked, account.root);
      const key = `place:${placeId(asked)}`;
      const from = readRecord<PlaceRecord>(engine.db, key);
      if (input.protection !== null && realFolder(asked) !== asked) throw new Problem("folder-gone", { place: title });
      // What holds the desktop is not a copy of it.
      if (input.protection !== null && account.worktops.some((w) => isWithin(asked, w.folder) || isWithin(w.folder, asked)))
        throw new Problem("no-protection", { place: title });
      const to: PlaceRecord | null =
        input.protection === null ? null : { folder: asked, protection: input.protection, at: engine.now() };
      return {
        act: "protect",
        words: () => (input.protection === null ? `Took the mark from ${title}` : `Marked ${title} as ${input.protection}`),
        steps:
          from?.protection === to?.protection
            ? []
            : [{ type: "set", key, from: from as unknown as Json, to: to as unknown as Json }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
  if (!input.dryRun) {
    await walkHomes(engine);
    await hashLikelyTwins(engine);
  }
  return report;
}

/** The places that can be marked: the roots of the homes, and what is marked already. */
export function placesToMark(
  engine: Engine,
): (Omit<ProtectedPlace, "protection"> & { title: string; protection: PlaceRecord["protection"] | null })[] {
  const marked = new Map(protectedPlaces(engine).map((place) => [place.folder, place]));
  const folders = [...new Set([...homeRoots(engine), ...marked.keys()])];
  return folders.map((folder) => ({
    id: placeId(folder),
    folder,
    title: shownPlace(folder, engine.account.root),
    protection: marked.get(folder)?.protection ?? null,
  }));
}

/**
 * Of each item, whether a file with the same SHA-256 lies in a backed-up place, and of a folder whether one does of each
 * file in it; nothing where no place is marked so. An item that could not be read whole is left out. What is merely
 * synchronised does not count: a deletion is too.
 */
export function elsewhere(engine: Engine): Map<string, boolean> | undefined {
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
        const unread = engine.unwalked.some((folder) => isWithin(item.path, folder));
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
    files.set(item, [...(files.get(item) ?? []), sha256]);
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
