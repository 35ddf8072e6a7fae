import fs from "node:fs";
import type { EntryType, Identity, SmallFile } from "@/core/ledger/shapes";
import { folderOf, isName, isWithin, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Calls } from "./calls";
import { diskProblem, errorCode } from "./disk-problem";
import { answers } from "./mounts";
import { quietly } from "./open-quietly";
import type { Located } from "./statx";

const { O_RDONLY, O_WRONLY, O_CREAT, O_EXCL, O_DIRECTORY, O_NOFOLLOW, O_NONBLOCK } = fs.constants;
/** A folder is opened to be looked into, and never through a link. */
export const folderFlags = O_RDONLY | O_DIRECTORY | O_NOFOLLOW;
const mostHeld = 64;

export const bytes = (raw: Raw): Buffer => Buffer.from(raw, "latin1");

export function typeOf(stat: { isFile(): boolean; isDirectory(): boolean; isSymbolicLink(): boolean }): EntryType {
  if (stat.isFile()) return "file";
  if (stat.isDirectory()) return "folder";
  return stat.isSymbolicLink() ? "link" : "special";
}

export function identityOf(stat: fs.BigIntStats): Located {
  return {
    type: typeOf(stat),
    ino: String(stat.ino),
    bytes: Number(stat.size),
    mtimeNs: String(stat.mtimeNs),
    dev: String(stat.dev),
  };
}

/** Whether it is the same entry in the same state. A folder's own size and time change with what lies in it, so they do not count. */
export function sameState(a: Identity, b: Identity): boolean {
  if (a.type !== b.type || a.ino !== b.ino) return false;
  return a.type === "folder" || (a.bytes === b.bytes && a.mtimeNs === b.mtimeNs);
}

const asked = ["open", "lstat", "locate", "readlink", "unlink", "rmdir"] as const;

/**
 * That a thing is gone is acted on: its step then has nothing left to do. A mounted file system may say so of a name that it
 * merely does not know again yet, so the answer is believed when it is given twice.
 */
function askedTwice(calls: Calls): Calls {
  const twice =
    <A extends unknown[], R>(call: (...args: A) => R) =>
    (...args: A): R => {
      try {
        return call(...args);
      } catch (error) {
        if (errorCode(error) !== "ENOENT") throw error;
        return call(...args);
      }
    };
  return { ...calls, ...Object.fromEntries(asked.map((name) => [name, twice(calls[name] as (...args: unknown[]) => unknown)])) };
}

/**
 * The account's files, reached safely. Every folder on the way is opened by itself, never through a link, and work goes
 * on inside the opened folder: what was checked is what is used. Writing outside the bounds is refused. Reads of single
 * entries may be anywhere. Methods throw {@link Problem}.
 */
export class Disk {
  readonly calls: Calls;

  /** `bounds` makes what answers whether an entry at a path may be made, changed, moved or taken away, as things are now. */
  constructor(
    calls: Calls,
    private readonly bounds: () => (path: Raw) => boolean,
  ) {
    this.calls = askedTwice(calls);
  }

  private boundsHeld: ((path: Raw) => boolean) | undefined;
  private added: Raw[] = [];

  /** A folder that this act itself makes a home lies within bounds too, until it is over. */
  alsoWithin(folder: Raw): void {
    this.added.push(folder);
  }

  private mayWrite(path: Raw): boolean {
    const bounds = this.boundsHeld ?? this.bounds();
    if (this.held) this.boundsHeld = bounds;
    return bounds(path) || this.added.some((folder) => isWithin(folder, path));
  }

  private held: Map<Raw, Folder> | undefined;
  /** How many folders are lent to work that is under way just now; what is lent is never closed. */
  private lent = 0;

  /**
   * From now on folders once opened stay open: an act of a thousand things opens each once. What was opened is what is
   * worked in, whatever takes its name meanwhile. `given`: folders that are open already, by their descriptors; they stay
   * open when it is over.
   */
  hold(given: ReadonlyMap<Raw, number> = new Map()): void {
    this.held ??= new Map();
    for (const [folder, fd] of given) {
      this.given.add(fd);
      this.held.set(folder, new Folder(this.calls, folder, fd));
    }
  }

