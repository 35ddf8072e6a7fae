import type { Tile } from "@/contract/views";

export type Shading = "kind" | "age";

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

/** How much ink a tile has, in per cent, and the tone of the glyph on it. */
export function shadeOf(tile: Tile, shading: Shading): { ground: string; glyph: string } {
  const ink = shading === "age" ? ageInk[tile.ageTone]! : kindInk[tile.kind];
  return { ground: `color-mix(in oklab, var(--ink) ${ink}%, var(--sheet))`, glyph: ink > 45 ? "var(--sheet)" : "var(--ink)" };
}
