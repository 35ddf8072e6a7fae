import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";

/** A file that is looked at: opened once, never through a link, and read through that alone. */
export interface Source {
  fd: number;
  bytes: number;
  /** Its name in small letters, for what no content tells. */
  name: string;
  /** Reads the whole of it. @throws {@link TooLarge} */
  whole(most: number): Buffer;
  head(most: number): Buffer;
}

/** What cannot be shown, and why, in words for a person: "it is locked with a password". */
export class NotShown extends Error {}

export class TooLarge extends NotShown {
  constructor(most: number) {
    super(`it is larger than ${Math.round(most / 1e6)} MB`);
  }
}

/** Opens a file for looking; undefined where it is none. */
export function openSource(path: Raw): Source | undefined {
  const fd = openQuietly(Buffer.from(bytesOfRaw(path)));
  const stat = fs.fstatSync(fd);
  if (!stat.isFile()) {
    fs.closeSync(fd);
    return undefined;
  }
  const head = (most: number) => {
    const buffer = Buffer.alloc(Math.min(stat.size, most));
    return buffer.subarray(0, fs.readSync(fd, buffer, 0, buffer.length, 0));
  };
  return {
    fd,
    bytes: stat.size,
    name: path.slice(path.lastIndexOf("/") + 1).toLowerCase(),
    head,
    whole(most) {
      if (stat.size > most) throw new TooLarge(most);
      const buffer = Buffer.alloc(stat.size);
      for (let at = 0; at < buffer.length; ) {
        const read = fs.readSync(fd, buffer, at, buffer.length - at, at);
        if (read === 0) return buffer.subarray(0, at);
        at += read;
      }
      return buffer;
    },
  };
}
