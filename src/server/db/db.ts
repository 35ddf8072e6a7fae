import fs from "node:fs";
import path from "node:path";
import Database from "better-sqlite3";
import { Problem } from "@/core/problem";
import { install } from "../install";
import { countChanges } from "./revision";

export type Db = Database.Database;

/**
 * Opens the account's record and brings it to this version, or to `upTo`. Written through before a commit returns (WAL,
 * synchronous FULL). A record of a newer version is refused unchanged.
 */
export function openDb(file: string, upTo = newestVersion()): Db {
  let db: Db | undefined;
  try {
    // What SQLite makes beside it gets the same rights.
    fs.closeSync(fs.openSync(file, "a", 0o600));
    db = new Database(file);
    db.pragma("journal_mode = WAL");
    db.pragma("synchronous = FULL");
    db.pragma("foreign_keys = ON");
    db.pragma("busy_timeout = 5000");
    migrate(db, path.dirname(file), upTo);
    // One that is still to be upgraded answers nobody.
    if (upTo === newestVersion()) countChanges(db);
    return db;
  } catch (error) {
    db?.close();
    if (error instanceof Database.SqliteError && /NOTADB|CORRUPT/.test(error.code))
      throw new Problem("damaged-database", { place: file });
    throw error;
  }
}

export function migrations(): { version: number; sql: string }[] {
  const folder = install("src/server/db/migrations");
  return fs
    .readdirSync(folder)
    .filter((name) => /^\d{3}-.*\.sql$/.test(name))
    .sort()
    .map((name) => ({ version: Number(name.slice(0, 3)), sql: fs.readFileSync(path.join(folder, name), "utf8") }));
}

export const newestVersion = (): number => migrations().at(-1)?.version ?? 0;

function migrate(db: Db, place: string, upTo: number) {
  const newest = newestVersion();
  const version = db.pragma("user_version", { simple: true }) as number;
  if (version > newest) throw new Problem("newer-database", { place, detail: `version ${version}, this one knows ${newest}` });
  for (const migration of migrations()) {
    if (migration.version <= version || migration.version > upTo) continue;
    db.transaction(() => {
      db.exec(migration.sql);
      db.pragma(`user_version = ${migration.version}`);
    })();
  }
}

/**
 * Writes what can be found out again, or would only be done again: it is whole after a crash, and may be missing after a lost
 * power supply. What is written durably after it makes it durable too. Not within a transaction.
 */
export function writeLazily<T>(db: Db, work: () => T): T {
  db.pragma("synchronous = NORMAL");
  try {
    return db.transaction(work)();
  } finally {
    db.pragma("synchronous = FULL");
  }
}
