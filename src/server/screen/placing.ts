import { isDeepStrictEqual } from "node:util";
import type { Point } from "@/core/ledger/shapes";
import type { Step } from "@/core/ledger/step";
import type { ScreenSize } from "@/core/screen/state";
import type { Db } from "../db/db";
import { readPosition, readScreen } from "../db/record";

/** The steps by which icons come to lie somewhere, in a size; of what is so already, none. */
export function placingSteps(db: Db, size: ScreenSize, spots: ReadonlyMap<string, Point>): Step[] {
  const before = readScreen(db).size;
  const steps: Step[] = isDeepStrictEqual(size, before) ? [] : [{ type: "screen", part: "size", from: before, to: size }];
  for (const [item, { x, y }] of spots) {
    const from = readPosition(db, item);
    if (from?.x !== x || from.y !== y) steps.push({ type: "place", item, from, to: { x, y } });
  }
  return steps;
}
