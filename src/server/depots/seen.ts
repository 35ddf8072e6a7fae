import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import type { Capacity } from "./store";

/** What is remembered of a depot. */
export interface Seen extends Capacity {
  /** Bytes a second, there and back taken together, when something was last on its way to it. */
  rate?: number;
}

export function lastSeen(db: Db, depot: string): Seen | undefined {
  const row = prepared<[string], { free: number | null; total: number | null; rate: number | null }>(
    db,
    "SELECT free, total, rate FROM depot_seen WHERE depot = ?",
  ).get(depot);
  return row && { free: row.free ?? undefined, total: row.total ?? undefined, rate: row.rate ?? undefined };
}

export function noteRate(db: Db, depot: string, rate: number, at: number): void {
  prepared<[string, number, number]>(
    db,
    `INSERT INTO depot_seen (depot, at, rate) VALUES (?, ?, ?) ON CONFLICT (depot) DO UPDATE SET rate = excluded.rate`,
  ).run(depot, at, rate);
}
