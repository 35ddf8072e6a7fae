import { createHash } from "node:crypto";
import type fs from "node:fs";
import type { TreeEntry } from "@/core/ledger/shapes";
import { folderOf, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem, type ProblemCode, type ProblemFacts, unlessProblem } from "@/core/problem";
import { atOnce } from "./at-once";
import { checksumOf, sumOfOpen } from "./checksum";
import { bytes, type Disk, type Folder, typeOf, writeAll } from "./disk";
import { diskProblem, errorCode } from "./disk-problem";
import { walkTree } from "./walk";

/** What became of a file that was carried: its checksum where it lies there, or was read back; or why it is not so. */
export type FileTold = { path: string } & (
  | {
      sha256: string;
      /** Its time of change of state by the end, where that is another: who reads it here cannot tell a rename from a change. */
      ctimeNs?: string;
    }
  | { problem: { code: ProblemCode; facts: ProblemFacts } }
);

/** How long work over many bytes goes on: asked between blocks; throws to stop. Lets other work on this thread go on. */
export interface Pace {
  /** Called with the bytes just handled, or with 0 before each step of an act. */
  step(bytes: number): Promise<void>;
  /**
   * Lets other work go on, where it is time for that: then there is something to wait for. Never throws: for work that is not
   * to be stopped in the middle.
   */
  breath(): Promise<void> | undefined;
  /** How many steps there are, once that is known. */
  whole?(steps: number): void;
  /** Tells when it is cancelled. */
  signal?: AbortSignal;
  /** Hears what became of a file of a parcel. */
  told?(file: FileTold): void;
}

export const unhurried: Pace = { step: async () => {}, breath: () => undefined };

const block = 1 << 20;
const zeros = Buffer.alloc(block);

/** Room for a file's content, a block at most; small for a small file, because ten thousand blocks take their time. */
const bufferFor = (fileBytes: number) => Buffer.allocUnsafe(Math.min(block, fileBytes + 1));

/** An entry of a tree on disk, in the very state in which it was seen. */
export interface SeenEntry extends TreeEntry {
  ino: string;
  /** Nanoseconds since 1970: differs once anything about it was changed, also where size and time of change were set back. */
  ctimeNs: string;
  /** How many names it has. */
  names: number;
}

/** Names of attributes that are kept: the person's own, access control lists, and the rights of a program. */
const kept = /^(?:user\.|system\.posix_acl_|security\.capability$)/;

const ofDisk = (error: unknown, path: Raw) =>
  diskProblem(error, { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });

/**
 * All entries of a thing, itself first, folders before what lies in them. Sockets, pipes and devices are refused. With
 * `toRemove` it is also made sure that it can be taken away: all of it or nothing.
 */
export async function scanTree(disk: Disk, path: Raw, pace: Pace = unhurried, toRemove = false): Promise<SeenEntry[]> {
  const tree: SeenEntry[] = [];
  const first = new Map<string, Raw>();
  try {
    for (const visit of walkTree(disk, path)) {
      if (visit.when === "after") continue;
      const { inside, name, stat } = visit;
      const type = typeOf(stat);
      if (type === "special") throw new Problem("special-file", { name: shownName(name) });
      if (toRemove && type === "folder" && !mayEmpty(stat)) throw new Problem("no-permission", { name: shownName(name) });
      const rel = visit.rel();
      const entry: SeenEntry = {
        rel,
        type,
        mode: Number(stat.mode & 0o7777n),
        mtimeNs: String(stat.mtimeNs),
        bytes: type === "file" ? Number(stat.size) : 0,
        ino: String(stat.ino),
        ctimeNs: String(stat.ctimeNs),
        names: Number(stat.nlink),
      };
      if (type === "link") entry.target = rawFromBytes(inside.calls.readlink(inside.at(name)));
      else {
        const xattrs = inside.attributes(name, kept);
        if (xattrs.length) entry.xattrs = xattrs;
      }
      if (type === "file") {
        entry.source = joinRaw(inside.path, name);
        const known = entry.names > 1 ? first.get(entry.ino) : undefined;
        if (known !== undefined) entry.sameAs = known;
        else first.set(entry.ino, rel);
      }
      tree.push(entry);
      const pause = pace.breath();
      if (pause) await pause;
    }
  } catch (error) {
    throw ofDisk(error, path);
  }
  return tree;
}

