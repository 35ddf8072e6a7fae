import type { QuietView, Tile } from "@/contract/views";
import { type HowMuch, hiddenBy } from "@/core/quiet/levels";
import type { QuietLevel } from "@/core/screen/state";
import { laidByAge } from "@/core/survey/figures";
import type { Kind } from "@/core/survey/kinds";

/** What is tried: a level, and with "some kinds" these. */
export interface Tried {
  level: QuietLevel;
  kinds: Kind[];
}

/** The icons of a desktop. A hollow is drawn as nothing, and is none; it stays where it lies, whatever is out of sight. */
export const iconsOf = (tiles: readonly Tile[]): Tile[] => tiles.filter(({ blank }) => blank === undefined);

/** The things that would be out of sight, by what is tried; without it, those that are. */
export function awayBy(view: QuietView, tried?: Tried): Set<string> {
  const tiles = view.sheet?.tiles ?? [];
  if (!tried) return new Set(tiles.filter((tile) => tile.outOfSight).map(({ id }) => id));
  const stays = new Set(view.stays);
  const icons = iconsOf(tiles).map(({ id, kind }) => ({ id, kind, stays: stays.has(id), arrivedAt: 0 }));
  // As the act does: everything is everything, and what was hidden by itself stays so at any other level.
  const wanted: HowMuch = { ...tried, apart: tried.level === "everything" ? [] : view.apart, despite: [] };
  return new Set(hiddenBy(wanted, icons));
}

/** The icons that are drawn: where they lie, or, where this screen does not say, by age, as many as fit on one. */
export function drawnBy(view: QuietView, away: ReadonlySet<string>): { tiles: Tile[]; undrawn: number } {
  const { sheet } = view;
  if (!sheet) return { tiles: [], undrawn: 0 };
  const inSight = sheet.tiles.filter(({ id }) => !away.has(id));
  if (view.positioned) return { tiles: inSight, undrawn: 0 };
  const laid = laidByAge(inSight, sheet).points.map((at, n) => ({ ...inSight[n]!, ...at }));
  const tiles = laid.filter(({ y }) => y + sheet.icon.height + sheet.label.height <= screenHeight(view));
  return { tiles, undrawn: inSight.length - tiles.length };
}

/** How high the screen is, in its pixels: where it does not say, as high as screens mostly are to their width. */
export const screenHeight = ({ sheet }: QuietView): number =>
  sheet ? sheet.screenHeight || Math.round((sheet.width * 9) / 16) : 0;
