import { createHash } from "node:crypto";
import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";

const block = Buffer.alloc(1 << 20);

/** SHA-256 of whole files; what cannot be read, is no plain file or changes while it is read has none. Tells the bytes read. */
export async function hashFiles(paths: Raw[], context: WorkContext): Promise<Map<Raw, string>> {
  const sums = new Map<Raw, string>();
  for (const path of paths) {
    if (context.cancelled()) break;
    const sum = hashFile(path, context);
    if (sum) sums.set(path, sum);
  }
  return sums;
}

/** SHA-256 of one whole file, or undefined. */
export function hashFile(path: Raw, context: WorkContext): string | undefined {
  let fd: number | undefined;
  try {
    fd = openQuietly(Buffer.from(bytesOfRaw(path)));
    const before = fs.fstatSync(fd, { bigint: true });
    if (!before.isFile()) return undefined;
    const hash = createHash("sha256");
    for (;;) {
      if (context.cancelled()) return undefined;
      const got = fs.readSync(fd, block, 0, block.length, null);
      if (got === 0) break;
      hash.update(block.subarray(0, got));
      context.tell(got);
    }
    const after = fs.fstatSync(fd, { bigint: true });
    return after.mtimeNs === before.mtimeNs && after.size === before.size ? hash.digest("hex") : undefined;
  } catch {
    return undefined;
  } finally {
    if (fd !== undefined) fs.closeSync(fd);
  }
}
