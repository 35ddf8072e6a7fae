import type { OverlookedView, SheetView, Tile } from "@/contract/views";
import type { Engine } from "../engine";
import { hollowsDrawn } from "../hollow/hollows";
import { verdictsInForce, verdictWords } from "../sitting/verdict";
import type { Item } from "./items";
import { elsewhere } from "./protection";
import type { Lying } from "./survey";

/** A picture shows itself where it is one that can be made small. */
export const showsItself = (item: Item) =>
  (item.kind === "picture" || item.kind === "screenshot") && item.identity.type === "file" && item.facts.width !== undefined;

/** A group of which only the first are drawn at once. */
export const firstTiles = (items: readonly Item[]): Pick<OverlookedView, "tiles" | "more"> => ({
  tiles: items.slice(0, mostDrawn).map((item) => tileOf(item)),
  more: items.slice(mostDrawn).map(({ id }) => id),
});
const mostDrawn = 36;

export function tileOf(item: Item, verdict?: string): Tile {
  return {
    id: item.id,
    name: item.label,
    kind: item.kind,
    bytes: item.bytes,
    entries: item.identity.type === "folder" ? (item.facts.entries ?? 0) : undefined,
    // To the second: no view says it finer.
    mtimeMs: Math.floor(item.mtimeMs / 1000) * 1000,
    x: 0,
    y: 0,
    picture: showsItself(item),
    outOfSight: false,
    overlapping: false,
    verdict,
    worktop: item.worktop ?? "",
  };
}

/** A sheet as it is drawn. `overlapping`: those that lie over or under another. */
export function sheetView(engine: Engine, sheet: Lying, overlapping?: ReadonlySet<string> | null): SheetView {
  const words = engine.words();
  const verdicts = verdictsInForce(engine);
  const known = elsewhere(engine);
  const undrawn = hollowsDrawn(engine);
  return {
    worktop: sheet.worktop.id,
    width: sheet.screen.width,
    height: sheet.height,
    screenHeight: sheet.positioned ? sheet.screen.height : 0,
    icon: sheet.screen.icon,
    label: sheet.screen.label,
    tiles: sheet.items.map((item) => {
      const verdict = verdicts.get(item.id);
      return {
        ...tileOf(item, verdict && verdictWords(verdict, words)),
        ...undrawn.get(item.path),
        ...sheet.points.get(item.id)!,
        outOfSight: sheet.outOfSight.has(item.id),
        overlapping: overlapping?.has(item.id) ?? false,
        elsewhere: known?.get(item.id),
      };
    }),
  };
}
