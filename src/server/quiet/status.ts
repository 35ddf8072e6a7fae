import type { QuietAnswer, ShownAnswer } from "@/contract/quiet";
import { nameOf, shownName } from "@/core/names/raw";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { outOfSight } from "../screen/sight";
import { thingsOn } from "../survey/items";
import { endingSoon } from "./longer";
import { occasionDoubt, occasionsNow } from "./occasions";
import { quietNow } from "./quiet";

/** How it stands, as data, of a screen that was asked, where it can be. */
export async function askedStatus(engine: Engine): Promise<QuietAnswer> {
  await screenOf(engine).ask?.(engine);
  return quietStatus(engine);
}

/** How it stands, as data. */
export function quietStatus(engine: Engine): QuietAnswer {
  const { shown, outOfSight, unknown, arrived, left, gone, doubt, believed } = quietNow(engine);
  const iso = (at: number | null) => (at === null || at === 0 ? null : new Date(at).toISOString());
  const ending = endingSoon(engine);
  return {
    hidden: believed === "known" && (shown.level !== "everything" || outOfSight.length + unknown.length > 0),
    believed,
    level: shown.level,
    since: iso(shown.since),
    until: iso(shown.until),
    underWay: occasionsNow(engine).flatMap(({ occasion: { title }, period }) =>
      period ? [{ title, until: Number.isFinite(period.end) ? new Date(period.end).toISOString() : null }] : [],
    ),
    endsSoon: ending && { title: ending.occasion?.title ?? null, at: new Date(ending.at).toISOString() },
    doubt: doubt ? "clock" : occasionDoubt(engine),
    outOfSight: [
      ...outOfSight.map((item) => ({ name: item.label, path: shownName(item.path) })),
      ...unknown.map((path) => ({ name: shownName(nameOf(path)), path: shownName(path) })),
    ],
    arrived,
    inUse: left.length,
    gone: gone.map((item) => ({ name: item.label, path: shownName(item.path) })),
  };
}

/** What the screen shows now: soon, for a page that draws it. */
export function shownNow(engine: Engine): ShownAnswer {
  const items = thingsOn(engine.db, "desktop");
  const { shown } = readScreen(engine.db);
  const away = outOfSight(engine, items, shown);
  return {
    level: shown.level,
    outOfSight: away.size === 0 ? "nothing" : away.size === items.length ? "all" : [...away],
  };
}
