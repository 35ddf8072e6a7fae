import type { Point } from "../ledger/shapes";
import { type Kind, kinds } from "../survey/kinds";
import type { Grid } from "./grid";

/** An icon that is to be given a place. */
export interface Icon extends Point {
  id: string;
  name: string;
  kind: Kind;
  bytes: number;
  /** Milliseconds since 1970. */
  mtimeMs: number;
}

export const orders = ["name", "kind", "size", "date"] as const;
export type Order = (typeof orders)[number];

/** An area for things of one kind: the cells that its icons take. Its heading is drawn in the plan only. */
export interface Bed extends Point {
  kind: Kind;
  width: number;
  height: number;
  count: number;
  /** Nothing else lies in it. */
  apart: boolean;
}

const { compare } = new Intl.Collator("en", { numeric: true, sensitivity: "base" });
const byName = (a: Icon, b: Icon) =>
  compare(a.name, b.name) || (a.name < b.name ? -1 : a.name > b.name ? 1 : a.id < b.id ? -1 : 1);
const place = new Map(kinds.map((kind, n) => [kind, n]));

const by: Record<Order, (a: Icon, b: Icon) => number> = {
  name: byName,
  kind: (a, b) => place.get(a.kind)! - place.get(b.kind)! || byName(a, b),
  size: (a, b) => b.bytes - a.bytes || byName(a, b),
  date: (a, b) => b.mtimeMs - a.mtimeMs || byName(a, b),
};

/** In an order: names as people count, the largest first, the latest changed first. */
export const inOrder = <I extends Icon>(icons: readonly I[], order: Order): I[] => icons.toSorted(by[order]);

/** Icons onto the first cells of a grid, in an order. There are no fewer cells than icons. */
export const ordered = (icons: readonly Icon[], order: Order, { spots }: Grid): Map<string, Point> =>
  new Map(inOrder(icons, order).map(({ id }, n) => [id, spots[n]!]));

/**
 * Like beside like: each kind begins a column of its own, the fullest first, with one left free between two where there is
 * room; where there are too few columns they follow one another without.
 */
export function inBeds(icons: readonly Icon[], grid: Grid): { spots: Map<string, Point>; beds: Bed[] } {
  const named = inOrder(icons, "name");
  const groups = kinds
    .map((kind) => [kind, named.filter((icon) => icon.kind === kind)] as const)
    .filter(([, group]) => group.length > 0)
    .sort(([, a], [, b]) => b.length - a.length);
  const { rows, columns } = grid;
  const needed = groups.reduce((sum, [, group]) => sum + Math.ceil(group.length / Math.max(1, rows)), 0);
  const apart = needed <= columns;
  const gap = needed + groups.length - 1 <= columns ? rows : 0;
  const spots = new Map<string, Point>();
  const beds: Bed[] = [];
  let next = 0;
  for (const [kind, group] of groups) {
    const first = next;
    for (const icon of group) spots.set(icon.id, grid.spots[next++]!);
    beds.push({ ...bedOf(kind, grid, first, group.length), apart });
    if (apart) next = Math.ceil(next / rows) * rows + gap;
  }
  return { spots, beds };
}

function bedOf(kind: Kind, { spots, rows, cell, indent }: Grid, first: number, count: number): Omit<Bed, "apart"> {
  const last = first + count - 1;
  const [from, to] = [Math.floor(first / rows), Math.floor(last / rows)];
  // Over several columns it is as high as a column.
  const [top, bottom] = from === to ? [first, last] : [from * rows, from * rows + rows - 1];
  const [x, y] = [spots[first]!.x - indent, spots[top]!.y];
  return {
    kind,
    count,
    x,
    y,
    width: spots[last]!.x - indent + cell.width - x,
    height: spots[bottom]!.y + cell.height - y,
  };
}

/** All that icons move, in pixels. */
export const wayOf = (icons: readonly Icon[], spots: ReadonlyMap<string, Point>): number =>
  icons.reduce((sum, { id, x, y }) => sum + Math.hypot(spots.get(id)!.x - x, spots.get(id)!.y - y), 0);
