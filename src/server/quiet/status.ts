import type { QuietAnswer } from "@/contract/quiet";
import { shownName } from "@/core/names/raw";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { endingSoon } from "./longer";
import { quietNow } from "./quiet";

/** How it stands, as data, of a screen that was asked, where it can be. */
export async function askedStatus(engine: Engine): Promise<QuietAnswer> {
  await screenOf(engine).ask?.(engine);
  return quietStatus(engine);
}

/** How it stands, as data. */
export function quietStatus(engine: Engine): QuietAnswer {
  const { shown, outOfSight, arrived, left, believed } = quietNow(engine);
  const iso = (at: number | null) => (at === null || at === 0 ? null : new Date(at).toISOString());
  const ending = endingSoon(engine);
  return {
    hidden: believed === "known" && (shown.level !== "everything" || outOfSight.length > 0),
    believed,
    level: shown.level,
    since: iso(shown.since),
    until: iso(shown.until),
    endsSoon: ending && { title: ending.occasion?.title ?? null, at: new Date(ending.at).toISOString() },
    outOfSight: outOfSight.map((item) => ({ name: item.label, path: shownName(item.path) })),
    arrived,
    inUse: left.length,
  };
}
