import type { SetStep } from "@/core/ledger/steps/set";
import { folderOf, type Raw } from "@/core/names/raw";
import { worktopOf } from "../account";
import { type HomeRecord, type ParcelRecord, readRecord, readRecords, type VerdictRecord } from "../db/record";
import type { Reading } from "../engine";
import { type Item, itemAt } from "../survey/items";

/** Records a verdict on an item, in the place of the one before. */
export function verdictStep(engine: Reading, item: Item, verdict: VerdictRecord): SetStep {
  const key = `verdict:${item.id}`;
  return { type: "set", key, from: readRecord(engine.db, key), to: { ...verdict } as SetStep["to"] };
}

/**
 * The verdicts in force by item: a home on a worktop stays; stay and wait until their date, archive until its parcel was sent (should the original
 * still lie there, it comes up again).
 */
export function verdictsInForce(engine: Reading): Map<string, VerdictRecord> {
  const parcels = readRecords<ParcelRecord>(engine.db, "parcel");
  const now = engine.now();
  const inForce = new Map<string, VerdictRecord>();
  for (const [item, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.until !== undefined && verdict.until <= now) continue;
    if (verdict.verdict === "archive" && parcels.get(verdict.parcel ?? "")?.state !== "collecting") continue;
    inForce.set(item, verdict);
  }
  // A home on a worktop is no clutter.
  for (const { folder, at } of readRecords<HomeRecord>(engine.db, "home").values()) {
    const item = worktopOf(engine.account, folderOf(folder as Raw)) && itemAt(engine.db, folder as Raw);
    if (item) inForce.set(item.id, { verdict: "stay", at });
  }
  return inForce;
}