  /** Closes what was held, and forgets what was within bounds for the act that is over. */
  letGo(): void {
    const held = this.held;
    this.held = undefined;
    this.boundsHeld = undefined;
    this.added = [];
    for (const { fd } of held?.values() ?? []) this.close(fd);
    this.given.clear();
  }

  private readonly given = new Set<number>();

  private close(fd: number): void {
    if (!this.given.has(fd)) this.calls.close(fd);
  }

  /** A path that is moved or removed no longer names what is held under it. Only between two pieces of work. */
  release(path: Raw): void {
    for (const [folder, { fd }] of this.held ?? []) {
      if (!isWithin(path, folder)) continue;
      this.held?.delete(folder);
      this.close(fd);
    }
  }

  /** Opens a folder part by part without following links, lends it to `work`, and closes it. */
  inFolder<T>(folder: Raw, work: (inside: Folder) => T): T {
    let inside = this.held?.get(folder);
    let keep = inside !== undefined;
    if (!inside) {
      if (this.held && this.held.size >= mostHeld && this.lent === 0) this.release("/" as Raw);
      inside = new Folder(this.calls, folder, this.openFolder(folder));
      keep = this.held !== undefined && this.held.size < mostHeld;
      if (keep) this.held?.set(folder, inside);
    }
    this.lent++;
    try {
      return work(inside);
    } finally {
      this.lent--;
      if (!keep) this.calls.close(inside.fd);
    }
  }

  /** Opens a folder for a walk, which closes it. */
  openApart(folder: Raw): Folder {
    return new Folder(this.calls, folder, this.openFolder(folder));
  }

  /** The deepest folder on the way that is open already: from there on it is looked up in it. */
  private nearest(folder: Raw): Folder | undefined {
    if (!this.held) return undefined;
    for (let above = folder; above !== "/"; above = folderOf(above)) {
      const held = this.held.get(above);
      if (held) return held;
    }
    return undefined;
  }

  private openFolder(folder: Raw): number {
    // A call into a mount that hangs would never come back, and nobody else would be heard meanwhile.
    if (!answers(folder)) throw new Problem("no-answer", { place: shownName(folder) });
    let fd: number | undefined;
    let at = "";
    try {
      const near = this.nearest(folder);
      fd = this.calls.open(near ? Buffer.from(`/proc/self/fd/${near.fd}/.`) : Buffer.from("/"), folderFlags);
      at = near?.path ?? "";
      for (const part of folder.slice(at.length).split("/")) {
        if (part === "") continue;
        if (!isName(part as Raw)) throw new Problem("out-of-bounds", { name: shownName(folder) });
        at += `/${part}`;
        const next = this.calls.open(inFd(fd, part as Raw), folderFlags);
        this.calls.close(fd);
        fd = next;
      }
      return fd;
    } catch (error) {
      if (fd !== undefined) this.calls.close(fd);
      const code = errorCode(error);
      if (code === "ENOENT") throw new Problem("folder-gone", { place: shownName(at as Raw) });
      if (code === "ELOOP" || code === "ENOTDIR")
        throw new Problem("link-on-the-way", { name: shownName(nameOf(folder)), place: shownName(at as Raw) });
      throw diskProblem(error, { name: shownName(nameOf(folder)), place: shownName(at as Raw) });
    }
  }

  /** Lends the parent of a path for writing; refused out of bounds. */
  writing<T>(path: Raw, work: (inside: Folder, name: Raw) => T): T {
    if (/(?:^|\/)\.\.?(?:\/|$)/.test(path) || !this.mayWrite(path)) throw new Problem("out-of-bounds", { name: shownName(path) });
    return this.inFolder(folderOf(path), (inside) => {
      try {
        return work(inside, nameOf(path));
      } catch (error) {
        throw diskProblem(error, { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });
      }
    });
  }

  /** What lies at a path: its identity, or undefined where nothing does, its folder included. */
  identity(path: Raw): Located | undefined {
    return this.unlessGone(folderOf(path), (inside) => inside.locate(nameOf(path)));
  }

  /** All that the system says of it, rights and every time included. */
  stat(path: Raw): fs.BigIntStats | undefined {
    return this.unlessGone(folderOf(path), (inside) => inside.stat(nameOf(path)));
  }

