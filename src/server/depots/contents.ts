import type { BrowseAnswer } from "@/contract/depots";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawFromJson, rawToJson } from "@/contract/raw-json";
import { folderOf, joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";

type Entry = ParcelThingJson["entries"][number];

/** A thing of a parcel by the names that it has for the person. */
export interface NamedThing {
  /** What it is called, and the folder it lay in, as shown. */
  name: string;
  folder: string;
  entries: Entry[];
}

/** The path of an entry in a parcel, as it is shown and as it is named again: the thing, and what lies below it. */
const entryPath = (thing: string, entry: Entry): string => {
  const rel = shownName(rawFromJson(entry.rel));
  return rel === "" ? thing : `${thing}/${rel}`;
};

/** Things under names of which no two are the same: those that are called alike are numbered. */
export function distinct<T extends { name: string }>(things: readonly T[]): T[] {
  const counts = new Map<string, number>();
  const taken = new Set(things.map(({ name }) => name));
  return things.map((thing) => {
    const { name } = thing;
    const count = (counts.get(name) ?? 0) + 1;
    counts.set(name, count);
    if (count === 1) return thing;
    let n = count;
    while (taken.has(`${name} [${n}]`)) n++;
    taken.add(`${name} [${n}]`);
    return { ...thing, name: `${name} [${n}]` };
  });
}

/** The things of a parcel's list, as they are shown. */
export const asNamed = (things: readonly ParcelThingJson[]): NamedThing[] =>
  distinct(
    things.map(({ name, folder, entries }) => ({
      name: shownName(rawFromJson(name)),
      folder: shownName(rawFromJson(folder)),
      entries,
    })),
  );

/** What lies in a folder of a parcel, at its top with "", so many entries at most; undefined where there is no such folder. */
export function listed(
  things: readonly NamedThing[],
  folder: string,
  most: number,
): Pick<BrowseAnswer, "entries" | "more"> | undefined {
  const entries = new Map<string, BrowseAnswer["entries"][number]>();
  let found = folder === "";
  for (const thing of things)
    for (const entry of thing.entries) {
      const path = entryPath(thing.name, entry);
      if (path === folder) found ||= entry.type === "folder";
      if (folder !== "" && !path.startsWith(`${folder}/`)) continue;
      const name = path.slice(folder === "" ? 0 : folder.length + 1);
      const first = name.split("/")[0]!;
      const here = folder === "" ? thing.name : `${folder}/${first}`;
      if (path === here)
        entries.set(here, {
          name: folder === "" ? thing.name : first,
          path: here,
          type: entry.type,
          bytes: entry.bytes,
          files: entry.type === "file" ? 1 : 0,
          modifiedAt: timeOf(entry.mtimeNs),
          from: folder === "" ? thing.folder : null,
        });
      else {
        const above = entries.get(here);
        if (above && entry.type === "file") {
          above.files++;
          above.bytes += entry.bytes;
        }
      }
    }
  if (!found) return undefined;
  const all = [...entries.values()].sort(
    (a, b) => Number(b.type === "folder") - Number(a.type === "folder") || a.name.localeCompare(b.name),
  );
  return { entries: all.slice(0, most), more: Math.max(0, all.length - most) };
}

function timeOf(mtimeNs: string): string | null {
  const ms = Number(BigInt(mtimeNs) / 1_000_000n);
  return Number.isFinite(ms) && Math.abs(ms) < 8.64e15 ? new Date(ms).toISOString() : null;
}

const plain = (text: string) => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

/** The words of a search as they are compared. */
export const wordsOf = (search: string): string[] => plain(search.trim()).split(/\s+/);

/** The files of things in whose path every word is. */
export function* filesWith(words: readonly string[], things: readonly NamedThing[]): Generator<{ path: string; bytes: number }> {
  for (const { name, entries } of things)
    for (const entry of entries) {
      if (entry.type !== "file") continue;
      const path = entryPath(name, entry);
      const text = plain(path);
      if (words.every((word) => text.includes(word))) yield { path, bytes: entry.bytes };
    }
}

/** Of the things of a parcel those that are named, and of others the files and folders in them; and the names of what is not there. */
export function partsNamed(
  things: readonly ParcelThingJson[],
  names: readonly string[],
): { things: ParcelThingJson[]; missing: string[] } {
  const wanted = new Set(names.map((name) => name.replace(/\/+$/, "")));
  const missing = new Set(wanted);
  const shown = asNamed(things);
  const found = things.flatMap((thing, n): ParcelThingJson[] => {
    const { name } = shown[n]!;
    const roots = thing.entries.flatMap((entry) => {
      const path = entryPath(name, entry);
      if (!wanted.has(path)) return [];
      missing.delete(path);
      return [rawFromJson(entry.rel)];
    });
    return partsAt(thing, new Set(roots));
  });
  return { things: found, missing: [...missing] };
}

/** What lies at these places in a thing, each as a thing of its own; what lies in another that is meant goes with that. */
function partsAt(thing: ParcelThingJson, wanted: ReadonlySet<Raw>): ParcelThingJson[] {
  if (wanted.has("" as Raw)) return [thing];
  const parts = new Map<Raw, ParcelThingJson["entries"]>();
  for (const entry of thing.entries) {
    const own = rawFromJson(entry.rel);
    let root: Raw | undefined;
    for (let at = own; at !== ""; at = at.includes("/") ? folderOf(at) : ("" as Raw)) if (wanted.has(at)) root = at;
    if (root === undefined) continue;
    const inside = { ...entry, rel: rawToJson(own.slice(root.length + 1) as Raw) };
    const of = parts.get(root);
    if (of) of.push(inside);
    else parts.set(root, [inside]);
  }
  const folder = joinRaw(rawFromJson(thing.folder), rawFromJson(thing.name));
  return [...parts].map(([rel, entries]) => {
    const above = rel.includes("/") ? folderOf(rel) : undefined;
    return {
      item: "",
      name: rawToJson(nameOf(rel)),
      folder: rawToJson(above === undefined ? folder : joinRaw(folder, above)),
      position: null,
      entries,
    };
  });
}
