import fs from "node:fs";
import path from "node:path";
import { Problem } from "@/core/problem";
import type { Account } from "./account";

/** Writes a small file of Vuoto's own, for the person alone. */
export function writeDataFile(account: Account, name: string, text: string): void {
  const file = path.join(account.data, name);
  fs.writeFileSync(`${file}.new`, text, { mode: 0o600 });
  fs.renameSync(`${file}.new`, file);
}

const mostOfData = 64 * 1024;

/**
 * Reads a small file that the person wrote into the data folder. @throws Problem "told-unfit" where it is missing, no
 * regular file, another user's, or where others could read or write it
 */
export function readDataFile(account: Pick<Account, "data">, name: string): string {
  const unfit = (detail: string) => new Problem("told-unfit", { detail });
  let fd: number;
  try {
    // A pipe would be waited for, a link lead elsewhere.
    fd = fs.openSync(path.join(account.data, name), fs.constants.O_RDONLY | fs.constants.O_NOFOLLOW | fs.constants.O_NONBLOCK);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw unfit(code === "ENOENT" ? "there is none" : code === "ELOOP" ? "it is a link" : "it cannot be opened");
  }
  try {
    const stat = fs.fstatSync(fd);
    if (!stat.isFile()) throw unfit("it is no file");
    if (stat.uid !== process.geteuid?.()) throw unfit("it belongs to another user");
    if ((stat.mode & 0o077) !== 0) throw unfit("others may read or write it; chmod 600 closes it");
    if (stat.nlink !== 1) throw unfit("it lies under another name too");
    if (stat.size > mostOfData) throw unfit("it is too large");
    return fs.readFileSync(fd, "utf8");
  } finally {
    fs.closeSync(fd);
  }
}
