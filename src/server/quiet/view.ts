import type { QuietView } from "@/contract/views";
import { quietLevels } from "@/core/quiet/levels";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { sheetOf } from "../survey/survey";
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
    sheet: sheet && sheetView(engine, sheet),
    outOfSight: outOfSight.map(({ id, label, kind }) => ({ id, name: label, kind })),
    arrived,
    sentence: screenOf(engine).sentence,
    positioned: sheet?.positioned ?? false,
  };
}
