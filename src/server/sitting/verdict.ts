import type { Plan } from "@/core/ledger/step";
import type { SetStep } from "@/core/ledger/steps/set";
import { folderOf, type Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Words } from "@/core/words/words";
import { worktopOf } from "../account";
import {
  type HomeRecord,
  type ParcelRecord,
  type ProjectRecord,
  readRecord,
  readRecords,
  type VerdictRecord,
} from "../db/record";
import type { Reading } from "../engine";
import { whereHomeLies } from "../homes/where";
import { type Item, itemAt } from "../survey/items";

/** Records a verdict on an item, in the place of the one before. */
export function verdictStep(engine: Reading, item: Item, verdict: VerdictRecord): SetStep {
  const key = `verdict:${item.id}`;
  return { type: "set", key, from: readRecord(engine.db, key), to: { ...verdict } as SetStep["to"] };
}

/** A verdict in words. */
export function verdictWords({ verdict, until, project }: VerdictRecord, words: Words): string {
  if (verdict === "archive") return "collected for a parcel";
  if (project !== undefined) return "stays while its project is under way";
  if (until === undefined) return "stays on purpose";
  return `${verdict === "stay" ? "stays" : "waits"} until ${words.date(until)}`;
}

/** That a thing was decided elsewhere, and how. */
export const decidedAlready = ({ label }: Item, verdict: VerdictRecord, words: Words) =>
  new Problem("decided", { name: label, detail: verdictWords(verdict, words) });

/**
 * In a sitting a thing is decided once: of what was decided elsewhere meanwhile it is said, and it is left so. `sitting`: the one
 * in which the verdict is given.
 */
export function onceDecided(engine: Reading, items: Item[], sitting?: string): { items: Item[]; left: Plan["left"] } {
  if (sitting === undefined) return { items, left: [] };
  const verdicts = verdictsInForce(engine);
  const left = items.flatMap((item) => {
    const verdict = verdicts.get(item.id);
    if (!verdict) return [];
    const problem = decidedAlready(item, verdict, engine.words());
    return [{ name: item.label, item: item.id, code: problem.code, why: problem.message }];
  });
  return { items: items.filter(({ id }) => !verdicts.has(id)), left };
}

/**
 * The verdicts in force by item: a home on a worktop stays; stay and wait until their date, or while its project is under way; archive
 * until its parcel was sent (should the original still lie there, it comes up again).
 */
export function verdictsInForce(engine: Reading): Map<string, VerdictRecord> {
  const parcels = readRecords<ParcelRecord>(engine.db, "parcel");
  const projects = readRecords<ProjectRecord>(engine.db, "project");
  const now = engine.now();
  const inForce = new Map<string, VerdictRecord>();
  for (const [item, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.until !== undefined && verdict.until <= now) continue;
    const project = verdict.project === undefined ? undefined : projects.get(verdict.project);
    // One that was taken back is no reason to stay.
    if (verdict.project !== undefined && (!project || project.endedAt !== undefined)) continue;
    if (verdict.verdict === "archive" && parcels.get(verdict.parcel ?? "")?.state !== "collecting") continue;
    inForce.set(item, verdict);
  }
  // A home on a worktop is no clutter.
  for (const { folder, at } of readRecords<HomeRecord>(engine.db, "home").values()) {
    if (!worktopOf(engine.account, folderOf(folder as Raw))) continue;
    const item = itemAt(engine.db, whereHomeLies(engine, folder as Raw));
    if (item) inForce.set(item.id, { verdict: "stay", at });
  }
  return inForce;
}