/** Whether what lies in a folder can be taken away by this user; rights of its own folders it can give itself. */
function mayEmpty({ uid, gid, mode }: fs.BigIntStats): boolean {
  const own = process.geteuid?.();
  if (own === 0 || own === undefined || Number(uid) === own) return true;
  const inGroup = Number(gid) === process.getegid?.() || (process.getgroups?.() ?? []).includes(Number(gid));
  return ((mode & 0o002n) !== 0n || (inGroup && (mode & 0o020n) !== 0n)) && (mode & 0o1000n) === 0n;
}

/** Whether the times of change of state count: all of them, or none. */
export type Watched = "all" | "none";

const stateLine = (e: Pick<SeenEntry, "rel" | "type" | "ino" | "bytes" | "mtimeNs" | "ctimeNs">, watched: Watched) =>
  `${e.rel}\0${e.type}\0${e.ino}\0${e.type === "folder" ? "" : `${e.bytes}\0${e.mtimeNs}`}\0${watched === "all" ? e.ctimeNs : ""}\0`;

/** Which times count in a state. */
export const watchedIn = (state: string): Watched => (state.startsWith("all:") ? "all" : "none");

/**
 * The state of a scanned tree in one short text, as {@link treeState} tells it. Where a file has a second name, the times of
 * change of state do not count: giving that one away sets them for all of its names.
 */
export function stateOfTree(tree: SeenEntry[]): string {
  const watched = tree.some(({ type, names }) => type === "file" && names > 1) ? "none" : "all";
  const hash = createHash("sha256");
  for (const entry of tree) hash.update(stateLine(entry, watched), "latin1");
  return `${watched}:${hash.digest("hex")}`;
}

/**
 * The same, whatever name and folder the thing itself has been given since, which sets its own time of change of state alone.
 */
export function stateWhereverItLies(tree: SeenEntry[]): string {
  const [itself, ...below] = tree;
  return itself ? stateOfTree([{ ...itself, ctimeNs: "" }, ...below]) : "";
}

/**
 * A thing's state in one short text: every entry's place, type, size, times and inode. Changes when anything in it does, also
 * where a program sets size and time back, as far as the times of change of state count.
 */
export async function treeState(disk: Disk, path: Raw, watched: Watched, pace: Pace = unhurried): Promise<string> {
  const hash = createHash("sha256");
  try {
    for (const visit of walkTree(disk, path)) {
      if (visit.when === "after") continue;
      const { stat } = visit;
      const type = typeOf(stat);
      const of = { type: type as TreeEntry["type"], ino: String(stat.ino), bytes: type === "file" ? Number(stat.size) : 0 };
      const times = { mtimeNs: String(stat.mtimeNs), ctimeNs: String(stat.ctimeNs) };
      hash.update(stateLine({ rel: visit.rel(), ...of, ...times }, watched), "latin1");
      const pause = pace.breath();
      if (pause) await pause;
    }
  } catch (error) {
    throw ofDisk(error, path);
  }
  return `${watched}:${hash.digest("hex")}`;
}

/** Of each file, by its `rel`: about how many bytes it has, and its SHA-256. */
export type Sums = Map<Raw, { bytes: number; sha256: string }>;

/** While one is summed or waited for, others are read and written. */
const filesAtOnce = 4;

/**
 * Copies a tree below a temporary name, durably: each file is read once for content and checksum, synced, and given its mode,
 * attributes and time. Answers the SHA-256 of each file by its `rel`. Where an entry carries a checksum, what was read must
 * have it; where it says in which state it was seen, what was read must be in that state before and after.
 */
