import type { QuietView } from "@/contract/views";
import { quietLevels } from "@/core/quiet/levels";
import { laidByAge } from "@/core/survey/figures";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { inPile } from "../sitting/view";
import { type Sheet, sheetOf } from "../survey/survey";
import { sheetView } from "../survey/tile";
import { quietNow } from "./quiet";

/** The screen as it is shown now, the levels, and what is out of sight. */
export function quietView(engine: Engine): QuietView {
  const words = engine.words();
  const { level, outOfSight, arrived, counts } = quietNow(engine);
  const desktop = engine.account.worktops.find((w) => w.id === "desktop");
  const sheet = desktop && sheetOf(engine, desktop);
  const stays = counts["what stays"];
  const wordsOf: Record<(typeof quietLevels)[number], string> = {
    everything: words.counted(counts.everything, "icon"),
    "some kinds": "",
    "what stays": stays === 0 ? "you left none on purpose yet" : `${words.counted(stays, "icon")} you left on purpose`,
    bare: "the wallpaper alone",
  };
  return {
    level,
    levels: quietLevels.map((l) => ({ level: l as QuietView["levels"][number]["level"], words: wordsOf[l], now: l === level })),
    ...drawnOf(engine, sheet),
    outOfSight: outOfSight.map(inPile),
    arrived,
    sentence: screenOf(engine).sentence,
    positioned: sheet?.positioned ?? false,
  };
}

/** The icons that are in sight, as they are drawn on a screen. */
function drawnOf(engine: Engine, sheet: Sheet | undefined): Pick<QuietView, "sheet" | "undrawn"> {
  if (!sheet) return { undrawn: 0 };
  const view = sheetView(engine, sheet);
  const inSight = view.tiles.filter((tile) => !tile.outOfSight);
  if (sheet.positioned) return { sheet: { ...view, tiles: inSight }, undrawn: 0 };
  // Laid out by age they may need more room than a screen has: the longest untouched are drawn.
  const { height } = sheet.screen;
  const laid = laidByAge(inSight, sheet.screen).points.map((at, n) => ({ ...inSight[n]!, ...at }));
  const tiles = laid.filter(({ y }) => y + sheet.screen.icon.height + sheet.screen.label.height <= height);
  return { sheet: { ...view, height, tiles }, undrawn: inSight.length - tiles.length };
}
