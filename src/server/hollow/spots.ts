import type { Hollow } from "@/core/hollow/hollow";
import type { Raw } from "@/core/names/raw";
import { readRecords } from "../db/record";
import type { Reading } from "../engine";

/** Where hollows lie on the screen that have no place of their own yet, by path. */
export const spotsOfHollows = ({ db }: Reading): Map<Raw, { x: number; y: number }> =>
  new Map(
    [...readRecords<Hollow>(db, "hollow").values()].flatMap(({ folder, x, y }) =>
      x === null || y === null ? [] : [[folder, { x, y }] as const],
    ),
  );
