import { createHash, type Hash } from "node:crypto";
import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";

/** Files of one size, each with its SHA-256 where that is known already. */
export interface SameSize {
  bytes: number;
  files: { path: Raw; sha256: string | null }[];
}

interface Reading {
  path: Raw;
  /** What was known before; then the file stands for all that have it. */
  sha256: string | null;
  hash: Hash;
  mtimeNs?: bigint;
}

const endBytes = 4096;
/** Of smaller files the ends are not read first. */
const smallBytes = 64 * 1024;
const firstBlock = 16 * 1024;
const largestBlock = 4 << 20;
/** Told at once, in bytes: a message for each of many small files takes longer than reading them. */
const toldBytes = 1 << 20;

/**
 * SHA-256 of the files that are identical with another of their group. First and last bytes are compared first; then
 * all that are still alike are read side by side, block by block, and whichever has come to differ from all others is read no
 * further and has none. Tells the bytes read or no longer to be read.
 */
export async function hashTwins(groups: SameSize[], context: WorkContext): Promise<Map<Raw, string>> {
  const sums = new Map<Raw, string>();
  const block = Buffer.alloc(largestBlock);
  let untold = 0;
  const tell = (read: number, least = toldBytes) => {
    untold += read;
    if (untold < least) return;
    context.tell(untold);
    untold = 0;
  };
  for (const { bytes, files } of groups) {
    if (context.cancelled()) break;
    // One file is enough to stand for all that are known to be identical.
    const known = new Set<string>();
    const readings = files.flatMap(({ path, sha256 }): Reading[] => {
      if (sha256 !== null && known.has(sha256)) return [];
      if (sha256 !== null) known.add(sha256);
      return [{ path, sha256, hash: createHash("sha256") }];
    });
    let alike = bytes <= smallBytes ? [readings] : parted(readings, ({ path }) => endsOf(path, bytes));
    const settled = new Set(readings.filter((reading) => reading.sha256 === null));
    for (let at = 0, size = firstBlock; at < bytes; at += size, size = Math.min(size * 4, largestBlock)) {
      // Only known ones left, or one alone: nothing to find out.
      alike = alike.filter((group) => group.length > 1 && group.some((reading) => reading.sha256 === null));
      const still = new Set(alike.flat());
      for (const reading of settled)
        if (!still.has(reading)) {
          settled.delete(reading);
          tell(bytes - at);
        }
      if (alike.length === 0) break;
      alike = alike.flatMap((group) =>
        parted(group, (reading) => {
          if (context.cancelled()) return undefined;
          const part = block.subarray(0, Math.min(size, bytes - at));
          if (!readPart(reading, part, at, bytes)) return undefined;
          reading.hash.update(part);
          if (reading.sha256 === null) tell(part.length);
          return reading.hash.copy().digest("base64");
        }),
      );
    }
    if (context.cancelled()) break;
    for (const group of alike)
      if (group.length > 1) for (const { path, sha256, hash } of group) if (sha256 === null) sums.set(path, hash.digest("hex"));
  }
  tell(0, 1);
  return sums;
}

/** Groups with one key; what has none is in none. */
function parted(readings: Reading[], keyOf: (reading: Reading) => string | undefined): Reading[][] {
  const groups = new Map<string, Reading[]>();
  for (const reading of readings) {
    const key = keyOf(reading);
    if (key === undefined) continue;
    const group = groups.get(key);
    if (group) group.push(reading);
    else groups.set(key, [reading]);
  }
  return [...groups.values()];
}

/** Fills `part` from the file; false where it cannot be read, or is no longer the file it was. */
function readPart(reading: Reading, part: Buffer, at: number, bytes: number): boolean {
  return withFile(reading.path, (fd) => {
    const stat = fs.fstatSync(fd, { bigint: true });
    reading.mtimeNs ??= stat.mtimeNs;
    if (!stat.isFile() || stat.size !== BigInt(bytes) || stat.mtimeNs !== reading.mtimeNs) return false;
    return readFully(fd, part, at);
  });
}

/** A checksum of a file's first and last bytes; undefined where it cannot be read or has another size by now. */
function endsOf(path: Raw, bytes: number): string | undefined {
  const ends = Buffer.alloc(2 * endBytes);
  const read = withFile(
    path,
    (fd) =>
      fs.fstatSync(fd).size === bytes &&
      readFully(fd, ends.subarray(0, endBytes), 0) &&
      readFully(fd, ends.subarray(endBytes), bytes - endBytes),
  );
  return read ? createHash("sha256").update(ends).digest("base64") : undefined;
}

function readFully(fd: number, part: Buffer, at: number): boolean {
  for (let got = 0; got < part.length; ) {
    const n = fs.readSync(fd, part, got, part.length - got, at + got);
    if (n === 0) return false;
    got += n;
  }
  return true;
}

function withFile(path: Raw, work: (fd: number) => boolean): boolean {
  let fd: number | undefined;
  try {
    fd = openQuietly(Buffer.from(bytesOfRaw(path)));
    return work(fd);
  } catch {
    return false;
  } finally {
    if (fd !== undefined) fs.closeSync(fd);
  }
}
