import type { Point } from "../ledger/shapes";
import type { ScreenSize } from "../screen/state";

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

/** The boxes of an icon at a point: the icon's own and its label's. */
export function boxesAt(at: Point, screen: ScreenSize): [icon: Box, label: Box] {
  const { icon, label } = screen;
  return [
    { ...at, ...icon },
    { x: at.x + (icon.width - label.width) / 2, y: at.y + icon.height, ...label },
  ];
}

/**
 * The exact area of a union of boxes within the screen, in square pixels: a sweep over the left and right edges with
 * the covered length between each two, of the boxes that reach there (Klee's measure problem in the plane, Bentley 1977,
 * with a list in place of the tree, as few icons stand one above another).
 */
export function coveredArea(boxes: Box[], screen: { width: number; height: number }): number {
  const clipped = boxes
    .map((b) => ({
      left: Math.max(0, b.x),
      right: Math.min(screen.width, b.x + b.width),
      top: Math.max(0, b.y),
      bottom: Math.min(screen.height, b.y + b.height),
    }))
    .filter((b) => b.right > b.left && b.bottom > b.top)
    .sort((a, b) => a.left - b.left);
  const edges = [...new Set(clipped.flatMap((b) => [b.left, b.right]))].sort((a, b) => a - b);
  let area = 0;
  let next = 0;
  let here: typeof clipped = [];
  for (let n = 0; n + 1 < edges.length; n++) {
    const [left, right] = [edges[n]!, edges[n + 1]!];
    here = here.filter((b) => b.right > left);
    let came = false;
    for (; next < clipped.length && clipped[next]!.left <= left; next++) {
      here.push(clipped[next]!);
      came = true;
    }
    if (came) here.sort((a, b) => a.top - b.top);
    let length = 0;
    let reached = 0;
    for (const b of here) {
      if (b.bottom <= reached) continue;
      length += b.bottom - Math.max(b.top, reached);
      reached = b.bottom;
    }
    area += length * (right - left);
  }
  return area;
}

const meet = (a: Box, b: Box) => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

/** The indexes of the items whose icon or label meets that of another. */
export function overlapping(points: Point[], screen: ScreenSize): Set<number> {
  const all = points.flatMap((at, n) => boxesAt(at, screen).map((box) => ({ n, box })));
  all.sort((a, b) => a.box.x - b.box.x);
  const found = new Set<number>();
  for (let a = 0; a < all.length; a++) {
    const one = all[a]!;
    for (let b = a + 1; b < all.length && all[b]!.box.x < one.box.x + one.box.width; b++) {
      const other = all[b]!;
      if (one.n !== other.n && meet(one.box, other.box)) {
        found.add(one.n);
        found.add(other.n);
      }
    }
  }
  return found;
}

/**
 * Places for things whose screen gives none: by age, the longest untouched first, row by row within the sheet. Answers a
 * point for each, in the order given, and the height the sheet needs.
 */
export function layOut(count: number, screen: LaidOn): { points: Point[]; height: number } {
  const stepX = Math.max(screen.icon.width, screen.label.width) + 8;
  const stepY = screen.icon.height + screen.label.height + 14;
  const columns = Math.max(1, Math.floor((screen.width - 16) / stepX));
  const indent = (screen.label.width - screen.icon.width) / 2;
  const points = Array.from({ length: count }, (_, n) => ({
    x: 16 + Math.max(0, indent) + (n % columns) * stepX,
    y: 16 + Math.floor(n / columns) * stepY,
  }));
  return { points, height: 32 + Math.ceil(count / columns) * stepY };
}

/**
 * Places by age for things whose screen gives none, the longest untouched first, to the second: a point for each, in the order
 * in which they are given.
 */
export function laidByAge(things: readonly { mtimeMs: number }[], screen: LaidOn): { points: Point[]; height: number } {
  const { points, height } = layOut(things.length, screen);
  const second = things.map(({ mtimeMs }) => Math.floor(mtimeMs / 1000));
  const laid = new Array<Point>(things.length);
  const byAge = [...things.keys()].sort((a, b) => second[a]! - second[b]! || a - b);
  for (const [place, n] of byAge.entries()) laid[n] = points[place]!;
  return { points: laid, height };
}

type LaidOn = Pick<ScreenSize, "width" | "icon" | "label">;
