import type { Point } from "../ledger/shapes";
import { iconBoxes, iconSizes, type ScreenSize } from "../screen/state";

/** How a grid is laid over a screen; pixels. */
export interface GridLook {
  /** Between an icon with its label and the next. */
  spacing: number;
  /** Kept free along each edge. */
  margin: number;
}

export const firstGridLook: GridLook = { spacing: 14, margin: 24 };
export const mostSpacing = 200;
export const mostMargin = 600;

/** The cells in which icons can lie, so that none overlaps another or the edge, labels included. */
export interface Grid {
  columns: number;
  rows: number;
  /** What one icon takes with its label. */
  cell: { width: number; height: number };
  /** The upper left corner of an icon in each cell, column by column from the upper left. */
  spots: Point[];
  /** What of a cell lies left of its icon: a label may be wider. */
  indent: number;
}

export function gridOn(size: ScreenSize, { spacing, margin }: GridLook): Grid {
  const { icon, label } = size;
  const cell = { width: Math.max(icon.width, label.width), height: icon.height + label.height };
  const step = { x: cell.width + spacing, y: cell.height + spacing };
  const count = (space: number, own: number, each: number) => Math.max(0, Math.floor((space - 2 * margin - own) / each) + 1);
  const columns = count(size.width, cell.width, step.x);
  const rows = count(size.height, cell.height, step.y);
  const indent = Math.floor((cell.width - icon.width) / 2);
  const spots: Point[] = [];
  for (let column = 0; column < columns; column++)
    for (let row = 0; row < rows; row++) spots.push({ x: margin + column * step.x + indent, y: margin + row * step.y });
  return { columns, rows, cell, spots, indent };
}

/** The spot nearest to a place, of those that are not taken, by their number; undefined where there is none. */
export function nearestOf(spots: readonly Point[], { x, y }: Point, taken?: ReadonlySet<number>): Point | undefined {
  let best: Point | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const [n, spot] of spots.entries()) {
    if (taken?.has(n)) continue;
    const far = Math.hypot(spot.x - x, spot.y - y);
    if (far < least) [best, least] = [spot, far];
  }
  return best;
}

/** How many icons of each size would fit. */
export const roomOn = (size: ScreenSize, look: GridLook): { icon: number; fits: number }[] =>
  iconSizes.map((icon) => ({ icon, fits: gridOn({ ...size, ...iconBoxes(icon) }, look).spots.length }));

/** Whether what two icons take, with their labels, overlaps. */
export const meet = ({ cell }: Grid, a: Point, b: Point): boolean =>
  Math.abs(a.x - b.x) < cell.width && Math.abs(a.y - b.y) < cell.height;

/** The numbers of the spots of a grid on which an icon would overlap one that lies at a place. */
export function spotsMet({ columns, rows, cell, spots }: Grid, at: Point): number[] {
  const [first] = spots;
  if (!first) return [];
  const within = (from: number, own: number, step: number, count: number): number[] => {
    const least = Math.max(0, Math.floor((from - own) / step) + 1);
    const most = Math.min(count - 1, Math.ceil((from + own) / step) - 1);
    return Array.from({ length: Math.max(0, most - least + 1) }, (_, n) => least + n);
  };
  const step = {
    x: columns > 1 ? spots[rows]!.x - first.x : cell.width,
    y: rows > 1 ? spots[1]!.y - first.y : cell.height,
  };
  const down = within(at.y - first.y, cell.height, step.y, rows);
  return within(at.x - first.x, cell.width, step.x, columns).flatMap((column) => down.map((row) => column * rows + row));
}

/** Icons that lie somewhere, by which it is told whether another would overlap one of them. */
export class Lying {
  private readonly cells = new Map<string, Point[]>();

  constructor(private readonly grid: Grid) {}

  private keyAt({ x, y }: Point, right = 0, down = 0): string {
    const { width, height } = this.grid.cell;
    return `${Math.floor(x / width) + right} ${Math.floor(y / height) + down}`;
  }

  add(at: Point): void {
    const key = this.keyAt(at);
    const there = this.cells.get(key);
    if (there) there.push(at);
    else this.cells.set(key, [at]);
  }

  meets(at: Point): boolean {
    for (let right = -1; right <= 1; right++)
      for (let down = -1; down <= 1; down++)
        if (this.cells.get(this.keyAt(at, right, down))?.some((other) => meet(this.grid, at, other))) return true;
    return false;
  }
}

/** Whether an icon lies on the screen as a whole, with its label. */
export const isOn = ({ cell, indent }: Grid, { x, y }: Point, { width, height }: ScreenSize): boolean =>
  x - indent >= 0 && y >= 0 && x - indent + cell.width <= width && y + cell.height <= height;
