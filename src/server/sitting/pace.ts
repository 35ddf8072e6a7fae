import type { ItemRef } from "@/contract/items";
import { type Timed, type TimeLeft, timeLeft } from "@/core/sitting/pace";
import type { Kind } from "@/core/survey/kinds";
import { writeLazily } from "../db/db";
import { prepared } from "../db/prepared";
import { kept } from "../db/revision";
import type { Reading } from "../engine";
import { itemById } from "../survey/items";

/** A look that took longer was an interruption and says nothing about the pace. */
const longestLook = 120_000;
const latest = 200;

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

const times = kept("times", ["sitting_verdict"], (db): readonly Timed[] =>
  prepared<[number, number], Timed>(
    db,
    `SELECT item.kind AS kind, took_ms AS ms FROM sitting_verdict JOIN item ON item.id = sitting_verdict.item
     WHERE took_ms BETWEEN 1 AND ? ORDER BY sitting_verdict.rowid DESC LIMIT ?`,
  )
    .all(longestLook, latest)
    .reverse(),
);

/** How long the latest verdicts took, the latest last. */
export const timesTaken = ({ db }: Pick<Reading, "db">): readonly Timed[] => times(db, "");

/** How long it takes to decide about these things at the person's pace; undefined before ten verdicts. */
export function timeToClear(engine: Pick<Reading, "db">, things: Iterable<{ kind: Kind }>): TimeLeft | undefined {
  const left = new Map<Kind, number>();
  for (const { kind } of things) left.set(kind, (left.get(kind) ?? 0) + 1);
  return timeLeft(timesTaken(engine), left);
}