  private unlessGone<T>(folder: Raw, look: (inside: Folder) => T): T | undefined {
    try {
      return this.inFolder(folder, look);
    } catch (error) {
      if (error instanceof Problem && error.code === "folder-gone") return undefined;
      throw error;
    }
  }

  /** The entries of a folder; undefined where it is missing. */
  list(folder: Raw): { name: Raw; type: EntryType }[] | undefined {
    return this.unlessGone(folder, (inside) => inside.list());
  }

  /** Of things that are followed, by their inodes: the times of change of state that our own renames gave them, in order. */
  private readonly followed = new Map<string, string[]>();

  /** From now on it is known of a thing, in a state that was seen, which of its times of change of state are of our own renames. */
  follow(ino: string, ctimeNs: string): void {
    if (!this.followed.get(ino)?.includes(ctimeNs)) this.followed.set(ino, [ctimeNs]);
  }

  unfollow(ino: string): void {
    this.followed.delete(ino);
  }

  /** Whether nothing but our own renames lies between two times of change of state of a thing that is followed. */
  merelyRenamed(ino: string, before: string, after: string): boolean {
    const times = this.followed.get(ino) ?? [];
    const at = times.indexOf(before);
    return at >= 0 && times.indexOf(after, at) >= 0;
  }

  /** Moves an entry to a free name on the same file system; never replaces. Both within bounds. */
  rename(from: Raw, to: Raw): void {
    const before = this.followed.size > 0 ? this.stat(from) : undefined;
    const times = before && this.followed.get(String(before.ino));
    this.renameNow(from, to);
    const after = times && this.stat(to);
    if (times?.at(-1) === String(before?.ctimeNs) && after?.ino === before?.ino) times?.push(String(after?.ctimeNs));
  }

  private renameNow(from: Raw, to: Raw): void {
    this.writing(from, (source, fromName) => this.writing(to, (target, toName) => source.renameTo(fromName, target, toName)));
    this.release(from);
    this.release(to);
  }

  makeFolder(path: Raw, mode = 0o777): void {
    this.writing(path, (inside, name) => this.calls.mkdir(inside.at(name), mode));
  }

  removeEmptyFolder(path: Raw): void {
    this.release(path);
    this.writing(path, (inside, name) => this.calls.rmdir(inside.at(name)));
  }

  /** Reads a small file whole; undefined where there is none. Links and other things are not read. */
  readSmall(path: Raw, most = 1 << 20): Buffer | undefined {
    try {
      return this.inFolder(folderOf(path), (inside) => inside.readSmall(nameOf(path), most));
    } catch (error) {
      const gone = errorCode(error) === "ENOENT" || (error instanceof Problem && error.code === "folder-gone");
      // One that is there and could not be read is not one that is missing.
      if (gone && !this.stat(path)) return undefined;
      throw diskProblem(error, { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });
    }
  }

  /** Reads a small file with its rights and the person's own attributes; null where there is none. */
  readFile(path: Raw): SmallFile | null {
    const content = this.readSmall(path);
    if (content === undefined) return null;
    return this.inFolder(folderOf(path), (inside) => {
      const name = nameOf(path);
      const stat = inside.stat(name);
      const xattrs = inside.attributes(name, /^user\./);
      const file: SmallFile = { content: rawFromBytes(content), mode: Number((stat?.mode ?? 0n) & 0o7777n) };
      return xattrs.length > 0 ? { ...file, xattrs } : file;
    });
  }

  /** What a link says; undefined where there is none. */
  target(path: Raw): Raw | undefined {
    return this.unlessGone(folderOf(path), (inside) => inside.target(nameOf(path)));
  }

  /** An extended attribute of each entry of a folder that has it, short ones alone. */
  attributeOf(folder: Raw, names: readonly Raw[], attribute: string, most = 64): Map<Raw, Raw> {
    return (
      this.unlessGone(folder, (inside) => {
        const found = new Map<Raw, Raw>();
        for (const name of names) {
          const value = inside.attribute(name, attribute);
          if (value !== undefined && value.length <= most) found.set(name, value);
        }
        return found;
      }) ?? new Map()
    );
  }

