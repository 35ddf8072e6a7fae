import type { ItemRef } from "@/contract/items";
import { writeLazily } from "../db/db";
import type { Reading } from "../engine";

/** A look that took longer was an interruption and says nothing about the pace. */
const longestLook = 120_000;
const fewest = 10;

/** Keeps how long verdicts took, to tell how long the rest will. */
export function noteVerdicts(engine: Reading, sitting: string, items: ItemRef[], tookMs: number, entry: number): void {
  const insert = engine.db.prepare("INSERT OR IGNORE INTO sitting_verdict (sitting, item, took_ms, entry) VALUES (?, ?, ?, ?)");
  writeLazily(engine.db, () => {
    for (const item of items) if (typeof item === "string") insert.run(sitting, item, Math.round(tookMs / items.length), entry);
  });
}

/** Milliseconds that things without a verdict will take, from the mean of the last hundred verdicts; undefined before ten. */
export function timeToClear(engine: Reading, undecided: number): number | undefined {
  const row = engine.db
    .prepare<[number], { n: number; mean: number | null }>(
      `SELECT count(*) AS n, avg(took_ms) AS mean FROM
       (SELECT took_ms FROM sitting_verdict WHERE took_ms BETWEEN 1 AND ? ORDER BY rowid DESC LIMIT 100)`,
    )
    .get(longestLook);
  return row && row.n >= fewest && row.mean !== null ? row.mean * undecided : undefined;
}
