import fs from "node:fs";
import path from "node:path";
import readline from "node:readline";
import { createGunzip } from "node:zlib";
import Database from "better-sqlite3";
import { Problem } from "@/core/problem";
import { type Db, newestVersion, openDb } from "./db";

/**
 * What cannot be made anew, and so is kept in a copy: the ledger, what the person decided, where icons lie, by which id and
 * place things are known, and what was found out about depots and parcels.
 */
export const keptTables = [
  "entry",
  "step",
  "step_state",
  "temporary",
  "record",
  "position",
  "item",
  "sitting",
  "sitting_verdict",
  "figures_of_day",
  "given",
  "parcel_file",
  "parcel_thing",
  "parcel_check",
  "found_parcel",
  "sending",
  "checked_bytes",
  "depot_seen",
] as const;

/** What is in no copy, and why. */
export const leftTables = {
  folder: "read from the disk again",
  filed: "read from the disk again",
  compared: "compared again",
  session: "a copy that somebody finds must let nobody in",
} as const;

/** The first line of a copy. The others are rows, each with the name of its table; bytes stand as {"base64": …}. */
export interface BackupHead {
  vuoto: "backup";
  version: number;
  madeAt: string;
}

const mostKept = 7;
const folderOfCopies = (data: string) => path.join(data, "backups");
export const copyOfDay = (data: string, day: string) => path.join(folderOfCopies(data), `${day}.ndjson.gz`);

/** The daily copies, the newest first. */
export function copies(data: string): string[] {
  try {
    return fs
      .readdirSync(folderOfCopies(data))
      .filter((name) => /^\d{4}-\d{2}-\d{2}\.ndjson\.gz$/.test(name))
      .sort()
      .reverse()
      .map((name) => path.join(folderOfCopies(data), name));
  } catch {
    return [];
  }
}

export const sizeOnDisk = (file: string): number => fs.statSync(file, { throwIfNoEntry: false })?.size ?? 0;

/** Forgets all daily copies but the newest seven. */
export function forgetOldCopies(data: string): void {
  for (const file of copies(data).slice(mostKept)) fs.rmSync(file);
}

/** Whether the record that is open is still the file at its place: deleted or replaced, all that is written to it is lost. */
export function recordIsThere(db: Db): boolean {
  if (db.memory) return true;
  const opened = openedAs.get(db);
  const now = fs.statSync(db.name, { bigint: true, throwIfNoEntry: false });
  return opened === undefined || (now !== undefined && now.ino === opened);
}
const openedAs = new WeakMap<Db, bigint>();

/**
 * Opens the record of a data folder. One that is damaged is put aside, never thrown away, and made anew from the newest copy
 * that can be read; what was done about it is answered in words.
 */
export function openRecord(data: string, name: string): { db: Db; said: string[] } {
  const file = path.join(data, name);
  const isNew = !fs.existsSync(file);
  const said: string[] = [];
  let db: Db;
  if (isNew && copies(data).length > 0) {
    db = openDb(fromNewest(data, file, said, "Vuoto's record was gone."));
  } else {
    try {
      db = openDb(file);
    } catch (error) {
      if (!(error instanceof Problem && error.code === "damaged-database") || copies(data).length === 0) throw error;
      const aside = asideOf(file);
      fs.renameSync(file, aside);
      db = openDb(fromNewest(data, file, said, `Vuoto's record could not be read; it is kept as ${aside}.`));
    }
  }
  openedAs.set(db, fs.statSync(file, { bigint: true }).ino);
  return { db, said };
}

const asideOf = (file: string) => `${file}.damaged-${new Date().toISOString().replaceAll(":", "")}`;

function fromNewest(data: string, file: string, said: string[], why: string): string {
  // The log of another record would be played into the new one; what is in it may be the last there is, so it is kept too.
  if (fs.existsSync(`${file}-wal`)) fs.renameSync(`${file}-wal`, `${asideOf(file)}-wal`);
  fs.rmSync(`${file}-shm`, { force: true });
  for (const copy of copies(data)) {
    try {
      readBackupSync(copy, file);
      const day = path.basename(copy).slice(0, 10);
      said.push(`${why} It was made anew from the copy of ${day}: what was done after that is not in it.`);
      return file;
    } catch {
      // That copy is damaged too; an older one may not be.
      fs.rmSync(`${file}.new`, { force: true });
    }
  }
  throw new Problem("damaged-database", { place: file });
}

type Cell = null | number | string | { base64: string };

const toCell = (value: unknown): Cell => (Buffer.isBuffer(value) ? { base64: value.toString("base64") } : (value as Cell));
const fromCell = (cell: Cell) => (cell !== null && typeof cell === "object" ? Buffer.from(cell.base64, "base64") : cell);

