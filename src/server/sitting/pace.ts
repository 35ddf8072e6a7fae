import type { ItemRef } from "@/contract/items";
import { writeLazily } from "../db/db";
import type { Reading } from "../engine";
import { itemById } from "../survey/items";

/** A look that took longer was an interruption and says nothing about the pace. */
const longestLook = 120_000;
const fewest = 10;

/** The things of a verdict with what they take, told before it is done: of a folder that has left it is not known any more. */
export const weighed = (engine: Reading, items: ItemRef[]): Weighed[] =>
  items.flatMap((id) => (typeof id === "string" ? [{ id, bytes: itemById(engine.db, id)?.bytes ?? 0 }] : []));

interface Weighed {
  id: string;
  bytes: number;
}

/** Keeps how long verdicts took, to tell how long the rest will, and what their things took. */
export function noteVerdicts(engine: Reading, sitting: string, items: Weighed[], tookMs: number, entry: number): void {
  const insert = engine.db.prepare(
    "INSERT OR IGNORE INTO sitting_verdict (sitting, item, took_ms, entry, bytes) VALUES (?, ?, ?, ?, ?)",
  );
  writeLazily(engine.db, () => {
    for (const { id, bytes } of items) insert.run(sitting, id, Math.round(tookMs / items.length), entry, bytes);
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