export async function copyTree(
  disk: Disk,
  tree: readonly (TreeEntry | SeenEntry)[],
  target: Raw,
  pace: Pace,
  contentOf: (entry: TreeEntry) => Content = (entry) => contentOnDisk(disk, entry),
): Promise<Sums> {
  const sums: Sums = new Map();
  const placeOf = (rel: Raw) => (rel === "" ? target : joinRaw(target, rel));
  for (const entry of tree) if (entry.type === "folder") disk.makeFolder(placeOf(entry.rel), 0o700);
  const files = tree.filter(({ type, sameAs }) => type === "file" && sameAs === undefined);
  await atOnce(files, filesAtOnce, async (entry) => {
    const sha256 = await copyFile(disk, entry, placeOf(entry.rel), pace, contentOf(entry));
    sums.set(entry.rel, { bytes: entry.bytes, sha256 });
  });
  for (const { rel, sameAs } of tree) if (sameAs !== undefined) nameAgain(disk, placeOf(sameAs), placeOf(rel));
  // The links last: there is none yet through which anything could be written.
  for (const entry of tree)
    if (entry.type === "link")
      disk.writing(placeOf(entry.rel), (inside, name) => inside.calls.symlink(bytes(entry.target as Raw), inside.at(name)));
  // From the inside out, because what is written into a folder sets its time.
  for (const entry of tree.toReversed()) {
    const place = placeOf(entry.rel);
    if (entry.sameAs === undefined) disk.writing(place, (inside, name) => dress(inside, name, entry));
    if (entry.type === "folder") disk.syncFolder(place);
    const pause = pace.breath();
    if (pause) await pause;
  }
  return sums;
}

function nameAgain(disk: Disk, first: Raw, again: Raw): void {
  disk.inFolder(folderOf(first), (from) =>
    disk.writing(again, (inside, name) => inside.calls.link(from.at(nameOf(first)), inside.at(name))),
  );
}

function dress(inside: Folder, name: Raw, entry: TreeEntry): void {
  const { calls } = inside;
  for (const [key, value] of entry.xattrs ?? []) {
    try {
      calls.setXattr(inside.at(name), bytes(key), bytes(value));
    } catch (error) {
      const code = errorCode(error);
      if (key.startsWith("security.") && (code === "EPERM" || code === "EOPNOTSUPP" || code === "ENOTSUP"))
        throw new Problem("would-lose", { name: shownName(nameOf(entry.source ?? name)), place: shownName(nameOf(inside.path)) });
      if (code !== "EOPNOTSUPP" && code !== "ENOTSUP" && code !== "EPERM") throw error;
    }
  }
  if (entry.type !== "link") calls.chmod(inside.at(name), entry.mode);
  calls.setMtime(inside.at(name), BigInt(entry.mtimeNs));
}

const isSeen = (entry: TreeEntry): entry is SeenEntry => "ctimeNs" in entry;

/** Whether an entry is still what was seen. What gives one of its names away changes the time of state of the others. */
const isAsSeen = (stat: fs.BigIntStats, entry: SeenEntry, ctime = true) =>
  String(stat.ino) === entry.ino &&
  (entry.type === "folder" ||
    ((entry.type === "link" || Number(stat.size) === entry.bytes) &&
      String(stat.mtimeNs) === entry.mtimeNs &&
      (!ctime || String(stat.ctimeNs) === entry.ctimeNs)));

/** A file's content, a block after the other; a block holds only until the next one is asked for. */
export type Content = AsyncIterable<Buffer>;

async function* blocksOf(disk: Disk, fd: number, fileBytes: number): Content {
  const buffer = bufferFor(fileBytes);
  for (let at = 0; ; ) {
    const got = disk.calls.read(fd, buffer, at);
    if (got === 0) return;
    at += got;
    yield buffer.subarray(0, got);
  }
}

function openOnDisk(disk: Disk, path: Raw): number {
  try {
    return disk.inFolder(folderOf(path), (inside) => inside.openFile(nameOf(path)));
  } catch (error) {
    const problem = ofDisk(error, path);
    // Its folder went away, and it with that.
    if (problem instanceof Problem && problem.code === "folder-gone")
      throw new Problem("vanished", { name: shownName(nameOf(path)) });
    throw problem;
  }
}

/**
 * What a file of the account holds; where the entry says in which state it was seen, it must be in that state before and after. With
 * `renamed`, that is told where nothing but its time of change of state is another.
 */
