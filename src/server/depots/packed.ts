import type { Db } from "../db/db";
import { ParcelFiles, type Said, stateIn } from "./parcel-files";
import { sendingRow } from "./sending-row";

/** What sending found out: for each item whose copy was proven, its state then; for each that was not, why. */
export interface Packed {
  proven: Record<string, string>;
  failed: Record<string, Said>;
  files: number;
  bytes: number;
  /** SHA-256 of the tag manifest. */
  tags: string;
}

/** What was found out of a parcel that has arrived. */
export function packedOf(db: Db, parcel: string): Packed {
  const known = new ParcelFiles(db, parcel);
  const { files, bytes } = known.howFar();
  const packed: Packed = { proven: {}, failed: {}, files, bytes, tags: sendingRow(db, parcel)?.tags ?? "" };
  for (const { item, said } of known.leftOut()) packed.failed[item] = said;
  for (const { item, state } of known.things()) if (state !== null) packed.proven[item] = stateIn(state).state;
  return packed;
}
