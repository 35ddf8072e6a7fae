import fs from "node:fs";
import os from "node:os";
import { promisify } from "node:util";
import koffi from "koffi";
import type { Raw } from "@/core/names/raw";
import { type Located, locate } from "./statx";

/**
 * The system calls through which account files are read and changed, and nothing else. One real implementation, below;
 * tests wrap it to fail, tear or kill at the n-th call. Paths are bytes. Errors carry Node's `code` ("ENOSPC").
 */
export interface Calls {
  open(path: Buffer, flags: number, mode?: number): number;
  close(fd: number): void;
  fstat(fd: number): fs.BigIntStats;
  lstat(path: Buffer): fs.BigIntStats;
  /** The identity of an entry of an opened folder; a link's own. Half the time of an lstat. */
  locate(folder: number, name: Raw): Located;
  readdir(path: Buffer): fs.Dirent<Buffer>[];
  readlink(path: Buffer): Buffer;
  read(fd: number, buffer: Buffer, position: number | null): number;
  write(fd: number, buffer: Buffer, position: number | null): number;
  truncate(fd: number, length: number): void;
  mkdir(path: Buffer, mode: number): void;
  rmdir(path: Buffer): void;
  unlink(path: Buffer): void;
  link(from: Buffer, to: Buffer): void;
  symlink(target: Buffer, path: Buffer): void;
  chmod(path: Buffer, mode: number): void;
  /** renameat2 with RENAME_NOREPLACE between two opened folders: EEXIST where the name is taken. */
  renameNoReplace(fromFolder: number, from: Buffer, toFolder: number, to: Buffer): void;
  /** renameat2 with RENAME_EXCHANGE within an opened folder: both names must exist. */
  renameExchange(folder: number, a: Buffer, b: Buffer): void;
  /** Sets the modification time to the nanosecond, of a link itself too; the access time is left. */
  setMtime(path: Buffer, mtimeNs: bigint): void;
  listXattrs(path: Buffer): Buffer[];
  getXattr(path: Buffer, name: Buffer): Buffer;
  setXattr(path: Buffer, name: Buffer, value: Buffer): void;
  fsync(fd: number): void;
  /** The same of a file, while this thread goes on. */
  syncFile(fd: number): Promise<void>;
  /** Makes everything durable that was written to the file system the open file lies on. */
  syncfs(fd: number): void;
  /** Drops a file's pages from the cache, so that the next read comes from the device. */
  dropCache(fd: number): void;
}

const RENAME_NOREPLACE = 1;
const RENAME_EXCHANGE = 2;
const AT_FDCWD = -100;
const AT_SYMLINK_NOFOLLOW = 0x100;
const UTIME_OMIT = 0x3ffffffe;
const POSIX_FADV_DONTNEED = 4;

const errorCodes = new Map(Object.entries(os.constants.errno).map(([code, n]) => [n, code]));
const zero = Buffer.from([0]);
const asC = (path: Buffer) => Buffer.concat([path, zero]);

function loadLibrary() {
  const libc = koffi.load("libc.so.6");
  return {
    renameat2: libc.func("int renameat2(int, const uint8_t *, int, const uint8_t *, unsigned int)"),
    utimensat: libc.func("int utimensat(int, const uint8_t *, const int64_t *, int)"),
    llistxattr: libc.func("int64_t llistxattr(const uint8_t *, _Out_ uint8_t *, size_t)"),
    lgetxattr: libc.func("int64_t lgetxattr(const uint8_t *, const uint8_t *, _Out_ uint8_t *, size_t)"),
    lsetxattr: libc.func("int lsetxattr(const uint8_t *, const uint8_t *, const uint8_t *, size_t, int)"),
    syncfs: libc.func("int syncfs(int)"),
    fadvise: libc.func("int posix_fadvise(int, int64_t, int64_t, int)"),
  };
}
let loaded: ReturnType<typeof loadLibrary> | undefined;
const library = () => {
  loaded ??= loadLibrary();
  return loaded;
};

/** The C library's last error, with Node's code. */
function systemError(call: string): Error {
  const errno = koffi.errno();
  const code = errorCodes.get(errno) ?? `E${errno}`;
  return Object.assign(new Error(`${code}: ${call}`), { code, errno: -errno, syscall: call });
}