export async function* contentOnDisk(disk: Disk, entry: TreeEntry, renamed?: (ctimeNs: string) => void): Content {
  const { calls } = disk;
  const source = entry.source as Raw;
  const fd = openOnDisk(disk, source);
  const look = () => {
    if (!isSeen(entry)) return;
    const now = calls.fstat(fd);
    if (isAsSeen(now, entry)) return;
    if (!renamed || !isAsSeen(now, entry, false))
      throw new Problem("changed", { name: shownName(nameOf(source)), detail: "while it was copied" });
    renamed(String(now.ctimeNs));
  };
  try {
    look();
    yield* blocksOf(disk, fd, entry.bytes);
    look();
  } catch (error) {
    throw ofDisk(error, source);
  } finally {
    calls.close(fd);
  }
}

/** What lies in a file on the device: its pages are dropped from the cache first. */
export async function* contentOnDevice(disk: Disk, path: Raw): Content {
  const { calls } = disk;
  const fd = openOnDisk(disk, path);
  try {
    calls.dropCache(fd);
    yield* blocksOf(disk, fd, Number(calls.fstat(fd).size));
  } catch (error) {
    throw ofDisk(error, path);
  } finally {
    calls.close(fd);
  }
}

/** Hands content of about so many bytes on, and answers its SHA-256 once all of it was. */
export function summing(content: Content, bytes: number, pace: Pace): { content: Content; sum: () => Promise<string> } {
  let ended: Promise<string> | undefined;
  const handedOn = async function* () {
    const checksum = checksumOf(bytes);
    try {
      for await (const part of content) {
        const taken = checksum.add(part);
        yield part;
        await taken;
        await pace.step(part.length);
      }
      ended = checksum.end();
      // Where it was not taken after all, nobody asks for it.
      ended.catch(() => {});
    } finally {
      if (!ended) checksum.drop();
    }
  };
  return {
    content: handedOn(),
    async sum() {
      if (!ended) throw new Error("the content was not read to its end");
      return ended;
    },
  };
}

/** SHA-256 of content of about so many bytes. */
export async function sumOf(content: Content, bytes: number, pace: Pace): Promise<string> {
  const checksum = checksumOf(bytes);
  try {
    for await (const part of content) {
      await checksum.add(part);
      await pace.step(part.length);
    }
    return await checksum.end();
  } finally {
    checksum.drop();
  }
}

/**
 * Whether content is, byte for byte, what a file of the account holds; undefined where that is no longer in the state in which it was
 * seen, or cannot be read.
 */
export async function isTheOriginal(disk: Disk, content: Content, original: SeenEntry, pace: Pace): Promise<boolean | undefined> {
  const own = contentOnDisk(disk, original)[Symbol.asyncIterator]();
  let lost = false;
  /** The next block of the original; nothing at its end. */
  const next = async (): Promise<Buffer | undefined> => {
    try {
      const block = await own.next();
      return block.done ? undefined : block.value;
    } catch (error) {
      if (!(error instanceof Problem)) throw error;
      lost = true;
      return undefined;
    }
  };
  // What differs from an original that is another by now tells nothing.
  const differs = () => {
    const now = unlessProblem(() => disk.stat(original.source as Raw));
    return lost || !now || !isAsSeen(now, original) ? undefined : false;
  };
  let rest: Buffer = Buffer.alloc(0);
  try {
    for await (const part of content) {
      for (let at = 0; at < part.length; ) {
        if (rest.length === 0) rest = (await next()) ?? rest;
        if (rest.length === 0) return differs();
        const length = Math.min(rest.length, part.length - at);
        if (part.compare(rest, 0, length, at, at + length) !== 0) return differs();
        rest = rest.subarray(length);
        at += length;
      }
      await pace.step(part.length);
    }
    // Its end, at which it is looked at once more.
    const more = rest.length > 0 || (await next()) !== undefined;
    return more ? differs() : lost ? undefined : true;
  } finally {
    await own.return?.();
  }
}

