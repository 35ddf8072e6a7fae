import type { BrowseAnswer, BrowseInput, FindAnswer, FindInput } from "@/contract/depots";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawFromJson } from "@/contract/raw-json";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type DepotRecord, readRecord } from "../db/record";
import type { Engine, Reading } from "../engine";
import { bagOf, depots, depotTitle, type Parcel, parcelMeant, parcels, thingsIn } from "./depots";
import { ParcelFiles } from "./parcel-files";

/** A thing of a parcel by the names that it has for the person. */
export interface NamedThing {
  /** What it is called, and the folder it lay in, as shown. */
  name: string;
  folder: string;
  entries: ParcelThingJson["entries"];
}

/** The path of an entry in a parcel, as it is shown and as it is named again: the thing, and what lies below it. */
export const entryPath = (thing: string, entry: ParcelThingJson["entries"][number]): string => {
  const rel = shownName(rawFromJson(entry.rel));
  return rel === "" ? thing : `${thing}/${rel}`;
};

/** The names under which the things of a parcel are shown; where two are called alike, they are numbered. */
export function distinctNames(names: readonly string[]): string[] {
  const counts = new Map<string, number>();
  const taken = new Set(names);
  return names.map((name) => {
    const count = (counts.get(name) ?? 0) + 1;
    counts.set(name, count);
    if (count === 1) return name;
    let n = count;
    while (taken.has(`${name} [${n}]`)) n++;
    taken.add(`${name} [${n}]`);
    return `${name} [${n}]`;
  });
}

/** What is in a parcel: as the record keeps it, or as its bag says. */
async function contents(engine: Engine, parcel: Parcel): Promise<{ things: NamedThing[]; fromRecord: boolean }> {
  const known = new ParcelFiles(engine.db, parcel.id)
    .contents()
    .map(({ name, folder, entries }): NamedThing => ({ name: shownName(name), folder: shownName(folder), entries }));
  const fromRecord = known.length > 0;
  const things = fromRecord
    ? known
    : (await thingsIn(engine, await bagOf(engine, parcel))).things.map((thing) => ({
        name: shownName(rawFromJson(thing.name)),
        folder: shownName(rawFromJson(thing.folder)),
        entries: thing.entries,
      }));
  const names = distinctNames(things.map(({ name }) => name));
  return { things: things.map((thing, n) => ({ ...thing, name: names[n]! })), fromRecord };
}

const mostListed = 1000;

/** What lies in a folder of a parcel; at its top, the things in it. */
export async function browse(engine: Engine, input: BrowseInput): Promise<BrowseAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  if (parcel.state !== "sent") throw new Problem("unknown-parcel", { name: `${parcel.title} (not sent yet)` });
  const { things, fromRecord } = await contents(engine, parcel);
  const folder = input.folder ?? "";
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
      if (path === here || (folder === "" && path === thing.name))
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
  if (!found) throw new Problem("vanished", { name: folder });
  const all = [...entries.values()].sort(
    (a, b) => Number(b.type === "folder") - Number(a.type === "folder") || a.name.localeCompare(b.name),
  );
  return {
    parcel: parcel.title,
    fromRecord,
    local: readRecord<DepotRecord>(engine.db, `depot:${parcel.depot}`)?.kind !== "cloud",
    folder,
    entries: all.slice(0, mostListed),
    more: Math.max(0, all.length - mostListed),
  };
}

function timeOf(mtimeNs: string): string | null {
  const ms = Number(BigInt(mtimeNs) / 1_000_000n);
  return Number.isFinite(ms) && Math.abs(ms) < 8.64e15 ? new Date(ms).toISOString() : null;
}

const mostFound = 100;
const plain = (text: string) => text.normalize("NFKD").replace(/\p{M}/gu, "").toLowerCase();

/** Files in all parcels of whose path every word is a part; in those of depots that are away, too. */
export async function find(engine: Engine, input: FindInput): Promise<FindAnswer> {
  const wanted = plain(input.words).split(/\s+/);
  const near = new Set<string>();
  await Promise.all(
    depots(engine).map(async ({ id, record, store }) => {
      // Of a cloud it is only known when it is asked.
      if (
        record.kind === "cloud" ||
        (await store.reach().then(
          () => true,
          () => false,
        ))
      )
        near.add(id);
    }),
  );
  const found: FindAnswer["found"] = [];
  let more = 0;
  for (const parcel of parcels(engine)) {
    if (parcel.state !== "sent") continue;
    for (const { path, bytes } of filesOf(engine, parcel.id)) {
      const text = plain(path);
      if (!wanted.every((word) => text.includes(word))) continue;
      if (found.length === mostFound) more++;
      else
        found.push({
          parcel: parcel.id,
          title: parcel.title,
          depot: depotTitle(engine, parcel.depot),
          near: near.has(parcel.depot ?? ""),
          path,
          bytes,
        });
    }
  }
  return { found, more };
}

/** The files of a parcel by the paths under which they are shown. */
function filesOf({ db }: Reading, parcel: string): { path: string; bytes: number }[] {
  const things = new ParcelFiles(db, parcel).contents();
  const names = distinctNames(things.map(({ name }) => shownName(name)));
  return things.flatMap(({ entries }, n) =>
    entries.flatMap((entry) => (entry.type === "file" ? [{ path: entryPath(names[n]!, entry), bytes: entry.bytes }] : [])),
  );
}
