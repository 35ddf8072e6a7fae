import fs from "node:fs";
import { Readable } from "node:stream";
import type { Raw } from "@/core/names/raw";
import { bytes } from "./disk";
import { openQuietly } from "./open-quietly";

/** A file that is open for reading, as it was when it was opened. */
export interface OpenedToRead {
  bytes: number;
  /** Its bytes from one to another, both included; closes it when they are read, or nobody reads on. */
  stream(from: number, to: number, signal: AbortSignal): ReadableStream<Uint8Array>;
  close(): void;
}

/** Opens a plain file, never through a link; undefined where there is none that can be read. */
export function openToRead(path: Raw): OpenedToRead | undefined {
  let fd: number;
  try {
    fd = openQuietly(bytes(path));
  } catch {
    return undefined;
  }
  const stat = fs.fstatSync(fd);
  if (!stat.isFile()) {
    fs.closeSync(fd);
    return undefined;
  }
  return {
    bytes: stat.size,
    stream: (from, to, signal) =>
      Readable.toWeb(fs.createReadStream("", { fd, start: from, end: to, signal })) as ReadableStream<Uint8Array>,
    close: () => fs.closeSync(fd),
  };
}
