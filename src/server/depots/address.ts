import type { ParcelRef } from "@/core/ledger/shapes";
import { type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Account } from "../account";
import type { Db } from "../db/db";
import { type DepotRecord, readRecord } from "../db/record";
import type { ParcelPlace } from "../disk/carrier";
import { findDrive } from "./drives";
import { signInOf } from "./sign-ins";
import type { DepotAddress } from "./store";

interface Known {
  account: Pick<Account, "root" | "sample">;
  db: Db;
}

/** Where a depot of the list lies now. */
export function addressIn({ account, db }: Known, id: string, depot: DepotRecord): DepotAddress {
  const { title } = depot;
  switch (depot.kind) {
    case "folder":
      return { kind: "folder", folder: depot.folder as Raw, title };
    case "drive": {
      const { drive, other } = findDrive(account, depot);
      return { kind: "drive", title, mark: depot.mark, folder: drive?.point, other: other !== undefined, bound: drive?.bound };
    }
    case "cloud":
      return { kind: "cloud", title, url: depot.url, pin: depot.pin, signIn: signInOf(db, id) };
  }
}

/** Where the depot of an id lies. @throws Problem "depot-gone" where it is no longer in the list */
export function addressOf(known: Known, id: string, title: string): DepotAddress {
  const depot = readRecord<DepotRecord>(known.db, `depot:${id}`);
  if (!depot) throw new Problem("depot-gone", { place: title, detail: "it is no longer in the list of depots" });
  return addressIn(known, id, depot);
}

/** What a parcel's place is remembered by: where its depot lay. Holds no sign-in. */
export const layOf = (address: DepotAddress): Raw =>
  address.kind === "cloud" ? rawFromText(address.url) : (address.folder ?? ("" as Raw));

/** Where a depot lies, for the person to read. */
export const shownAddress = (depot: DepotRecord, address: DepotAddress): string =>
  depot.kind === "cloud"
    ? depot.url
    : shownName(address.kind !== "cloud" && address.folder !== undefined ? address.folder : (depot.folder as Raw));

/** Where a parcel that a step names lies. */
export function parcelPlace(known: Known, parcel: ParcelRef): ParcelPlace {
  const { depot: id, lay, name } = parcel;
  const depot = id === undefined ? undefined : readRecord<DepotRecord>(known.db, `depot:${id}`);
  if (depot) return { depot: addressIn(known, id!, depot), folder: name };
  if (lay.startsWith("/")) return { depot: { kind: "folder", folder: lay }, folder: name };
  throw new Problem("depot-gone", { place: shownName(lay) || "that drive", detail: "it is no longer in the list of depots" });
}
