import type { Tile } from "@/contract/views";
import { ageTone } from "@/core/survey/tide";

export const shadings = ["kind", "age", "size", "nowhere else"] as const;
export type Shading = (typeof shadings)[number];

const ageInk = [6, 16, 28, 42, 58, 76];

/** Kinds that are alike in what becomes of them share a tone. */
const kindInk: Record<Tile["kind"], number> = {
  text: 4,
  table: 4,
  talk: 4,
  data: 14,
  picture: 14,
  sound: 14,
  video: 14,
  folder: 26,
  drive: 26,
  screenshot: 40,
  archive: 54,
  installer: 54,
  shortcut: 68,
  "web link": 68,
  "half download": 82,
  temporary: 82,
  other: 40,
};

/** From a kilobyte to a gigabyte, each ten times as large a step darker. */
const sizeInk = (bytes: number) => Math.min(78, Math.max(4, 4 + 12 * (Math.log10(bytes + 1) - 3)));
const nowhereInk = { nowhere: 72, unknown: 18, elsewhere: 2 };

function inkOf(tile: Tile, shading: Shading, now: number): number {
  switch (shading) {
    case "kind":
      return kindInk[tile.kind];
    case "age":
      return ageInk[ageTone(tile.mtimeMs, now)]!;
    case "size":
      return sizeInk(tile.bytes);
    case "nowhere else":
      return tile.elsewhere === undefined ? nowhereInk.unknown : tile.elsewhere ? nowhereInk.elsewhere : nowhereInk.nowhere;
    default:
      return shading satisfies never;
  }
}

/** How much ink a tile has, in per cent, and the tone of the glyph on it. */
export function shadeOf(tile: Tile, shading: Shading, now: number): { ground: string; glyph: string } {
  const ink = inkOf(tile, shading, now);
  return { ground: `color-mix(in oklab, var(--ink) ${ink}%, var(--sheet))`, glyph: ink > 45 ? "var(--sheet)" : "var(--ink)" };
}
