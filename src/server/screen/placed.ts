import type { Point } from "@/core/ledger/shapes";
import type { ScreenSize } from "@/core/screen/state";
import { layOut } from "@/core/survey/figures";
import type { Item } from "../survey/items";

/** The places that are known, and for each thing without one the next free spot, as a desktop does with what arrives. */
export function placed(
  items: readonly Item[],
  known: (item: Item) => Point | null | undefined,
  size: ScreenSize,
): Map<string, Point> {
  const found = new Map<string, Point>();
  const without = items.filter((item) => {
    const at = known(item);
    if (at) found.set(item.id, at);
    return !at;
  });
  if (without.length === 0) return found;
  const { icon } = size;
  // By cell of an icon's size: what can overlap a spot lies in its cell or one beside it.
  const cells = new Map<string, Point[]>();
  const cell = (x: number, y: number) => [Math.floor(x / icon.width), Math.floor(y / icon.height)] as const;
  for (const at of found.values()) {
    const key = cell(at.x, at.y).join();
    cells.set(key, [...(cells.get(key) ?? []), at]);
  }
  const isFree = (spot: Point) => {
    const [column, row] = cell(spot.x, spot.y);
    for (let c = column - 1; c <= column + 1; c++)
      for (let r = row - 1; r <= row + 1; r++)
        for (const at of cells.get(`${c},${r}`) ?? [])
          if (Math.abs(at.x - spot.x) < icon.width && Math.abs(at.y - spot.y) < icon.height) return false;
    return true;
  };
  const free = layOut(2000, size).points.filter(isFree);
  for (const [n, item] of without.entries()) found.set(item.id, free[n] ?? { x: 16, y: 16 });
  return found;
}