/** The lines of a copy of a record, as it stands at one moment. */
export function* backupLines(file: string, now: number): Generator<string> {
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    db.exec("BEGIN");
    const head: BackupHead = {
      vuoto: "backup",
      version: db.pragma("user_version", { simple: true }) as number,
      madeAt: new Date(now).toISOString(),
    };
    yield JSON.stringify(head);
    for (const table of keptTables)
      for (const row of db.prepare<[], Record<string, unknown>>(`SELECT * FROM ${table}`).iterate())
        yield JSON.stringify({
          table,
          row: Object.fromEntries(Object.entries(row).map(([column, value]) => [column, toCell(value)])),
        });
  } finally {
    db.close();
  }
}

/**
 * Makes a record anew from the lines of a copy, beside its place, and then puts it there: at the version that the copy is of, so
 * that it is upgraded as the record itself would be.
 *
 * @throws Problem "no-backup" where it is none, or of a newer version
 */
function makeFrom(lines: Iterable<string>, file: string): void {
  const making = `${file}.new`;
  fs.rmSync(making, { force: true });
  const no = (detail: string) => new Problem("no-backup", { detail });
  let db: Db | undefined;
  try {
    const rows = parsedLines(lines, () => no("it is damaged"));
    const head = rows.next().value as BackupHead | undefined;
    if (!head) throw no("it is empty");
    if (head.vuoto !== "backup" || !Number.isInteger(head.version) || head.version < 1) throw no("it is none");
    if (head.version > newestVersion()) throw no("a newer Vuoto made it");
    db = openDb(making, head.version);
    pour(db, rows as Generator<BackupRow>, no);
    db.close();
    // Upgraded, and written in one piece.
    db = openDb(making);
    db.pragma("wal_checkpoint(TRUNCATE)");
  } catch (error) {
    db?.close();
    for (const end of ["", "-wal", "-shm"]) fs.rmSync(making + end, { force: true });
    throw error;
  }
  db.close();
  for (const end of ["-wal", "-shm"]) fs.rmSync(making + end, { force: true });
  fs.renameSync(making, file);
}

/** A line of a copy that is a row. */
interface BackupRow {
  table: (typeof keptTables)[number];
  row: Record<string, Cell>;
}

/** Puts the rows of a copy into a record of its version, in the place of what its upgrades put there. */
function pour(db: Db, rows: Iterable<BackupRow>, no: (detail: string) => Problem): void {
  const tables = new Set(db.prepare<[], string>("SELECT name FROM sqlite_schema WHERE type = 'table'").pluck().all());
  db.pragma("foreign_keys = OFF");
  db.transaction(() => {
    for (const table of keptTables) if (tables.has(table)) db.exec(`DELETE FROM ${table}`);
    for (const { table, row } of rows) {
      if (!keptTables.includes(table) || !tables.has(table)) throw no("it holds what is not understood");
      const columns = Object.keys(row).filter((column) => /^[a-z_0-9]+$/.test(column));
      try {
        db.prepare(`INSERT INTO ${table} (${columns.join(", ")}) VALUES (${columns.map(() => "?").join(", ")})`).run(
          ...columns.map((column) => fromCell(row[column]!)),
        );
      } catch (error) {
        throw error instanceof Database.SqliteError && !/FULL|IOERR/.test(error.code)
          ? no("it holds what is not understood")
          : error;
      }
    }
  })();
}

function* parsedLines(lines: Iterable<string>, damaged: () => Problem): Generator<unknown> {
  for (const line of lines) {
    if (line === "") continue;
    const read = parsed(line);
    if (!read) throw damaged();
    yield read;
  }
}

function parsed(line: string): Record<string, unknown> | undefined {
  try {
    return JSON.parse(line) as Record<string, unknown>;
  } catch {
    return undefined;
  }
}

function readBackupSync(copy: string, file: string): void {
  const { gunzipSync } = process.getBuiltinModule("node:zlib");
  makeFrom(gunzipSync(fs.readFileSync(copy)).toString("utf8").split("\n"), file);
}

/** Reads a copy back as the record of a data folder, in the place of the one that is there, which is kept beside it. */
export async function readBackup(copy: string, data: string, name: string): Promise<{ kept?: string }> {
  const file = path.join(data, name);
  const lines: string[] = [];
  const raw = fs.createReadStream(copy);
  const input = copy.endsWith(".gz") ? raw.pipe(createGunzip()) : raw;
  try {
    for await (const line of readline.createInterface({ input, crlfDelay: Number.POSITIVE_INFINITY })) lines.push(line);
  } catch (error) {
    throw new Problem("no-backup", { detail: error instanceof Error ? error.message : String(error) });
  }
  const kept = fs.existsSync(file) ? `${file}.before-${new Date().toISOString().replaceAll(":", "")}` : undefined;
  const making = path.join(data, `${name}.read`);
  makeFrom(lines, making);
  if (kept) {
    const before = new Database(file);
    before.pragma("wal_checkpoint(TRUNCATE)");
    before.close();
    fs.renameSync(file, kept);
  }
  for (const end of ["-wal", "-shm"]) fs.rmSync(file + end, { force: true });
  fs.renameSync(making, file);
  return { kept };
}
