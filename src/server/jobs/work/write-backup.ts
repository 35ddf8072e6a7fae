import { randomUUID } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import { createGzip } from "node:zlib";
import { Problem, type ProblemFacts } from "@/core/problem";
import { backupLines } from "../../db/backup";
import { diskProblem, errorCode } from "../../disk/disk-problem";
import type { WorkContext } from "../work-context";

/**
 * Writes a copy of what cannot be made anew of a record, compressed where the name says so; whole, or not at all. What is
 * called so already is left as it is.
 *
 * @throws Problem "name-taken"
 */
export async function writeBackup(
  { record, file, now }: { record: string; file: string; now: number },
  context: WorkContext,
): Promise<number> {
  const facts = { name: path.basename(file), place: path.dirname(file) };
  const taken = new Problem("name-taken", facts);
  if (fs.existsSync(file)) throw taken;
  const making = `${file}.${randomUUID().slice(0, 8)}.new`;
  let rows = 0;
  const lines = function* () {
    for (const line of backupLines(record, now)) {
      if (context.cancelled()) throw new Error("cancelled");
      rows++;
      yield `${line}\n`;
    }
  };
  fs.mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
  const out = fs.createWriteStream(making, { mode: 0o600, flags: "wx", flush: true });
  try {
    if (file.endsWith(".gz")) await pipeline(Readable.from(lines()), createGzip(), out);
    else await pipeline(Readable.from(lines()), out);
  } catch (error) {
    fs.rmSync(making, { force: true });
    throw diskProblem(error, facts);
  }
  try {
    // A rename would replace what came meanwhile.
    fs.linkSync(making, file);
  } catch (error) {
    if (errorCode(error) === "EEXIST") throw taken;
    // A file system without hard links.
    await copyWhole(making, file, facts);
  } finally {
    fs.rmSync(making, { force: true });
  }
  return rows - 1;
}

/** Copies a file to a name that nothing has, durable, or leaves nothing there. */
async function copyWhole(from: string, to: string, facts: ProblemFacts): Promise<void> {
  let fd: number;
  try {
    fd = fs.openSync(to, "wx", 0o600);
  } catch (error) {
    throw errorCode(error) === "EEXIST" ? new Problem("name-taken", facts) : diskProblem(error, facts);
  }
  try {
    await pipeline(fs.createReadStream(from), fs.createWriteStream("", { fd, flush: true }));
  } catch (error) {
    fs.rmSync(to, { force: true });
    throw diskProblem(error, facts);
  }
}
