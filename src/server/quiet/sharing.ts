import type { Sharing } from "@/contract/views";
import type { Reading } from "../engine";
import { itemsOn } from "../survey/items";
import { type OccasionNow, occasionsNow } from "./occasions";

/** The occasion under way during which no names are sent to Vuoto's own pages; undefined where there is none. */
export const sharingNow = (engine: Reading): OccasionNow | undefined =>
  occasionsNow(engine, ({ unnamed }) => unnamed === true).find(({ period }) => period !== undefined);

/** What stands on the pages meanwhile: how many, and no names. */
export function sharingView(engine: Reading, outOfSight: number): Sharing | undefined {
  const now = sharingNow(engine);
  if (!now) return undefined;
  const words = engine.words();
  const { id, occasion, period } = now;
  const lying = engine.account.worktops.map((w) => ({
    words: w.id === "desktop" ? "on the desktop" : "in downloads",
    count: itemsOn(engine.db, w.id).length,
  }));
  return {
    occasion: id,
    title: occasion.title,
    until: period && Number.isFinite(period.end) ? words.clock(period.end) : undefined,
    counts: [...lying, { words: "out of sight", count: outOfSight }].map((one) => ({ ...one, count: words.count(one.count) })),
  };
}
