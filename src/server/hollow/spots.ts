import type { Hollow } from "@/core/hollow/hollow";
import type { Raw } from "@/core/names/raw";
import type { Db } from "../db/db";
import { readRecords } from "../db/record";

/**
 * The hollows as they were made or put in order last, by path, with their spots on the screen where these are known. One that
 * somebody renamed is none of them until it is put in order.
 */
export const whereHollows = (db: Db): Map<Raw, { x: number; y: number } | undefined> =>
  new Map(
    [...readRecords<Hollow>(db, "hollow").values()].map(({ folder, x, y }) => [
      folder,
      x === null || y === null ? undefined : { x, y },
    ]),
  );
