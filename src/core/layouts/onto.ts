import type { Point } from "../ledger/shapes";
import type { ScreenSize } from "../screen/state";
import { firstGridLook, type Grid, gridOn, isOn, Lying, nearestOf, spotsMet } from "../straighten/grid";

/** Where the icons of a layout come to lie, and those that it does not know. */
export interface Onto {
  spots: Map<string, Point>;
  /** How many could not lie as far from the edges as they did, as they would overlap or be off the screen. */
  shifted: number;
  /** How many found no free place at all. */
  crowded: number;
}

/**
 * Places of a layout onto a screen: exact on one of the same size; on another as far from the nearest edges as they were, the
 * nearest free place where that is taken or off. Icons that it does not know stay where they lie, or get the nearest free place.
 */
export function onto(
  kept: ReadonlyMap<string, Point>,
  others: ReadonlyMap<string, Point>,
  from: ScreenSize,
  to: ScreenSize,
): Onto {
  const same = from.width === to.width && from.height === to.height;
  const wanted = same ? kept : new Map([...kept].map(([id, at]) => [id, fromEdges(at, from, to)]));
  const loose = new Laying(to, [gridOn(to, firstGridLook), gridOn(to, dense)]);
  for (const [id, at] of wanted) {
    if (same) loose.lay(id, at);
    else loose.layFree(id, at);
  }
  for (const [id, at] of others) loose.layFree(id, at);
  if (loose.crowded === 0 || same) return loose;
  // What lies between cells takes the room of several: all of them onto cells, where there are enough.
  const count = wanted.size + others.size;
  const grid = [gridOn(to, firstGridLook), gridOn(to, dense)].find(({ spots }) => spots.length >= count);
  if (!grid) return loose;
  const onCells = new Laying(to, [grid]);
  for (const [id, at] of [...wanted, ...others]) onCells.layOnCell(id, at);
  return onCells;
}

const dense = { spacing: 0, margin: 0 };

/** Lays icons one after the other, and knows where there is room. */
class Laying implements Onto {
  readonly spots = new Map<string, Point>();
  shifted = 0;
  crowded = 0;
  private readonly lying: Lying;
  /** For each of the grids the cells on which something lies. */
  private readonly taken: Set<number>[];

  constructor(
    private readonly screen: ScreenSize,
    private readonly grids: [Grid, ...Grid[]],
  ) {
    this.lying = new Lying(grids[0]);
    this.taken = grids.map(() => new Set());
  }

  lay(id: string, at: Point): void {
    this.spots.set(id, at);
    this.lying.add(at);
    for (const [n, grid] of this.grids.entries()) for (const cell of spotsMet(grid, at)) this.taken[n]!.add(cell);
  }

  layFree(id: string, at: Point): void {
    if (isOn(this.grids[0], at, this.screen) && !this.lying.meets(at)) this.lay(id, at);
    else this.layOnCell(id, at);
  }

  layOnCell(id: string, at: Point): void {
    const spot = this.grids.map(({ spots }, n) => nearestOf(spots, at, this.taken[n])).find((found) => found !== undefined);
    if (!spot) this.crowded++;
    else if (spot.x !== at.x || spot.y !== at.y) this.shifted++;
    this.lay(id, spot ?? within(at, this.screen));
  }
}

/** As far from the nearer edges of the one screen as of the other. */
function fromEdges({ x, y }: Point, from: ScreenSize, to: ScreenSize): Point {
  const along = (at: number, own: number, was: number, is: number) =>
    at + own / 2 <= was / 2 ? at : Math.round(is - (was - at - own) - own);
  return {
    x: along(x, from.icon.width, from.width, to.width),
    y: along(y, from.icon.height + from.label.height, from.height, to.height),
  };
}

const within = ({ x, y }: Point, { width, height, icon, label }: ScreenSize): Point => ({
  x: Math.max(0, Math.min(x, width - icon.width)),
  y: Math.max(0, Math.min(y, height - icon.height - label.height)),
});
