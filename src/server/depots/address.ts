import type { ParcelRef } from "@/core/ledger/shapes";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Db } from "../db/db";
import { type DepotRecord, readRecord } from "../db/record";
import type { ParcelPlace } from "../disk/carrier";
import type { DepotAddress } from "./store";

export const addressIn = ({ kind, folder }: DepotRecord): DepotAddress => ({ kind, folder: folder as Raw });

/** Where the depot of an id lies. @throws Problem "depot-gone" where it is no longer in the list */
export function addressOf(db: Db, id: string, title: string): DepotAddress {
  const depot = readRecord<DepotRecord>(db, `depot:${id}`);
  if (!depot) throw new Problem("depot-gone", { place: title, detail: "it is no longer in the list of depots" });
  return addressIn(depot);
}

/** Where a parcel that a step names lies. */
export function parcelPlace(db: Db, parcel: ParcelRef): ParcelPlace {
  const depot = parcel.depot === undefined ? undefined : readRecord<DepotRecord>(db, `depot:${parcel.depot}`);
  return { depot: depot ? addressIn(depot) : { kind: "folder", folder: parcel.lay }, folder: parcel.name };
}
