import type { UndecidedAnswer } from "@/contract/sitting";
import { shownName } from "@/core/names/raw";
import { readRecords, type VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { stateOf } from "../jobs/work/read-worktop";
import { itemById, liesAbout } from "../survey/items";

/** What waits for a later verdict, those that are due first, and how each of it lies there now. */
export function undecidedList(engine: Engine): UndecidedAnswer[] {
  const now = engine.now();
  const list: (UndecidedAnswer & { at: number })[] = [];
  for (const [id, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.verdict !== "wait" || verdict.until === undefined) continue;
    const item = itemById(engine.db, id);
    // What was put into a home since, or let go, waits no more.
    if (!item || !liesAbout(engine, item.path)) continue;
    const there = engine.disk.identity(item.path);
    const isSame = verdict.state === undefined || item.identity.type === "folder" || (there && stateOf(there) === verdict.state);
    list.push({
      id,
      name: item.label,
      path: shownName(item.path),
      until: new Date(verdict.until).toISOString(),
      since: new Date(verdict.since ?? verdict.at).toISOString(),
      due: verdict.until <= now,
      state: !there ? "gone" : isSame ? "as it was" : "changed",
      at: verdict.until,
    });
  }
  return list.sort((a, b) => a.at - b.at || a.name.localeCompare(b.name)).map(({ at: _, ...one }) => one);
}
