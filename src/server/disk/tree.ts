import { createHash } from "node:crypto";
import type { TreeEntry } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { bytes, type Disk, type Folder, typeOf, writeAll } from "./disk";
import { diskProblem, errorCode } from "./disk-problem";

/** How long work over many bytes goes on: asked between blocks; throws to stop. Lets other work on this thread go on. */
export interface Pace {
  /** Called with the bytes just handled, or with 0 before each step of an act. */
  step(bytes: number): Promise<void>;
  /** How many steps there are, once that is known. */
  whole?(steps: number): void;
}

const block = 1 << 20;
const zeros = Buffer.alloc(block);

/** Room for a file's content, a block at most; small for a small file, because ten thousand blocks take their time. */
const bufferFor = (fileBytes: number) => Buffer.allocUnsafe(Math.min(block, fileBytes + 1));

/** All entries of a thing, itself first, folders before what lies in them. Sockets, pipes and devices are refused. */
export function scanTree(disk: Disk, path: Raw): TreeEntry[] {
  const tree: TreeEntry[] = [];
  const visit = (inside: Folder, name: Raw, rel: Raw) => {
    const stat = inside.stat(name);
    if (!stat) throw new Problem("vanished", { name: shownName(name) });
    const type = typeOf(stat);
    if (type === "special") throw new Problem("special-file", { name: shownName(name) });
    const entry: TreeEntry = {
      rel,
      type,
      mode: Number(stat.mode & 0o7777n),
      mtimeNs: String(stat.mtimeNs),
      bytes: type === "file" ? Number(stat.size) : 0,
    };
    if (type === "link") entry.target = rawFromBytes(inside.calls.readlink(inside.at(name)));
    else {
      const xattrs = readXattrs(inside, name);
      if (xattrs.length) entry.xattrs = xattrs;
    }
    if (type === "file") entry.source = joinRaw(inside.path, name);
    tree.push(entry);
    if (type === "folder")
      inside.inside(name, (folder) => {
        const names = folder.list().map((e) => e.name);
        for (const child of names.sort()) visit(folder, child, (rel === "" ? child : joinRaw(rel, child)) as Raw);
      });
  };
  try {
    disk.inFolder(folderOf(path), (inside) => visit(inside, nameOf(path), "" as Raw));
  } catch (error) {
    throw diskProblem(error, { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });
  }
  return tree;
}

/** A thing's state in one short text: every entry's place, type, size, time and inode. Changes when anything in it does. */
export function treeState(disk: Disk, path: Raw): string {
  const hash = createHash("sha256");
  const visit = (inside: Folder, name: Raw, rel: string) => {
    const stat = inside.stat(name);
    if (!stat) throw new Problem("vanished", { name: shownName(name) });
    const type = typeOf(stat);
    hash.update(
      `${rel}\0${type}\0${stat.ino}\0${type === "folder" ? 0 : stat.size}\0${type === "folder" ? 0 : stat.mtimeNs}\0`,
      "latin1",
    );
    if (type === "folder")
      inside.inside(name, (folder) => {
        const names = folder.list().map((e) => e.name);
        for (const child of names.sort()) visit(folder, child, `${rel}/${child}`);
      });
  };
  try {
    disk.inFolder(folderOf(path), (inside) => visit(inside, nameOf(path), ""));
  } catch (error) {
    throw diskProblem(error, { name: shownName(nameOf(path)) });
  }
  return hash.digest("hex");
}

function readXattrs(inside: Folder, name: Raw): [Raw, Raw][] {
  try {
    return inside.calls
      .listXattrs(inside.at(name))
      .filter((key) => key.toString("latin1").startsWith("user.") || key.toString("latin1").startsWith("system.posix_acl_"))
      .map((key) => [rawFromBytes(key), rawFromBytes(inside.calls.getXattr(inside.at(name), key))]);
  } catch (error) {
    // A file system without extended attributes has none to keep.
    if (errorCode(error) === "EOPNOTSUPP" || errorCode(error) === "ENOTSUP") return [];
    throw error;
  }
}

/**
 * Copies a tree below a temporary name in `folder`, durably: each file is read once for content and checksum, synced, and
 * given its mode, attributes and time. Answers the SHA-256 of each file by its `rel`. Where an entry carries a checksum,
 * what was read must have it.
 */
export async function copyTree(disk: Disk, tree: TreeEntry[], target: Raw, pace: Pace): Promise<Map<Raw, string>> {
  const sums = new Map<Raw, string>();
  const placeOf = (entry: TreeEntry) => (entry.rel === "" ? target : joinRaw(target, entry.rel));
  for (const entry of tree) {
    const place = placeOf(entry);
    if (entry.type === "folder") disk.makeFolder(place, 0o700);
    else if (entry.type === "file") sums.set(entry.rel, await copyFile(disk, entry, place, pace));
  }
  // The links last: there is none yet through which anything could be written.
  for (const entry of tree)
    if (entry.type === "link")
      disk.writing(placeOf(entry), (inside, name) => inside.calls.symlink(bytes(entry.target as Raw), inside.at(name)));
  // From the inside out, because what is written into a folder sets its time.
  for (const entry of tree.toReversed()) {
    const place = placeOf(entry);
    disk.writing(place, (inside, name) => dress(inside, name, entry));
    if (entry.type === "folder") disk.syncFolder(place);
  }
  return sums;
}

