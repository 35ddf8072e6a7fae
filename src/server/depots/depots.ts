import { type ParcelThings, parcelThings } from "@/contract/parcel";
import { thingsFile } from "@/core/depots/bagit";
import { joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type DepotRecord, type ParcelRecord, readRecords, type VerdictRecord } from "../db/record";
import { freeBytes } from "../disk/around";
import type { Engine } from "../engine";
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

/** A depot by id or title; a problem where there is none, or where its folder is gone and it is needed. */
export function depotMeant(engine: Engine, named: string): Depot {
  const all = depots(engine);
  const depot = all.find((d) => d.id === named) ?? all.find((d) => d.title === named);
  if (!depot) throw new Problem("unknown-depot", { place: named });
  return depot;
}

export function depotInReach(engine: Engine, named: string): Depot {
  const depot = depotMeant(engine, named);
  if (!depot.there) throw new Problem("depot-gone", { place: depot.title, detail: `${shownName(depot.folder)} is not there` });
  return depot;
}

export function parcels(engine: Engine): Parcel[] {
  return [...readRecords<ParcelRecord>(engine.db, "parcel")]
    .map(([id, parcel]) => ({ ...parcel, id }))
    .sort((a, b) => b.madeAt - a.madeAt);
}

export function parcelMeant(engine: Engine, named: string): Parcel {
  const all = parcels(engine);
  const parcel =
    all.find((p) => p.id === named) ??
    all.find((p) => p.title === named) ??
    all.find((p) => p.bag && shownName(p.bag as Raw) === named);
  if (!parcel) throw new Problem("unknown-parcel", { name: named });
  return parcel;
}

/** The things that were given the verdict archive for a parcel and still lie on a worktop. */
export function collectedIn(engine: Engine, parcel: string): Item[] {
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

/** What a bag's own list says is in it. */
export function thingsIn(engine: Engine, bag: Raw, title: string): ParcelThings {
  const text = engine.disk.readSmall(joinRaw(bag, rawFromText(thingsFile)), 1 << 28);
  let json: unknown;
  try {
    json = JSON.parse(text?.toString("utf8") ?? "");
  } catch {
    throw new Problem("parcel-damaged", { place: title, detail: "its list of things cannot be read" });
  }
  const things = parcelThings.safeParse(json);
  if (!things.success) throw new Problem("parcel-damaged", { place: title, detail: "its list of things is not as it should be" });
  return things.data;
}

/** The parcels on their way: being collected, with something in them. An empty one is not there for the person. */
export function parcelsWaiting(engine: Engine): { parcel: Parcel; items: Item[] }[] {
  return parcels(engine)
    .filter((parcel) => parcel.state === "collecting")
    .map((parcel) => ({ parcel, items: collectedIn(engine, parcel.id) }))
    .filter(({ items }) => items.length > 0);
}
