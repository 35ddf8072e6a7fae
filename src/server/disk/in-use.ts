import fs from "node:fs";
import os from "node:os";
import type { Identity } from "@/core/ledger/shapes";
import { folderOf, isWithin, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { breathing } from "../jobs/gentle";
import type { Disk } from "./disk";
import { bytes } from "./disk";
import { errorCode } from "./disk-problem";

/** Files that some process we can see has open for writing: the program's name by the file's path and by device and inode. */
export interface InUse {
  byInode: Map<string, string>;
  byPath: Map<Raw, string>;
  /** The lock files in a folder that still mean something, as they were when first asked for. */
  locks: Map<Raw, Set<Raw>>;
}

export const nothingInUse = (): InUse => ({ byInode: new Map(), byPath: new Map(), locks: new Map() });

const accessMode = 0o3;
const isLock = (name: Raw) => /^(?:\.~lock\.|~\$)|^\..*\.lock$/s.test(name);

/** What no person's file is: devices, memory, and the system's own programs. */
const notOurs = /^\/(?:dev\/(?!shm\/)|proc\/|sys\/|usr\/|lib(?:32|64|x32)?\/|memfd:)/;

/** Files that are open for writing, each with the program's name: by device and inode, and by path. */
export interface OpenFiles {
  byInode: [string, string][];
  byPath: [Raw, string][];
}

/**
 * One scan of /proc: every open file of every process we may look at, with its access mode from fdinfo. Processes that
 * end meanwhile or that belong to somebody else are passed over.
 */
export async function scanOpenFiles(): Promise<OpenFiles> {
  const found: OpenFiles = { byInode: [], byPath: [] };
  const breath = breathing();
  const own = String(process.pid);
  for (const pid of fs.readdirSync("/proc")) {
    if (!/^\d+$/.test(pid) || pid === own) continue;
    scanProcess(pid, found);
    const pause = breath();
    if (pause) await pause;
  }
  return found;
}

function scanProcess(pid: string, found: OpenFiles): void {
  let fds: string[];
  try {
    fds = fs.readdirSync(`/proc/${pid}/fd`);
  } catch {
    return;
  }
  let program: string | undefined;
  for (const fd of fds) {
    try {
      const link = fs.readlinkSync(`/proc/${pid}/fd/${fd}`, { encoding: "buffer" });
      if (link[0] !== 0x2f) continue;
      const path = rawFromBytes(link);
      if (notOurs.test(path)) continue;
      const flags = /^flags:\s*0*([0-7]+)/m.exec(fs.readFileSync(`/proc/${pid}/fdinfo/${fd}`, "latin1"));
      if (!flags || (Number.parseInt(flags[1]!, 8) & accessMode) === 0) continue;
      const stat = fs.statSync(`/proc/${pid}/fd/${fd}`, { bigint: true });
      if (!stat.isFile()) continue;
      program ??= fs.readFileSync(`/proc/${pid}/comm`, "utf8").trim();
      found.byInode.push([`${stat.dev}:${stat.ino}`, program]);
      found.byPath.push([path, program]);
    } catch (error) {
      // The process or the file is gone; or the process is somebody else's, with every one of its files.
      if (errorCode(error) === "EACCES") return;
    }
  }
}

const latelyMs = 2000;

/** Looks at what is in use, as seldom as does for what is asked. */
export class UseLooks {
  private under: Promise<OpenFiles> | undefined;
  private next: Promise<OpenFiles> | undefined;
  private last: { began: number; found: OpenFiles } | undefined;

  /** `scan` is {@link scanOpenFiles}, here or in a thread; `time` in milliseconds. */
  constructor(
    private readonly scan: () => Promise<OpenFiles>,
    private readonly time: () => number,
  ) {}

  /** What is in use now, for an act: by a scan that began after this was asked; those who ask meanwhile share it. */
  async now(): Promise<InUse> {
    this.next ??= (async () => {
      await this.under?.catch(() => {});
      this.under = this.next;
      this.next = undefined;
      const began = this.time();
      const found = await this.scan();
      this.last = { began, found };
      return found;
    })();
    return asInUse(await this.next);
  }

  /** What was in use within the last two seconds: enough to say so. */
  async lately(): Promise<InUse> {
    if (this.last && this.time() - this.last.began < latelyMs) return asInUse(this.last.found);
    return this.now();
  }
}

const asInUse = ({ byInode, byPath }: OpenFiles): InUse => ({
  byInode: new Map(byInode),
  byPath: new Map(byPath),
  locks: new Map(),
});

/**
 * Why a thing is taken to be in use, in words, or undefined: open for writing (it, or anything in it), or a lock file
 * beside it.
 */
export function useOf(disk: Disk, path: Raw, inUse: InUse, found = disk.identity(path)): string | undefined {
  if (!found) return undefined;
  const program = inUse.byInode.get(`${found.dev}:${found.ino}`);
  if (program && found.type === "file") return `${program} has it open`;
  if (found.type === "folder") {
    for (const [open, by] of inUse.byPath) if (isWithin(path, open)) return `${by} has ${shownName(nameOf(open))} in it open`;
    return undefined;
  }
  const name = nameOf(path);
  const folder = folderOf(path);
  const locks = liveLocks(disk, folder, inUse);
  if (locks.size === 0) return undefined;
  // A document and its lock file stay together.
  if (locks.has(name)) {
    const document = disk.list(folder)?.find((other) => locksOf(other.name).includes(name))?.name;
    return document && `it is the lock file of ${shownName(document)}`;
  }
  const lock = locksOf(name).find((other) => locks.has(other));
  return lock && `its lock file ${shownName(lock)} lies beside it`;
}

/** What the lock files of a document may be called. */
export const locksOf = (name: Raw): Raw[] =>
  [`.~lock.${name}#`, `~$${name}`, `~$${name.slice(2)}`, `.${name}.lock`].filter((lock) => lock !== name) as Raw[];

function liveLocks(disk: Disk, folder: Raw, inUse: InUse): Set<Raw> {
  const known = inUse.locks.get(folder);
  if (known) return known;
  const names = disk.list(folder)?.flatMap((entry) => (isLock(entry.name) ? [entry.name] : [])) ?? [];
  const locks = new Set(names.filter((name) => !isStale(disk, joinRaw(folder, name))));
  inUse.locks.set(folder, locks);
  return locks;
}

let booted: number | undefined;
/** When this computer was started, milliseconds since 1970 (proc(5), stat, btime). */
function bootedAt(): number {
  booted ??= Number(/^btime (\d+)$/m.exec(fs.readFileSync("/proc/stat", "latin1"))?.[1] ?? 0) * 1000;
  return booted;
}

/** A lock file that was left behind: older than this start of the computer, on which nobody can hold it any more. */
function isStale(disk: Disk, lock: Raw): boolean {
  const found = disk.identity(lock);
  if (!found || Number(BigInt(found.mtimeNs) / 1_000_000n) >= bootedAt()) return false;
  // One of another computer says nothing about this one's start: `,user,computer,date,…`.
  const computer = unlessProblem(() => disk.readSmall(lock, 4096))
    ?.toString("utf8")
    .split(",")[2];
  return !computer || computer === os.hostname();
}

/** Of the files that were written just before they were planned, those that still grow or change between two looks. */
export async function growing(planned: { from: Raw; identity: Identity }[], now: number): Promise<Set<Raw>> {
  const look = ({ from }: { from: Raw }) => {
    try {
      const stat = fs.lstatSync(bytes(from), { bigint: true });
      return `${stat.size}:${stat.mtimeNs}`;
    } catch {
      return undefined;
    }
  };
  const fresh = planned
    .filter(({ identity }) => identity.type === "file" && now - Number(BigInt(identity.mtimeNs) / 1_000_000n) < 5000)
    .map((thing) => ({ ...thing, seen: look(thing) }));
  if (fresh.length === 0) return new Set();
  await new Promise((done) => setTimeout(done, 150));
  return new Set(fresh.filter((thing) => look(thing) !== thing.seen).map((thing) => thing.from));
}
