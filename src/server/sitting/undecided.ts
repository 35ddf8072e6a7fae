import type { UndecidedAnswer } from "@/contract/sitting";
import { shownName } from "@/core/names/raw";
import { readRecords, type VerdictRecord } from "../db/record";
import type { Engine, Reading } from "../engine";
import { stateOf } from "../jobs/work/read-worktop";
import { type Item, itemById, liesAbout } from "../survey/items";

/** What waits for a later verdict, with that; what was put into a home since, or let go, waits no more. */
export function waiting(engine: Reading): { item: Item; verdict: VerdictRecord & { until: number } }[] {
  const found: ReturnType<typeof waiting> = [];
  for (const [id, { until, ...verdict }] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.verdict !== "wait" || until === undefined) continue;
    const item = itemById(engine.db, id);
    if (item && liesAbout(engine, item.path)) found.push({ item, verdict: { ...verdict, until } });
  }
  return found;
}

/** The same as it is told, what is due first, and how each of it lies there now. */
export function undecidedList(engine: Engine): UndecidedAnswer[] {
  const now = engine.now();
  return waiting(engine)
    .sort((a, b) => a.verdict.until - b.verdict.until || a.item.label.localeCompare(b.item.label))
    .map(({ item, verdict }) => {
      const there = engine.disk.identity(item.path);
      const isSame =
        verdict.state === undefined || item.identity.type === "folder" || (there && stateOf(there) === verdict.state);
      return {
        id: item.id,
        name: item.label,
        path: shownName(item.path),
        until: new Date(verdict.until).toISOString(),
        since: new Date(verdict.since ?? verdict.at).toISOString(),
        due: verdict.until <= now,
        state: !there ? "gone" : isSame ? "as it was" : "changed",
      };
    });
}
