import { type Raw, rawFromBytes } from "@/core/names/raw";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import { ParcelFiles } from "./parcel-files";

/** A parcel that lies in a depot and was not sent from here: another Vuoto's, or a bag that another program made. */
export interface FoundRow {
  parcel: string;
  depot: string;
  bag: Raw;
  title: string;
  things: number;
  files: number;
  bytes: number;
  at: number;
}

export const foundRows = (db: Db): FoundRow[] =>
  prepared<[], Omit<FoundRow, "bag"> & { bag: Buffer }>(db, "SELECT * FROM found_parcel")
    .all()
    .map((row) => ({ ...row, bag: rawFromBytes(row.bag) }));

/** What is known of the things of a parcel, and that it was found, is known no longer. */
export function forgetFound(db: Db, parcel: string): void {
  new ParcelFiles(db, parcel).forget();
  prepared<[string]>(db, "DELETE FROM found_parcel WHERE parcel = ?").run(parcel);
}