  /** Creates a small file that must not exist yet. Not durable before a sync. */
  createSmall(path: Raw, content: Buffer, mode = 0o666): void {
    this.writing(path, (inside, name) => inside.create(name, content, mode));
  }

  unlink(path: Raw): void {
    this.writing(path, (inside, name) => this.calls.unlink(inside.at(name)));
  }

  /** The file system a folder lies on; undefined where it is missing. */
  deviceOf(folder: Raw): string | undefined {
    return this.unlessGone(folder, (inside) => String(this.calls.fstat(inside.fd).dev));
  }

  /**
   * Whose a folder is and what its rights are, of the opened folder itself; undefined where it is missing. `listed`: further
   * users are named in its access control list.
   */
  opened(folder: Raw): { uid: number; gid: number; mode: number; listed: boolean } | undefined {
    try {
      return this.unlessGone(folder, (inside) => {
        const { uid, gid, mode } = this.calls.fstat(inside.fd);
        return { uid: Number(uid), gid: Number(gid), mode: Number(mode & 0o7777n), listed: inside.hasAccessList() };
      });
    } catch (error) {
      throw diskProblem(error, { name: shownName(nameOf(folder)), place: shownName(folderOf(folder)) });
    }
  }

  /** Makes a folder's entries durable. A folder that is gone has nothing to make durable. */
  syncFolder(folder: Raw): void {
    try {
      this.inFolder(folder, (inside) => this.calls.fsync(inside.fd));
    } catch (error) {
      if (!(error instanceof Problem && error.code === "folder-gone")) throw diskProblem(error, { place: shownName(folder) });
    }
  }

  /** Makes all of the file system durable on which a folder lies: for many small files at once. */
  syncFileSystem(folder: Raw): void {
    try {
      this.inFolder(folder, (inside) => this.calls.syncfs(inside.fd));
    } catch (error) {
      throw diskProblem(error, { place: shownName(folder) });
    }
  }
}

function inFd(fd: number, name: Raw): Buffer {
  return Buffer.from(`/proc/self/fd/${fd}/${name}`, "latin1");
}

/** An opened folder; names are looked up in it and nowhere else. */
export class Folder {
  constructor(
    readonly calls: Calls,
    readonly path: Raw,
    readonly fd: number,
  ) {}

  private named(name: Raw): Raw {
    if (!isName(name)) throw new Problem("bad-name", { name: shownName(name) });
    return name;
  }

  at(name: Raw): Buffer {
    return inFd(this.fd, this.named(name));
  }

  locate(name: Raw): Located | undefined {
    return this.unlessMissing(name, () => this.calls.locate(this.fd, this.named(name)));
  }

  stat(name: Raw): fs.BigIntStats | undefined {
    return this.unlessMissing(name, () => this.calls.lstat(this.at(name)));
  }

  private unlessMissing<T>(name: Raw, look: () => T): T | undefined {
    try {
      return look();
    } catch (error) {
      if (errorCode(error) === "ENOENT") return undefined;
      throw diskProblem(error, { name: shownName(name), place: shownName(nameOf(this.path)) });
    }
  }

  list(): { name: Raw; type: EntryType }[] {
    try {
      return this.calls
        .readdir(Buffer.from(`/proc/self/fd/${this.fd}`))
        .map((entry) => ({ name: rawFromBytes(entry.name), type: typeOf(entry) }));
    } catch (error) {
      throw diskProblem(error, { name: shownName(nameOf(this.path)), place: shownName(nameOf(folderOf(this.path))) });
    }
  }

  /**
   * renameat2 with RENAME_NOREPLACE. Where the file system does not know it (EINVAL), a file is linked and unlinked,
   * which does not replace either; anything else is refused.
   */
  renameTo(name: Raw, target: Folder, toName: Raw): void {
    try {
      this.calls.renameNoReplace(this.fd, bytes(this.named(name)), target.fd, bytes(target.named(toName)));
    } catch (error) {
      if (errorCode(error) !== "EINVAL" || !this.stat(name)?.isFile()) {
        if (errorCode(error) === "EEXIST")
          throw new Problem("name-taken", { name: shownName(toName), place: shownName(nameOf(target.path)) });
        throw error;
      }
      this.calls.link(this.at(name), target.at(toName));
      this.calls.unlink(this.at(name));
    }
  }

