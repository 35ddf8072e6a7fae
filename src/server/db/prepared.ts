import type { Statement } from "better-sqlite3";
import type { Db } from "./db";

const statements = new WeakMap<Db, Map<string, Statement>>();

/** A statement that is used a thousand times in an act, prepared once. */
export function prepared<Parameters extends unknown[] = unknown[], Row = unknown>(
  db: Db,
  sql: string,
): Statement<Parameters, Row> {
  let known = statements.get(db);
  if (!known) {
    known = new Map();
    statements.set(db, known);
  }
  let statement = known.get(sql);
  if (!statement) {
    statement = db.prepare(sql);
    known.set(sql, statement);
  }
  return statement as unknown as Statement<Parameters, Row>;
}
