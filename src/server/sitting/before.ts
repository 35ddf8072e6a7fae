import type { Point } from "@/core/ledger/shapes";
import { writeLazily } from "../db/db";
import type { Engine, Reading } from "../engine";
import { type DayFigures, figuresNow } from "../survey/figures-of-day";
import { placesOn } from "../survey/survey";

/** What lay there when a sitting began. */
export interface Before {
  figures: Partial<Record<string, DayFigures>>;
  /** Where things lay on the desktop, by their ids, where the screen says so. */
  places: [id: string, x: number, y: number][] | null;
}

/** Keeps what lies there before the first verdict of a sitting. */
export function beginSitting(engine: Engine, sitting: string): void {
  const { db } = engine;
  if (db.prepare("SELECT 1 FROM sitting WHERE id = ?").get(sitting)) return;
  const lay = JSON.stringify({ figures: figuresNow(engine), places: placesNow(engine) } satisfies Before);
  writeLazily(db, () =>
    db.prepare("INSERT OR IGNORE INTO sitting (id, began_at, lay) VALUES (?, ?, ?)").run(sitting, engine.now(), lay),
  );
}

/** Where what is in sight lies on the desktop; null where the screen does not say. */
export function placesNow(engine: Engine): Before["places"] {
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop");
  const lying = desktop && placesOn(engine, desktop);
  if (!lying?.positioned) return null;
  return lying.items
    .filter(({ id }) => !lying.outOfSight.has(id))
    .map(({ id }): [string, number, number] => {
      const { x, y } = lying.points.get(id) as Point;
      return [id, Math.round(x), Math.round(y)];
    });
}

export function before({ db }: Pick<Reading, "db">, sitting: string): Before | undefined {
  const lay = db.prepare<[string], string>("SELECT lay FROM sitting WHERE id = ?").pluck().get(sitting);
  return lay === undefined ? undefined : (JSON.parse(lay) as Before);
}

/** The sitting before this one: when its last verdict was given, on what, and how many stand. */
export function sittingBefore(
  { db }: Pick<Reading, "db">,
  sitting?: string,
): { at: number; settled: number; last: string } | undefined {
  return db
    .prepare<[string], { at: number; settled: number; last: string }>(
      `SELECT max(entry.id), entry.at AS at, count(*) AS settled, item.label AS last
       FROM sitting_verdict JOIN entry ON entry.id = sitting_verdict.entry JOIN item ON item.id = sitting_verdict.item
       WHERE entry.state = 'done' AND sitting_verdict.sitting = (
         SELECT v.sitting FROM sitting_verdict v JOIN entry e ON e.id = v.entry
         WHERE e.state = 'done' AND v.sitting <> ? ORDER BY e.id DESC LIMIT 1)
       HAVING count(*) > 0`,
    )
    .get(sitting ?? "");
}
