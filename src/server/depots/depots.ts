import { createHash } from "node:crypto";
import { type ParcelThingJson, type ParcelThings, parcelThings } from "@/contract/parcel";
import { rawToJson } from "@/contract/raw-json";
import { pathInManifest, readManifest, tagManifestFile, thingsFile } from "@/core/depots/bagit";
import { joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { type DepotRecord, type ParcelRecord, readRecords, type VerdictRecord } from "../db/record";
import { freeBytes } from "../disk/around";
import type { Engine, Reading } from "../engine";
import { type Item, itemById } from "../survey/items";

export interface Depot {
  id: string;
  title: string;
  folder: Raw;
  /** Whether its folder is there now. */
  there: boolean;
  free?: number;
}

export interface Parcel extends ParcelRecord {
  id: string;
}

export function depots(engine: Engine): Depot[] {
  return [...readRecords<DepotRecord>(engine.db, "depot")].map(([id, depot]) => {
    const folder = depot.folder as Raw;
    const there = isThere(engine, folder);
    return { id, title: depot.title, folder, there, free: there ? freeBytes(folder) : undefined };
  });
}

function isThere(engine: Engine, folder: Raw): boolean {
  try {
    return engine.disk.identity(folder)?.type === "folder";
  } catch {
    return false;
  }
}

/** A depot by id, title or folder; a problem where there is none, or where its folder is gone and it is needed. */
export function depotMeant(engine: Engine, named: string): Depot {
  const all = depots(engine);
  const depot =
    all.find((d) => d.id === named) ?? all.find((d) => d.title === named) ?? all.find((d) => shownName(d.folder) === named);
  if (!depot) throw new Problem("unknown-depot", { place: named });
  return depot;
}

export function depotInReach(engine: Engine, named: string): Depot {
  const depot = depotMeant(engine, named);
  if (!depot.there) throw new Problem("depot-gone", { place: depot.title, detail: `${shownName(depot.folder)} is not there` });
  return depot;
}

export function parcels(engine: Reading): Parcel[] {
  return [...readRecords<ParcelRecord>(engine.db, "parcel")]
    .map(([id, parcel]) => ({ ...parcel, id }))
    .sort((a, b) => b.madeAt - a.madeAt);
}

/** A parcel by its id, its title or its folder; also a bag that lies in a depot and is in no record of ours. */
export function parcelMeant(engine: Engine, named: string): Parcel {
  const all = parcels(engine);
  const parcel =
    all.find((p) => p.id === named) ??
    all.find((p) => p.title === named) ??
    all.find((p) => p.bag && shownName(p.bag as Raw) === named) ??
    strangerMeant(engine, named);
  if (!parcel) throw new Problem("unknown-parcel", { name: named });
  return parcel;
}

function strangerMeant(engine: Engine, named: string): Parcel | undefined {
  for (const depot of depots(engine)) {
    const entries = depot.there ? unlessProblem(() => engine.disk.list(depot.folder)) : undefined;
    const found = entries?.find(({ name, type }) => type === "folder" && shownName(name) === named);
    if (found && engine.disk.stat(joinRaw(depot.folder, found.name, "bagit.txt")))
      return { id: "", title: named, depot: depot.id, state: "sent", madeAt: 0, bag: found.name };
  }
  return undefined;
}

/** The things that were given the verdict archive for a parcel and still lie on a worktop. */
export function collectedIn(engine: Reading, parcel: string): Item[] {
  const items: Item[] = [];
  for (const [id, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.verdict !== "archive" || verdict.parcel !== parcel) continue;
    const item = itemById(engine.db, id);
    if (item?.worktop) items.push(item);
  }
  return items;
}

/** A sent parcel's bag in its depot; a problem where it cannot be reached. */
export function bagOf(engine: Engine, parcel: Parcel): { bag: Raw; depot: Depot } {
  if (parcel.state !== "sent" || !parcel.bag || !parcel.depot)
    throw new Problem("unknown-parcel", { name: `${parcel.title} (not sent yet)` });
  const depot = depotInReach(engine, parcel.depot);
  const bag = joinRaw(depot.folder, parcel.bag);
  if (engine.disk.identity(bag)?.type !== "folder")
    throw new Problem("parcel-damaged", {
      place: parcel.title,
      detail: `its folder ${shownName(nameOf(bag))} is missing from the depot`,
    });
  return { bag, depot };
}

/**
 * Whether a bag is, by its tag manifest, the very one that was sent. Its list of things may propose their old places then;
 * any other may have been written by a stranger.
 */
export function isAsSent(engine: Engine, bag: Raw, parcel: Parcel): boolean {
  const { disk } = engine;
  const read = (name: string) => disk.readSmall(joinRaw(bag, rawFromText(name)), mostTagBytes);
  const sumOf = (content: Buffer) => createHash("sha256").update(content).digest("hex");
  const tags = read(tagManifestFile);
  if (!tags || parcel.tags === undefined || sumOf(tags) !== parcel.tags) return false;
  const list = read(thingsFile);
  return list !== undefined && readManifest(tags.toString("utf8")).sums.get(thingsFile) === sumOf(list);
}

const mostTagBytes = 1 << 28;

/** What a bag's own list says is in it; of a bag of another program, its payload as one folder. */
export function thingsIn(engine: Engine, bag: Raw, title: string): ParcelThings {
  const text = engine.disk.readSmall(joinRaw(bag, rawFromText(thingsFile)), mostTagBytes);
  if (!text) return payloadOf(engine, bag, title);
  let json: unknown;
  try {
    json = JSON.parse(text.toString("utf8"));
  } catch {
    throw new Problem("parcel-damaged", { place: title, detail: "its list of things cannot be read" });
  }
  const things = parcelThings.safeParse(json);
  if (!things.success) throw new Problem("parcel-damaged", { place: title, detail: "its list of things is not as it should be" });
  return things.data;
}

/** The payload by its manifest: each of its first parts a thing, with what lies below it. */
function payloadOf(engine: Engine, bag: Raw, title: string): ParcelThings {
  const manifest = engine.disk.readSmall(joinRaw(bag, "manifest-sha256.txt"), mostTagBytes);
  if (!manifest) throw new Problem("parcel-damaged", { place: title, detail: "it has no manifest of SHA-256 checksums" });
  const { sums, damaged } = readManifest(manifest.toString("utf8"));
  if (damaged.length > 0) throw new Problem("parcel-damaged", { place: title, detail: "its manifest cannot be read" });
  const mtimeNs = String(BigInt(engine.now()) * 1_000_000n);
  const things = new Map<string, Map<string, ParcelThingJson["entries"][number]>>();
  for (const [written, sha256] of sums) {
    const payload = pathInManifest(written);
    const [data, first, ...rest] = payload.split("/");
    if (data !== "data" || !first)
      throw new Problem("parcel-damaged", { place: title, detail: `${written} is not in its payload` });
    const entries = things.get(first) ?? new Map();
    things.set(first, entries);
    for (let n = 0; n < rest.length; n++) {
      const rel = rest.slice(0, n).join("/");
      if (!entries.has(rel)) entries.set(rel, { rel: textToJson(rel), type: "folder", mode: 0o755, mtimeNs, bytes: 0 });
    }
    const stat = engine.disk.stat(joinRaw(bag, rawFromText(payload)));
    const bytes = Number(stat?.size ?? 0);
    entries.set(rest.join("/"), { rel: textToJson(rest.join("/")), type: "file", mode: 0o644, mtimeNs, bytes, payload, sha256 });
  }
  return {
    version: 1,
    parcel: { id: "", title, madeAt: "" },
    things: [...things].map(([first, entries]) => ({
      item: "",
      name: textToJson(first),
      folder: textToJson("/"),
      position: null,
      entries: [...entries.values()],
    })),
  };
}

const textToJson = (text: string) => rawToJson(rawFromText(text));

/** The parcels on their way: being collected, with something in them. An empty one is not there for the person. */
export function parcelsWaiting(engine: Reading): { parcel: Parcel; items: Item[] }[] {
  return parcels(engine)
    .filter((parcel) => parcel.state === "collecting")
    .map((parcel) => ({ parcel, items: collectedIn(engine, parcel.id) }))
    .filter(({ items }) => items.length > 0);
}
