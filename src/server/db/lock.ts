import fs from "node:fs";
import path from "node:path";
import Database from "better-sqlite3";

/**
 * The account's lock: an exclusive transaction held on a database of its own. The kernel frees it when the process ends,
 * however it ends. Answers undefined where somebody else holds it.
 */
export function takeLock(dataFolder: string): { release(): void } | undefined {
  const file = path.join(dataFolder, "lock.sqlite");
  fs.closeSync(fs.openSync(file, "a", 0o600));
  const db = new Database(file);
  try {
    db.pragma("busy_timeout = 0");
    db.pragma("journal_mode = DELETE");
    db.exec("BEGIN EXCLUSIVE");
    return { release: () => db.close() };
  } catch (error) {
    db.close();
    if (error instanceof Database.SqliteError && error.code.startsWith("SQLITE_BUSY")) return undefined;
    throw error;
  }
}