  /** The extended attributes of an entry, those whose names match; none where the file system knows none. */
  attributes(name: Raw, which: RegExp): [Raw, Raw][] {
    try {
      return this.calls
        .listXattrs(this.at(name))
        .filter((key) => which.test(key.toString("latin1")))
        .map((key) => [rawFromBytes(key), rawFromBytes(this.calls.getXattr(this.at(name), key))]);
    } catch (error) {
      if (errorCode(error) === "EOPNOTSUPP" || errorCode(error) === "ENOTSUP") return [];
      throw error;
    }
  }

  /** What a link says; undefined where it is none. */
  target(name: Raw): Raw | undefined {
    try {
      return rawFromBytes(this.calls.readlink(this.at(name)));
    } catch {
      return undefined;
    }
  }

  /** One extended attribute of an entry; undefined where there is none, or none can be read. */
  attribute(name: Raw, attribute: string): Raw | undefined {
    try {
      return rawFromBytes(this.calls.getXattr(this.at(name), Buffer.from(attribute)));
    } catch {
      return undefined;
    }
  }

  /** Whether rights beyond its mode were given on it (acl(5)). */
  hasAccessList(): boolean {
    try {
      return this.calls
        .listXattrs(Buffer.from(`/proc/self/fd/${this.fd}/.`))
        .some((name) => name.toString("latin1") === "system.posix_acl_access");
    } catch (error) {
      if (errorCode(error) === "EOPNOTSUPP" || errorCode(error) === "ENOTSUP") return false;
      throw diskProblem(error, { place: shownName(nameOf(this.path)) });
    }
  }

  /** Two entries of the folder take each other's names. */
  exchange(a: Raw, b: Raw): void {
    this.calls.renameExchange(this.fd, bytes(this.named(a)), bytes(this.named(b)));
  }

  /** Opens a subfolder without following a link, lends it, closes it. */
  inside<T>(name: Raw, work: (inside: Folder) => T): T {
    const fd = this.calls.open(this.at(name), folderFlags);
    try {
      return work(new Folder(this.calls, `${this.path}/${name}` as Raw, fd));
    } finally {
      this.calls.close(fd);
    }
  }

  /** Opens a plain file for reading; not a link, and never waits on a pipe. */
  openFile(name: Raw): number {
    const fd = quietly((flag) => this.calls.open(this.at(name), O_RDONLY | O_NOFOLLOW | O_NONBLOCK | flag));
    if (!this.calls.fstat(fd).isFile()) {
      this.calls.close(fd);
      throw new Problem("special-file", { name: shownName(name) });
    }
    return fd;
  }

  createFile(name: Raw, mode: number): number {
    return this.calls.open(this.at(name), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW, mode);
  }

  create(name: Raw, content: Buffer, mode: number): void {
    const fd = this.createFile(name, mode);
    try {
      writeAll(this.calls, fd, content);
    } catch (error) {
      this.calls.close(fd);
      this.calls.unlink(this.at(name));
      throw error;
    }
    this.calls.close(fd);
  }

  readSmall(name: Raw, most: number): Buffer {
    const fd = this.openFile(name);
    try {
      const buffer = Buffer.alloc(most + 1);
      let length = 0;
      for (;;) {
        const got = this.calls.read(fd, buffer.subarray(length), null);
        if (got === 0) return buffer.subarray(0, length);
        length += got;
        if (length > most) throw new Problem("file-too-large", { name: shownName(name) });
      }
    } finally {
      this.calls.close(fd);
    }
  }
}

/** Writes all bytes at the file's position or at one given, also where the system takes only a part at a time. */
export function writeAll(calls: Calls, fd: number, content: Buffer, position?: number): void {
  for (let at = 0; at < content.length; ) {
    const wrote = calls.write(fd, content.subarray(at), position === undefined ? null : position + at);
    if (wrote <= 0) throw Object.assign(new Error("EIO: write"), { code: "EIO", syscall: "write" });
    at += wrote;
  }
}
