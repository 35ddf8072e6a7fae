import fs from "node:fs";
import path from "node:path";
import Database from "better-sqlite3";
import koffi from "koffi";
import { bytesOfRaw, type Raw } from "@/core/names/raw";

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

const LOCK_EX = 2;
const LOCK_NB = 4;
let flock: ((fd: number, operation: number) => number) | undefined;

/**
 * A lock in the account itself (flock(2) on its folders, which writes nothing): two records of one account never work on the
 * same files at once. The kernel frees it when the process ends. Answers undefined where somebody else holds one of them; a
 * file system that knows no such locks has none to hold.
 */
export function takeFolderLocks(folders: Raw[]): { release(): void } | undefined {
  flock ??= koffi.load("libc.so.6").func("int flock(int, int)") as NonNullable<typeof flock>;
  const held: number[] = [];
  const release = () => {
    for (const fd of held.splice(0)) fs.closeSync(fd);
  };
  for (const folder of new Set(folders)) {
    const fd = fs.openSync(Buffer.from(bytesOfRaw(folder)), fs.constants.O_RDONLY | fs.constants.O_DIRECTORY);
    held.push(fd);
    if (flock(fd, LOCK_EX | LOCK_NB) === 0 || koffi.errno() !== koffi.os.errno.EWOULDBLOCK) continue;
    release();
    return undefined;
  }
  return { release };
}
