import type { Point } from "@/core/ledger/shapes";
import type { ScreenSize } from "@/core/screen/state";
import { layOut } from "@/core/survey/figures";
import type { Item } from "../survey/items";

const mostSpots = 2000;
const layerStep = 5;

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
  const all = layOut(mostSpots, size).points.filter(({ y }) => y + icon.height <= size.height);
  const free = all.filter(isFree);
  for (const [n, item] of without.entries()) {
    const spot = free[n] ?? all[(n - free.length) % all.length] ?? { x: 16, y: 16 };
    // Where there is no free one left they lie in layers, each a little beside the one below.
    const beside = free[n] ? 0 : layerStep * (1 + Math.floor((n - free.length) / Math.max(1, all.length)));
    found.set(item.id, { x: spot.x + beside, y: spot.y + beside });
  }
  return found;
}
