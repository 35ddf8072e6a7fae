import fs from "node:fs";
import koffi from "koffi";
import type { EntryType, Identity } from "@/core/ledger/shapes";
import type { Raw } from "@/core/names/raw";

/** An identity with the device, which holds for this boot only. */
export type Located = Identity & { dev: string };

/** What a walk asks of an entry: its size in bytes, its time in nanoseconds since 1970, decimal, and its inode. */
export type WalkStat = Pick<Identity, "bytes" | "mtimeNs" | "ino">;

const AT_SYMLINK_NOFOLLOW = 0x100;
// STATX_TYPE | STATX_INO | STATX_SIZE | STATX_MTIME
const wanted = 0x1 | 0x100 | 0x200 | 0x40;
const { S_IFMT, S_IFREG, S_IFDIR, S_IFLNK } = fs.constants;
const types: Record<number, EntryType> = { [S_IFREG]: "file", [S_IFDIR]: "folder", [S_IFLNK]: "link" };

let call: ((folder: number, name: Buffer, flags: number, mask: number, out: Buffer) => number) | undefined;
const out = Buffer.alloc(256);
const given = Buffer.alloc(256);

/** The C library's number of a device, of its major and minor one. */
const deviceNumber = (major: number, minor: number) =>
  String((BigInt(major & 0xfff) << 8n) | BigInt(minor & 0xff) | (BigInt(minor >>> 8) << 20n) | (BigInt(major >>> 12) << 44n));

/** Fills `out` as statx(2) does, with what lies under a name in an opened folder, not following links; whether it could. */
function statx(folder: number, name: Raw): boolean {
  call ??= koffi.load("libc.so.6").func("int statx(int, const uint8_t *, int, unsigned int, void *)") as NonNullable<typeof call>;
  given[given.write(name, 0, 255, "latin1")] = 0;
  return call(folder, given, AT_SYMLINK_NOFOLLOW, wanted, out) === 0;
}

/** The offsets are those of `struct statx`. */
function walkStat(): WalkStat {
  const nanoseconds = String(out.readUInt32LE(120)).padStart(9, "0");
  const seconds = out.readBigInt64LE(112);
  return {
    ino: String(out.readBigUInt64LE(32)),
    bytes: Number(out.readBigUInt64LE(40)),
    mtimeNs: seconds > 0n ? `${seconds}${nanoseconds}` : String(seconds * 1_000_000_000n + BigInt(nanoseconds)),
  };
}

/**
 * Looks at an entry of an opened folder, not following links; undefined where it is gone. In a walk of 100,000 entries
 * this takes half the time of an lstat with a whole path and all its dates.
 */
export function statIn(folder: number, name: Raw): WalkStat | undefined {
  return statx(folder, name) ? walkStat() : undefined;
}

/** The identity of an entry of an opened folder; undefined where there is none or it cannot be told: koffi's errno says why. */
export function locate(folder: number, name: Raw): Located | undefined {
  if (!statx(folder, name)) return undefined;
  const type = types[out.readUInt16LE(28) & S_IFMT] ?? "special";
  return { type, ...walkStat(), dev: deviceNumber(out.readUInt32LE(136), out.readUInt32LE(140)) };
}