/** SHA-256 of a file of about so many bytes, as it lies on the device. */
export async function hashFromDevice(disk: Disk, path: Raw, bytes: number, pace: Pace): Promise<string> {
  const { calls } = disk;
  const fd = openOnDisk(disk, path);
  try {
    calls.dropCache(fd);
    const apart = sumOfOpen(fd, bytes, (read) => pace.step(read));
    return await (apart ?? sumOf(blocksOf(disk, fd, bytes), bytes, pace));
  } catch (error) {
    throw ofDisk(error, path);
  } finally {
    calls.close(fd);
  }
}

/** Writes content into a new file and syncs it. Holes stay holes. */
export async function writeContent(disk: Disk, place: Raw, content: Content): Promise<void> {
  const { calls } = disk;
  const fd = disk.writing(place, (inside, name) => inside.createFile(name, 0o600));
  try {
    let length = 0;
    for await (const part of content) {
      if (!part.equals(zeros.subarray(0, part.length))) writeAll(calls, fd, part, length);
      length += part.length;
    }
    calls.truncate(fd, length);
    await calls.syncFile(fd);
  } finally {
    calls.close(fd);
  }
}

/** Copies one file's content into a new file; answers its SHA-256, which must be the entry's where that has one. */
async function copyFile(disk: Disk, entry: TreeEntry, place: Raw, pace: Pace, from: Content): Promise<string> {
  const name = shownName(nameOf(entry.source ?? place));
  try {
    const { content, sum } = summing(from, entry.bytes, pace);
    await writeContent(disk, place, content);
    const summed = await sum();
    if (entry.sha256 && entry.sha256 !== summed) throw new Problem("sent-differs", { name });
    return summed;
  } catch (error) {
    throw diskProblem(error, { name, place: shownName(nameOf(folderOf(place))) });
  }
}

/** Reads a copy back and compares it with what it must hold; throws where one file differs or is missing. */
export async function verifyTree(disk: Disk, target: Raw, sums: Sums, pace: Pace): Promise<void> {
  await atOnce([...sums], filesAtOnce, async ([rel, { bytes, sha256 }]) => {
    const place = rel === "" ? target : joinRaw(target, rel);
    if ((await hashFromDevice(disk, place, bytes, pace)) !== sha256)
      throw new Problem("copy-differs", { name: shownName(nameOf(target)), place: rel === "" ? undefined : shownName(rel) });
  });
}

/**
 * Takes a tree away, from the inside out, never following a link. With `seen`, only what is in the very state in which it was
 * seen: it stops at a file that is not, or a folder that holds more. Without, whatever lies there. Folders of one's own that
 * may not be written are made so.
 */
export async function removeTree(disk: Disk, path: Raw, seen?: readonly SeenEntry[], pace: Pace = unhurried): Promise<void> {
  const known = seen && new Map(seen.map((entry) => [entry.rel, entry]));
  disk.release(path);
  // Within bounds, as everything that is written.
  disk.writing(path, () => {});
  try {
    for (const visit of walkTree(disk, path)) {
      const { inside, name, stat, when } = visit;
      if (known && when === "before") {
        const entry = known.get(visit.rel());
        // Renamed aside, the thing itself has another time of state.
        if (!entry || !isAsSeen(stat, entry, visit.depth > 0 && entry.names === 1))
          throw new Problem("changed", { name: shownName(name), detail: "after it was copied" });
      }
      if (when === "after") inside.calls.rmdir(inside.at(name));
      else if (!stat.isDirectory()) inside.calls.unlink(inside.at(name));
      else if ((stat.mode & 0o700n) !== 0o700n) inside.calls.chmod(inside.at(name), Number(stat.mode & 0o7777n) | 0o700);
      const pause = pace.breath();
      if (pause) await pause;
    }
  } catch (error) {
    throw ofDisk(error, path);
  }
}

/** Takes away what a step made under a temporary name, if it is there: the very thing, where it is known by its inode. */
export async function removeMade(disk: Disk, path: Raw, ino?: string, pace: Pace = unhurried): Promise<void> {
  const there = disk.identity(path);
  if (there && (ino === undefined || there.ino === ino)) await removeTree(disk, path, undefined, pace);
}
