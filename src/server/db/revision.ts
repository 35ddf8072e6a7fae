import type Database from "better-sqlite3";
import { sharedMemory } from "../shared";

type Db = Database.Database;

/** What answers are made from and kept for: each counts its own changes, so that one of them lets go of no other's. */
const concerns = ["item", "record", "folder", "sitting_verdict"] as const;
type Concern = (typeof concerns)[number];

const counts = sharedMemory<Db, Record<Concern, number>>("revisions");

/** Counts what this connection, the only one that writes, changes in each. A folder's walk number is no change of it. */
export function countChanges(db: Db): void {
  const revisions: Record<Concern, number> = { item: 0, record: 0, folder: 0, sitting_verdict: 0 };
  counts.set(db, revisions);
  for (const concern of concerns) {
    db.function(`changed_${concern}`, () => {
      revisions[concern]++;
      return null;
    });
    const columns = concern === "folder" ? "OF place, key, home, files, state" : "";
    for (const change of ["INSERT", `UPDATE ${columns}`, "DELETE"])
      db.exec(
        `CREATE TEMP TRIGGER ${concern}_${change.slice(0, 6)} AFTER ${change} ON main.${concern} BEGIN SELECT changed_${concern}(); END`,
      );
  }
}

/** Differs once anything of the concerns was changed since. Grows. */
export const revision = (db: Db, ...of: Concern[]): number => of.reduce((sum, concern) => sum + counts.get(db)![concern], 0);

interface Kept<Answer> {
  revision: number;
  answers: Map<string, Answer>;
}

/**
 * Makes a reading that is kept, by its key, for as long as what it was made from is the same. What it answers is everybody's
 * and must not be changed. Within a transaction nothing is kept, as what is read there may yet be rolled back.
 */
export function kept<Answer>(
  name: string,
  of: Concern[],
  read: (db: Db, key: string) => Answer,
): (db: Db, key: string) => Answer {
  const memory = sharedMemory<Db, Kept<Answer>>(`kept ${name}`);
  return (db, key) => {
    if (db.inTransaction) return read(db, key);
    const now = revision(db, ...of);
    let known = memory.get(db);
    if (known?.revision !== now) {
      known = { revision: now, answers: new Map() };
      memory.set(db, known);
    }
    if (!known.answers.has(key)) known.answers.set(key, read(db, key));
    return known.answers.get(key)!;
  };
}