function dress(inside: Folder, name: Raw, entry: TreeEntry): void {
  const { calls } = inside;
  for (const [key, value] of entry.xattrs ?? []) {
    try {
      calls.setXattr(inside.at(name), bytes(key), bytes(value));
    } catch (error) {
      if (errorCode(error) !== "EOPNOTSUPP" && errorCode(error) !== "ENOTSUP" && errorCode(error) !== "EPERM") throw error;
    }
  }
  if (entry.type !== "link") calls.chmod(inside.at(name), entry.mode);
  calls.setMtime(inside.at(name), BigInt(entry.mtimeNs));
}

/** Copies one file's content into a new file and syncs it; answers its SHA-256. Holes stay holes. */
export async function copyFile(disk: Disk, entry: TreeEntry, place: Raw, pace: Pace): Promise<string> {
  const { calls } = disk;
  const source = entry.source as Raw;
  const from = disk.inFolder(folderOf(source), (inside) => inside.openFile(nameOf(source)));
  try {
    const to = disk.writing(place, (inside, name) => inside.createFile(name, 0o600));
    try {
      const hash = createHash("sha256");
      const buffer = bufferFor(entry.bytes);
      let length = 0;
      for (;;) {
        const got = calls.read(from, buffer, length);
        if (got === 0) break;
        const part = buffer.subarray(0, got);
        hash.update(part);
        if (!part.equals(zeros.subarray(0, got))) {
          writeAll(calls, to, part, length);
        }
        length += got;
        await pace.step(got);
      }
      calls.truncate(to, length);
      calls.fsync(to);
      const sum = hash.digest("hex");
      if (entry.sha256 && entry.sha256 !== sum)
        throw new Problem("parcel-damaged", { place: shownName(nameOf(source)), detail: "a checksum differs" });
      return sum;
    } finally {
      calls.close(to);
    }
  } catch (error) {
    throw diskProblem(error, { name: shownName(nameOf(source)), place: shownName(nameOf(folderOf(place))) });
  } finally {
    calls.close(from);
  }
}

/** SHA-256 of a file as it lies on the device: its pages are dropped from the cache first. */
export async function hashFromDevice(disk: Disk, path: Raw, pace: Pace): Promise<string> {
  const { calls } = disk;
  const fd = disk.inFolder(folderOf(path), (inside) => inside.openFile(nameOf(path)));
  try {
    calls.dropCache(fd);
    const hash = createHash("sha256");
    const buffer = bufferFor(Number(calls.fstat(fd).size));
    for (;;) {
      const got = calls.read(fd, buffer, null);
      if (got === 0) return hash.digest("hex");
      hash.update(buffer.subarray(0, got));
      await pace.step(got);
    }
  } catch (error) {
    throw diskProblem(error, { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });
  } finally {
    calls.close(fd);
  }
}

/** Reads a copy back and compares it with what it must hold; throws where one file differs or is missing. */
export async function verifyTree(disk: Disk, target: Raw, sums: Map<Raw, string>, pace: Pace): Promise<void> {
  for (const [rel, sum] of sums) {
    const place = rel === "" ? target : joinRaw(target, rel);
    if ((await hashFromDevice(disk, place, pace)) !== sum)
      throw new Problem("parcel-damaged", {
        place: shownName(nameOf(target)),
        detail: `${shownName(nameOf(place))} differs when read back`,
      });
  }
}

/** Whether a tree still holds exactly the entries listed, each file and link in the state in which it was listed. */
export function isUnchanged(disk: Disk, path: Raw, tree: TreeEntry[]): boolean {
  const now = new Map(scanTree(disk, path).map((entry) => [entry.rel, entry]));
  return (
    now.size === tree.length &&
    tree.every((entry) => {
      const is = now.get(entry.rel);
      if (is?.type !== entry.type || is.target !== entry.target || is.bytes !== entry.bytes) return false;
      return entry.type === "folder" || is.mtimeNs === entry.mtimeNs;
    })
  );
}

/**
 * Takes away an original after its copy was proven, from the inside out. Never follows a link, and stops at a file that is
 * not in the state that was copied, or a folder that holds more; what was taken away before that has its copy.
 */
export function removeTree(disk: Disk, path: Raw, tree: TreeEntry[]): void {
  for (const entry of tree.toReversed()) {
    const place = entry.rel === "" ? path : joinRaw(path, entry.rel);
    disk.release(place);
    disk.writing(place, (inside, name) => {
      const stat = inside.stat(name);
      if (!stat) return;
      if (entry.type === "folder") inside.calls.rmdir(inside.at(name));
      else if (String(stat.mtimeNs) !== entry.mtimeNs || (entry.type === "file" && Number(stat.size) !== entry.bytes))
        throw new Problem("changed", { name: shownName(name), detail: "after it was copied" });
      else inside.calls.unlink(inside.at(name));
    });
  }
}

/** Takes away whatever lies under a temporary name of Vuoto's own, if anything does. */
export function removeTemporary(disk: Disk, path: Raw): void {
  if (!disk.stat(path)) return;
  disk.release(path);
  disk.writing(path, (inside, name) => {
    const visit = (folder: Folder, child: Raw) => {
      if (folder.stat(child)?.isDirectory()) {
        folder.calls.chmod(folder.at(child), 0o700);
        folder.inside(child, (next) => {
          for (const entry of next.list()) visit(next, entry.name);
        });
        folder.calls.rmdir(folder.at(child));
      } else folder.calls.unlink(folder.at(child));
    };
    visit(inside, name);
  });
}
