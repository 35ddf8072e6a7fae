import fs from "node:fs";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { createGzip } from "node:zlib";
import { backupLines } from "../../db/backup";
import type { WorkContext } from "../work-context";

/** Writes a copy of what cannot be made anew of a record, compressed where the name says so; whole, or not at all. */
export async function writeBackup(
  { record, file, now }: { record: string; file: string; now: number },
  context: WorkContext,
): Promise<number> {
  const making = `${file}.new`;
  let rows = 0;
  const lines = function* () {
    for (const line of backupLines(record, now)) {
      if (context.cancelled()) throw new Error("cancelled");
      rows++;
      yield `${line}\n`;
    }
  };
  fs.mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  fs.rmSync(making, { force: true });
  const out = fs.createWriteStream(making, { mode: 0o600, flags: "wx", flush: true });
  try {
    if (file.endsWith(".gz")) await pipeline(Readable.from(lines()), createGzip(), out);
    else await pipeline(Readable.from(lines()), out);
  } catch (error) {
    fs.rmSync(making, { force: true });
    throw error;
  }
  fs.renameSync(making, file);
  return rows - 1;
}
