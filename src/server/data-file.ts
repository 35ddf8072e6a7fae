import fs from "node:fs";
import path from "node:path";
import type { Account } from "./account";

/** Writes a small file of Vuoto's own, for the person alone. */
export function writeDataFile(account: Account, name: string, text: string): void {
  const file = path.join(account.data, name);
  fs.writeFileSync(`${file}.new`, text, { mode: 0o600 });
  fs.renameSync(`${file}.new`, file);
}
