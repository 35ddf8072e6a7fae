import type { WorktopId } from "../account";
import { writeLazily } from "../db/db";
import type { Engine, Reading } from "../engine";
import { nowhereElse } from "./protection";
import { sheetOf } from "./survey";

/** What a worktop's clutter cost at the last look of a day. */
export interface DayFigures {
  items: number;
  bytes: number;
  coveredShare: number | null;
  overlapping: number | null;
  nowhereElse: number | null;
}

/** A day as the person counts them, YYYY-MM-DD. */
export const dayOf = (at: number) => {
  const date = new Date(at);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
};

/** What each worktop's clutter costs now. */
export function figuresNow(engine: Engine): Record<string, DayFigures> {
  return Object.fromEntries(
    engine.account.worktops.map((worktop) => {
      const { figures } = sheetOf(engine, worktop);
      const now: DayFigures = {
        items: figures.items,
        bytes: figures.bytes,
        coveredShare: figures.coveredShare,
        overlapping: figures.overlapping?.size ?? null,
        nowhereElse: nowhereElse(engine, worktop.id)?.length ?? null,
      };
      return [worktop.id, now];
    }),
  );
}

/** Keeps today's figures, to compare with on another day. */
export function keepFigures(engine: Engine): void {
  const keep = engine.db.prepare(
    "INSERT INTO figures_of_day VALUES (?, ?, ?) ON CONFLICT (day, worktop) DO UPDATE SET figures = excluded.figures WHERE figures <> excluded.figures",
  );
  const today = dayOf(engine.now());
  for (const [worktop, figures] of Object.entries(figuresNow(engine)))
    writeLazily(engine.db, () => keep.run(today, worktop, JSON.stringify(figures)));
}

/** The figures of the last day before today on which Vuoto looked, and when that was. */
export function figuresLastTime(engine: Reading, worktop: WorktopId): { at: number; figures: DayFigures } | undefined {
  const row = engine.db
    .prepare<[string, string], { day: string; figures: string }>(
      "SELECT day, figures FROM figures_of_day WHERE worktop = ? AND day < ? ORDER BY day DESC LIMIT 1",
    )
    .get(worktop, dayOf(engine.now()));
  return row && { at: Date.parse(`${row.day}T12:00:00`), figures: JSON.parse(row.figures) as DayFigures };
}
