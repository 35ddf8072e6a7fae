import type { ParcelRef } from "@/core/ledger/shapes";
import { joinRaw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Account } from "../account";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import { type ParcelRecord, readRecords } from "../db/record";
import { realFolder } from "../disk/around";
import { parcelPlace } from "./address";

/** The last time a parcel was read from end to end. */
export interface LastCheck {
  at: number;
  /** Paths in the bag that were not as sent; `data` alone where nothing of it was. */
  damaged: string[];
}

/** What stands for all of a parcel. */
export const allOfIt = "data";

/** Whether a file of a parcel was found damaged or missing. */
export const isDamaged = ({ damaged }: Pick<LastCheck, "damaged">, path: string): boolean =>
  damaged.includes(path) || damaged.includes(allOfIt);

export function noteCheck(db: Db, parcel: string, at: number, damaged: string[]): void {
  prepared<[string, number, string]>(db, "INSERT OR REPLACE INTO parcel_check (parcel, at, damaged) VALUES (?, ?, ?)").run(
    parcel,
    at,
    JSON.stringify(damaged),
  );
}

/** More of a parcel was found damaged, without all of it having been read. */
export function noteDamage(db: Db, parcel: string, at: number, damaged: Iterable<string>): void {
  noteCheck(db, parcel, at, [...new Set([...(lastCheck(db, parcel)?.damaged ?? []), ...damaged])]);
}

export function lastCheck(db: Db, parcel: string): LastCheck | undefined {
  const row = prepared<[string], { at: number; damaged: string }>(
    db,
    "SELECT at, damaged FROM parcel_check WHERE parcel = ?",
  ).get(parcel);
  return row && { at: row.at, damaged: JSON.parse(row.damaged) };
}

const monthOf = (at: number) => new Date(at).toISOString().slice(0, 7);

/** Bytes that checks have read of a depot this month. */
export const bytesThisMonth = (db: Db, depot: string, now: number): number =>
  prepared<[string, string], number>(db, "SELECT bytes FROM checked_bytes WHERE depot = ? AND month = ?")
    .pluck()
    .get(depot, monthOf(now)) ?? 0;

export function countChecked(db: Db, depot: string, now: number, bytes: number): void {
  prepared<[string, string, number]>(
    db,
    `INSERT INTO checked_bytes (depot, month, bytes) VALUES (?, ?, ?)
     ON CONFLICT (depot, month) DO UPDATE SET bytes = bytes + excluded.bytes`,
  ).run(depot, monthOf(now), bytes);
}

/**
 * Throws where a parcel is known to be no place from which anything comes back: it was deleted, found damaged, or its depot is not
 * in reach or no longer in the list. Whether a cloud answers is not known before it is asked.
 */
export function expectWhole(known: { account: Pick<Account, "root" | "sample">; db: Db }, parcel: ParcelRef): void {
  const { db } = known;
  const place = shownName(parcel.name);
  const found = [...readRecords<ParcelRecord>(db, "parcel")].find(
    ([, { bag, depot }]) => bag === parcel.name && (parcel.depot === undefined || depot === parcel.depot),
  );
  if (!found) throw new Problem("parcel-deleted", { name: place });
  const [id, { title, depot }] = found;
  if ((lastCheck(db, id)?.damaged.length ?? 0) > 0)
    throw new Problem("parcel-damaged", { place: title, detail: "a check found it damaged" });
  const { depot: address } = parcelPlace(known, { ...parcel, depot: depot ?? undefined });
  if (address.kind === "cloud") return;
  const folder = address.folder === undefined ? undefined : realFolder(joinRaw(address.folder, parcel.name));
  if (folder === undefined) throw new Problem("depot-gone", { place: title });
}