/** Runs a call of the C library; a negative answer becomes an error. */
function checked(call: string, run: () => number | bigint): number {
  const answer = Number(run());
  if (answer < 0) throw systemError(call);
  return answer;
}

const oldName = Buffer.alloc(256);
const newName = Buffer.alloc(256);
/** A name of at most 255 bytes as C wants it, in the buffer given. */
function nameAsC(name: Buffer, into: Buffer): Buffer {
  into[name.copy(into, 0, 0, 255)] = 0;
  return into;
}

function rename(fromFolder: number, from: Buffer, toFolder: number, to: Buffer, flags: number) {
  checked("renameat2", () => library().renameat2(fromFolder, nameAsC(from, oldName), toFolder, nameAsC(to, newName), flags));
}

/** A value of unknown length: asked for its length, then read, again where it grew in between. */
function sized(call: string, run: (buffer: Buffer, size: number) => number): Buffer {
  for (;;) {
    const length = checked(call, () => run(Buffer.alloc(1), 0));
    if (length === 0) return Buffer.alloc(0);
    const buffer = Buffer.alloc(length);
    try {
      return buffer.subarray(
        0,
        checked(call, () => run(buffer, length)),
      );
    } catch (error) {
      if ((error as { code?: string }).code !== "ERANGE") throw error;
    }
  }
}

export const realCalls: Calls = {
  open: (path, flags, mode) => fs.openSync(path, flags, mode),
  close: (fd) => fs.closeSync(fd),
  fstat: (fd) => fs.fstatSync(fd, { bigint: true }),
  lstat: (path) => fs.lstatSync(path, { bigint: true }),
  locate(folder, name) {
    const located = locate(folder, name);
    if (!located) throw systemError("statx");
    return located;
  },
  readdir: (path) => fs.readdirSync(path, { withFileTypes: true, encoding: "buffer" }),
  readlink: (path) => fs.readlinkSync(path, { encoding: "buffer" }),
  read: (fd, buffer, position) => fs.readSync(fd, buffer, 0, buffer.length, position),
  write: (fd, buffer, position) => fs.writeSync(fd, buffer, 0, buffer.length, position),
  truncate: (fd, length) => fs.ftruncateSync(fd, length),
  mkdir: (path, mode) => fs.mkdirSync(path, { mode }),
  rmdir: (path) => fs.rmdirSync(path),
  unlink: (path) => fs.unlinkSync(path),
  link: (from, to) => fs.linkSync(from, to),
  symlink: (target, path) => fs.symlinkSync(target, path),
  chmod: (path, mode) => fs.chmodSync(path, mode),
  renameNoReplace: (fromFolder, from, toFolder, to) => rename(fromFolder, from, toFolder, to, RENAME_NOREPLACE),
  renameExchange: (folder, a, b) => rename(folder, a, folder, b, RENAME_EXCHANGE),
  setMtime(path, mtimeNs) {
    const billion = 1_000_000_000n;
    const seconds = mtimeNs / billion - (mtimeNs % billion < 0n ? 1n : 0n);
    const times = new BigInt64Array([0n, BigInt(UTIME_OMIT), seconds, mtimeNs - seconds * billion]);
    checked("utimensat", () => library().utimensat(AT_FDCWD, asC(path), times, AT_SYMLINK_NOFOLLOW));
  },
  listXattrs(path) {
    const list = sized("llistxattr", (buffer, size) => library().llistxattr(asC(path), buffer, size));
    const names: Buffer[] = [];
    for (let at = 0; at < list.length; ) {
      const end = list.indexOf(0, at);
      names.push(list.subarray(at, end));
      at = end + 1;
    }
    return names;
  },
  getXattr: (path, name) => sized("lgetxattr", (buffer, size) => library().lgetxattr(asC(path), asC(name), buffer, size)),
  setXattr(path, name, value) {
    checked("lsetxattr", () => library().lsetxattr(asC(path), asC(name), value, value.length, 0));
  },
  fsync: (fd) => fs.fsyncSync(fd),
  syncFile: promisify(fs.fsync),
  syncfs(fd) {
    checked("syncfs", () => library().syncfs(fd));
  },
  dropCache(fd) {
    checked("posix_fadvise", () => library().fadvise(fd, 0, 0, POSIX_FADV_DONTNEED));
  },
};
