import type { Sharing } from "@/contract/views";
import type { Reading } from "../engine";
import { thingsOn } from "../survey/items";
import { heldUnsure, type OccasionNow, occasionsNow } from "./occasions";

/**
 * The occasion under way during which no names are sent to Vuoto's own pages; undefined where there is none. One that is held
 * in doubt, as the clock was set back, goes on.
 */
export function sharingNow(engine: Reading): OccasionNow | undefined {
  const all = occasionsNow(engine, ({ unnamed }) => unnamed === true);
  const now = all.find(({ period }) => period !== undefined);
  if (now || all.length === 0) return now;
  const held = heldUnsure(engine);
  return all.find(({ id }) => held.has(id));
}

/** What stands on the pages meanwhile: how many, and no names. */
export function sharingView(engine: Reading, outOfSight: number): Sharing | undefined {
  const now = sharingNow(engine);
  if (!now) return undefined;
  const words = engine.words();
  const { id, occasion, period } = now;
  const lying = engine.account.worktops.map((w) => ({
    words: w.id === "desktop" ? "on the desktop" : "in downloads",
    count: thingsOn(engine.db, w.id).length,
  }));
  return {
    occasion: id,
    title: occasion.title,
    until: period && Number.isFinite(period.end) ? words.clock(period.end) : undefined,
    counts: [...lying, { words: "out of sight", count: outOfSight }].map((one) => ({ ...one, count: words.count(one.count) })),
  };
}
