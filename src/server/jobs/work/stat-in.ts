import koffi from "koffi";
import type { Raw } from "@/core/names/raw";

/** What statx(2) says of an entry, as far as a walk asks. */
export interface WalkStat {
  bytes: number;
  /** Nanoseconds since 1970, decimal. */
  mtimeNs: string;
  ino: string;
}

const AT_SYMLINK_NOFOLLOW = 0x100;
// STATX_INO | STATX_SIZE | STATX_MTIME
const wanted = 0x100 | 0x200 | 0x40;

let call: ((folder: number, name: Buffer, flags: number, mask: number, out: Buffer) => number) | undefined;
const out = Buffer.alloc(256);
const given = Buffer.alloc(256);

/**
 * Looks at an entry of an opened folder, not following links; undefined where it is gone. In a walk of 100,000 entries
 * this takes half the time of an lstat with a whole path and all its dates. The offsets are those of `struct statx`.
 */
export function statIn(folder: number, name: Raw): WalkStat | undefined {
  call ??= koffi.load("libc.so.6").func("int statx(int, const uint8_t *, int, unsigned int, void *)") as NonNullable<typeof call>;
  given[given.write(name, "latin1")] = 0;
  if (call(folder, given, AT_SYMLINK_NOFOLLOW, wanted, out) !== 0) return undefined;
  const nanoseconds = String(out.readUInt32LE(120)).padStart(9, "0");
  const seconds = out.readBigInt64LE(112);
  return {
    ino: String(out.readBigUInt64LE(32)),
    bytes: Number(out.readBigUInt64LE(40)),
    mtimeNs:
      seconds >= 0n
        ? `${seconds}${nanoseconds}`.replace(/^0+(?=\d)/, "")
        : String(seconds * 1_000_000_000n + BigInt(nanoseconds)),
  };
}
