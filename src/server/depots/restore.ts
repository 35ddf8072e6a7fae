import { randomUUID } from "node:crypto";
import type { ParcelRestoreInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawFromJson } from "@/contract/raw-json";
import type { CopyStep, MakeFolderStep, Plan, Step, TreeEntry } from "@/core/ledger/step";
import { freeName } from "@/core/names/free-name";
import { folderOf, isName, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { Engine } from "../engine";
import { bagOf, parcelMeant, thingsIn } from "./depots";

/** Brings everything in a parcel back to where it lay, under a free name where the old one is taken. The parcel stays. */
export function restoreParcel(engine: Engine, input: ParcelRestoreInput): Promise<ReportJson> {
  const parcel = parcelMeant(engine, input.parcel);
  return perform(engine, `Restoring “${parcel.title}”`, () => planRestore(engine, input), {
    trial: input.dryRun,
    bytes: 2 * (parcel.bytes ?? 0),
  });
}

function planRestore(engine: Engine, input: ParcelRestoreInput): Plan {
  const parcel = parcelMeant(engine, input.parcel);
  const { bag } = bagOf(engine, parcel);
  const { things } = thingsIn(engine, bag, parcel.title);
  const made = new Set<Raw>();
  const taken = new Set<Raw>();
  const steps: Step[] = [];
  for (const thing of things) {
    const folder = rawFromJson(thing.folder);
    steps.push(...missingFolders(engine, folder, made));
    const wanted = rawFromJson(thing.name);
    if (!isName(wanted))
      throw new Problem("parcel-damaged", { place: parcel.title, detail: `${shownName(wanted)} cannot be a name` });
    const name = freeName(wanted, (n) => taken.has(joinRaw(folder, n)) || engine.disk.stat(joinRaw(folder, n)) !== undefined);
    const to = joinRaw(folder, name);
    taken.add(to);
    const item = randomUUID();
    steps.push({ type: "copy", item, to, tree: treeOf(thing, bag, parcel.title) } satisfies CopyStep);
    if (thing.position) steps.push({ type: "place", item, from: null, to: thing.position });
  }
  return {
    act: "parcel-restore",
    words: (done) => {
      const copies = done.filter((step) => step.type === "copy");
      const what = copies.length === 1 ? shownName(nameOf(copies[0]!.to)) : engine.words().counted(copies.length, "thing");
      return `Brought ${what} back from the parcel “${parcel.title}”`;
    },
    steps,
    left: [],
  };
}

function missingFolders(engine: Engine, folder: Raw, made: Set<Raw>): MakeFolderStep[] {
  if (folder === "/" || made.has(folder) || engine.disk.stat(folder)) return [];
  const above = missingFolders(engine, folderOf(folder), made);
  made.add(folder);
  return [...above, { type: "make-folder", folder }];
}

/** A thing's entries as they are to be written; a list that names anything outside its own tree is refused. */
export function treeOf(thing: ParcelThingJson, bag: Raw, title: string): TreeEntry[] {
  const wrong = (detail: string) => new Problem("parcel-damaged", { place: title, detail });
  const inside = (path: string) => path.split("/").every((part) => isName(part as Raw));
  return thing.entries.map((entry, n): TreeEntry => {
    const rel = rawFromJson(entry.rel);
    if (n === 0 ? rel !== "" : !inside(rel)) throw wrong(`${shownName(rel)} is no place in it`);
    if (entry.type === "file" && (!entry.payload || !entry.sha256 || !inside(rawFromText(entry.payload))))
      throw wrong(`${shownName(rel)} has no payload`);
    return {
      rel,
      type: entry.type,
      mode: entry.mode,
      mtimeNs: entry.mtimeNs,
      bytes: entry.bytes,
      sha256: entry.sha256,
      source: entry.payload ? joinRaw(bag, rawFromText(entry.payload)) : undefined,
      target: entry.target === undefined ? undefined : rawFromJson(entry.target),
      xattrs: entry.xattrs?.map(([key, value]): [Raw, Raw] => [rawFromJson(key), rawFromJson(value)]),
    };
  });
}
