import { createHash } from "node:crypto";
import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import type { WorkContext } from "../work-context";
import { hashFile } from "./hash-files";

/** Files of one size; `hashed` where the SHA-256 is known already. */
export interface SameSize {
  bytes: number;
  files: { path: Raw; hashed: boolean }[];
}

const endBytes = 4096;
/** Smaller files are read whole at once. */
const smallBytes = 64 * 1024;

/**
 * SHA-256 of those files that share size, first and last bytes with another of their group; the others cannot be identical
 * with any and have none. What is hashed already is not hashed again. Tells the bytes read.
 */
export async function hashTwins(groups: SameSize[], context: WorkContext): Promise<Map<Raw, string>> {
  const sums = new Map<Raw, string>();
  for (const { bytes, files } of groups) {
    if (context.cancelled()) break;
    const alike = new Map<string, SameSize["files"]>();
    for (const file of files) {
      const ends = bytes <= smallBytes ? "" : endsOf(file.path, bytes);
      if (ends === undefined) continue;
      const same = alike.get(ends);
      if (same) same.push(file);
      else alike.set(ends, [file]);
    }
    for (const same of alike.values()) {
      if (same.length < 2) continue;
      for (const { path, hashed } of same) {
        if (hashed || context.cancelled()) continue;
        const sum = hashFile(path, context);
        if (sum) sums.set(path, sum);
      }
    }
  }
  return sums;
}

/** A checksum of a file's first and last bytes; undefined where it cannot be read or has another size by now. */
function endsOf(path: Raw, bytes: number): string | undefined {
  let fd: number | undefined;
  try {
    fd = fs.openSync(Buffer.from(bytesOfRaw(path)), fs.constants.O_RDONLY | fs.constants.O_NOFOLLOW | fs.constants.O_NONBLOCK);
    if (fs.fstatSync(fd).size !== bytes) return undefined;
    const ends = Buffer.alloc(2 * endBytes);
    const head = fs.readSync(fd, ends, 0, endBytes, 0);
    const tail = fs.readSync(fd, ends, endBytes, endBytes, bytes - endBytes);
    return head === endBytes && tail === endBytes ? createHash("sha256").update(ends).digest("base64") : undefined;
  } catch {
    return undefined;
  } finally {
    if (fd !== undefined) fs.closeSync(fd);
  }
}
