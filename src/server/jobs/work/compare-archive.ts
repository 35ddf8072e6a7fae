import { createHash } from "node:crypto";
import fs from "node:fs";
import { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import { bytesOfRaw, isName, joinRaw, type Raw, rawFromBytes, rawFromText, shownName } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";
import { hashFile } from "./hash-files";

export interface CompareArchive {
  archive: Raw;
  /** Folders in which it may lie unpacked. */
  folders: Raw[];
}

export interface ArchiveCompared {
  /** The folder in which most of it lies; undefined where none of it lies in any. */
  folder?: Raw;
  /** Files and links in the archive. */
  entries: number;
  /** What is missing or differs there, as shown; none where all of it lies there, byte for byte. */
  missing: string[];
  /** Why it could not be compared, in words. */
  problem?: string;
}

interface Entry {
  path: Raw;
  bytes: number;
  /** Of a link in a tar: where it leads. */
  target?: Raw;
  sha256?: string;
  /** A folder in which nothing lies: it is unpacked only where it is there too. */
  folder?: true;
  /** Its rights, where the archive says them. */
  mode?: number;
}

/** What lies unpacked. */
interface Found {
  bytes: number;
  mode: number;
  target?: Raw;
  folder?: true;
}

/** Which rights unpacking takes away, by the usual settings (umask(2)). */
const usualMasks = [0o000, 0o002, 0o022, 0o027, 0o077];
const sameRights = (archived: number, unpacked: number) =>
  usualMasks.some((mask) => (archived & 0o777 & ~mask) === (unpacked & 0o777));

/** Of the folders that an archive names, those in which nothing of it lies. */
function withEmptyFolders(entries: Entry[], folders: Entry[]): Entry[] {
  const filled = new Set<string>();
  for (const { path } of [...entries, ...folders])
    for (let at = path.lastIndexOf("/"); at > 0; at = path.lastIndexOf("/", at - 1)) filled.add(path.slice(0, at));
  return [...entries, ...folders.filter(({ path }) => !filled.has(path))];
}

/** An archive that is compared is listed within these limits; one beyond them is said to be, and left. */
const mostEntries = 50_000;
const mostBytes = 8_000_000_000;
/** Nothing that people archive shrinks to less than this part, but what was made to fill a disk does. */
const mostRatio = 400;
const ratioFrom = 10_000_000;
const mostMissing = 20;

class Unfit extends Error {}

/**
 * Compares an archive (zip, tar, tar.gz) entry by entry with what lies in some folders: place, size and SHA-256 of the
 * content. Nothing is unpacked to the disk, and the archive's paths are only ever compared. Memory holds the list of entries
 * and one block.
 */
export async function compareArchive({ archive, folders }: CompareArchive, context: WorkContext): Promise<ArchiveCompared> {
  try {
    const opened = openArchive(archive);
    try {
      const entries = await opened.list(context);
      if (entries.length === 0) throw new Unfit("it is empty");
      // An archive that was added to may hold an older state of a file, of which only the newest lies unpacked.
      if (new Set(entries.map(({ path }) => path)).size < entries.length) throw new Unfit("it holds several states of one file");
      const candidates = folders.flatMap((folder) => {
        const there = walk(folder);
        return there ? rootsIn(entries).map((strip) => ({ place: folder, there, strip })) : [];
      });
      const compared = candidates
        .map((candidate) => ({ ...candidate, missing: missingIn(entries, candidate) }))
        .sort((a, b) => a.missing.length - b.missing.length);
      const best = compared[0];
      if (!best || best.missing.length === entries.length) return { entries: entries.length, missing: [] };
      const missing = best.missing.map(({ path, mode, folder }) => {
        const found = best.there.get(path.slice(best.strip.length) as Raw);
        const rights = found !== undefined && !folder && mode !== undefined && !sameRights(mode, found.mode);
        return rights ? `${shownName(path)}, by its rights,` : shownName(path);
      });
      if (missing.length === 0) {
        const sums = await opened.sums(entries, context);
        for (const entry of entries) {
          if (entry.target !== undefined || entry.folder) continue;
          const place = joinRaw(best.place, entry.path.slice(best.strip.length) as Raw);
          if (sums.get(entry.path) === undefined || hashFile(place, context) !== sums.get(entry.path))
            missing.push(shownName(entry.path));
        }
      }
      return {
        folder: best.place,
        entries: entries.filter(({ folder }) => !folder).length,
        missing: missing.slice(0, mostMissing),
      };
    } finally {
      opened.close();
    }
  } catch (error) {
    const problem =
      error instanceof Unfit
        ? error.message
        : `it cannot be read as an archive (${String((error as Error).message).slice(0, 120)})`;
    return { entries: 0, missing: [], problem };
  }
}

interface Opened {
  list(context: WorkContext): Promise<Entry[]>;
  /** SHA-256 by entry. */
  sums(entries: Entry[], context: WorkContext): Promise<Map<Raw, string>>;
  close(): void;
}

function openArchive(archive: Raw): Opened {
  const fd = openQuietly(Buffer.from(bytesOfRaw(archive)));
  const head = Buffer.alloc(512);
  const got = fs.readSync(fd, head, 0, 512, 0);
  const whole = fs.fstatSync(fd).size;
  const close = () => fs.closeSync(fd);
  if (head.readUInt32LE(0) === 0x04034b50 || head.readUInt32LE(0) === 0x06054b50) return zip(fd, close);
  if (head[0] === 0x1f && head[1] === 0x8b) return tar(fd, true, whole, close);
  if (got === 512 && head.subarray(257, 262).toString("latin1") === "ustar") return tar(fd, false, whole, close);
  close();
  throw new Unfit("it is an archive of another kind than zip, tar and tar.gz");
}

/** A path in an archive, which is data: one that leads out of it, or that no file can have, makes the archive unfit. */
function pathIn(name: Raw): Raw {
  const path = name.replace(/^(\.\/)+/, "").replace(/\/+$/, "") as Raw;
  if (path.split("/").some((part) => !isName(part as Raw))) throw new Unfit("it names places outside itself");
  return path;
}

class Limits {
  private entries = 0;
  private bytes = 0;

  count(bytes: number): void {
    if (++this.entries > mostEntries) throw new Unfit(`it has more than ${mostEntries} entries`);
    this.bytes += bytes;
    if (this.bytes > mostBytes) throw new Unfit("it would unpack to more than 8 GB");
  }
}

function zip(fd: number, close: () => void): Opened {
  const open = async () => {
    const { default: yauzl } = await import("yauzl");
    return new Promise<import("yauzl").ZipFile>((resolve, reject) =>
      yauzl.fromFd(fd, { lazyEntries: true, autoClose: false, decodeStrings: false }, (error, file) =>
        error ? reject(error) : resolve(file),
      ),
    );
  };
  const each = async (
    context: WorkContext,
    visit: (entry: import("yauzl").Entry, name: Raw, file: import("yauzl").ZipFile) => Promise<void>,
  ) => {
    const file = await open();
    await new Promise<void>((resolve, reject) => {
      file.on("error", reject);
      file.on("end", resolve);
      file.on("entry", (entry: import("yauzl").Entry) => {
        if (context.cancelled()) return reject(new Unfit("it was not compared to its end"));
        visit(entry, rawFromBytes(entry.fileName as unknown as Buffer), file).then(() => file.readEntry(), reject);
      });
      file.readEntry();
    });
  };
  const isFolder = (name: Raw) => name.endsWith("/");
  return {
    close,
    async list(context) {
      const limits = new Limits();
      const entries: Entry[] = [];
      const folders: Entry[] = [];
      const unix = 3;
      await each(context, async (entry, name) => {
        if ((entry.generalPurposeBitFlag & 1) !== 0) throw new Unfit("it is locked with a password");
        const bytes = entry.uncompressedSize;
        limits.count(bytes);
        if (bytes > ratioFrom && bytes > entry.compressedSize * mostRatio)
          throw new Unfit("it claims to hold far more than it can");
        const path = pathIn(name);
        const said = entry.versionMadeBy >>> 8 === unix ? (entry.externalFileAttributes >>> 16) & 0o777 : 0;
        const mode = said === 0 ? undefined : said;
        if (isFolder(name)) folders.push({ path, bytes: 0, folder: true });
        else entries.push({ path, bytes, mode });
      });
      return withEmptyFolders(entries, folders);
    },
    async sums(_, context) {
      const sums = new Map<Raw, string>();
      await each(context, async (entry, name, file) => {
        if (isFolder(name)) return;
        const stream = await new Promise<Readable>((resolve, reject) =>
          file.openReadStream(entry, (error, opened) => (error ? reject(error) : resolve(opened))),
        );
        // More than was declared is an error of the stream itself.
        sums.set(pathIn(name), await sumOf(stream, context));
      });
      return sums;
    },
  };
}

function tar(fd: number, zipped: boolean, whole: number, close: () => void): Opened {
  const known = new Map<Raw, string>();
  return {
    close,
    async list(context) {
      const { extract } = await import("tar-stream");
      const limits = new Limits();
      const entries: Entry[] = [];
      const folders: Entry[] = [];
      const extracting = extract({ filenameEncoding: "latin1" } as object);
      const source = Readable.from(blocksOf(fd));
      const unzipped: Readable = zipped ? source.pipe(createGunzip()) : source;
      let unpacked = 0;
      unzipped.on("data", (part: Buffer | string) => {
        unpacked += part.length;
        if (unpacked > ratioFrom && unpacked > whole * mostRatio)
          extracting.destroy(new Unfit("it claims to hold far more than it can"));
      });
      for (const stream of [source, unzipped]) stream.on("error", (error: Error) => extracting.destroy(error));
      unzipped.pipe(extracting);
      try {
        for await (const part of extracting) {
          const { header } = part;
          const extended = (header.pax ?? {}) as { path?: string; linkpath?: string };
          limits.count(header.size ?? 0);
          // A tar of what is in a folder begins with the folder itself.
          if (header.type === "directory" && /^\.?\/*$/.test(header.name)) {
            part.resume();
            continue;
          }
          const path = pathIn(nameOf(header.name, extended.path));
          if (header.type === "file" || header.type === "contiguous-file") {
            const sha256 = await sumOf(part as unknown as Readable, context);
            known.set(path, sha256);
            entries.push({ path, bytes: header.size ?? 0, sha256, mode: header.mode });
          } else {
            if (header.type === "symlink")
              entries.push({ path, bytes: 0, target: nameOf(header.linkname ?? "", extended.linkpath) });
            else if (header.type === "directory") folders.push({ path, bytes: 0, folder: true });
            else throw new Unfit("it holds more than files, folders and links");
            part.resume();
          }
        }
      } finally {
        source.destroy();
      }
      return withEmptyFolders(entries, folders);
    },
    sums: async () => known,
  };
}

/** A name as its header has it, byte for byte; an extended header says it as text. */
const nameOf = (name: string, extended?: string): Raw => (extended === undefined ? (name as Raw) : rawFromText(extended));

function* blocksOf(fd: number): Generator<Buffer> {
  for (let at = 0; ; ) {
    const block = Buffer.allocUnsafe(1 << 18);
    const got = fs.readSync(fd, block, 0, block.length, at);
    if (got === 0) return;
    at += got;
    yield block.subarray(0, got);
  }
}

async function sumOf(stream: Readable, context: WorkContext): Promise<string> {
  const hash = createHash("sha256");
  for await (const part of stream as AsyncIterable<Buffer>) {
    if (context.cancelled()) throw new Unfit("it was not compared to its end");
    hash.update(part);
    context.tell(part.length);
  }
  return hash.digest("hex");
}

/** All files and links below a folder, by their path in it; undefined where it is missing or too many. */
function walk(folder: Raw): Map<Raw, Found> | undefined {
  const there = new Map<Raw, Found>();
  const waiting: Raw[] = ["" as Raw];
  const placeOf = (rel: Raw) => Buffer.from(bytesOfRaw(rel === "" ? folder : joinRaw(folder, rel)));
  for (let rel = waiting.pop(); rel !== undefined; rel = waiting.pop()) {
    let entries: fs.Dirent<Buffer>[];
    try {
      entries = fs.readdirSync(placeOf(rel), { withFileTypes: true, encoding: "buffer" });
    } catch {
      if (rel === "") return undefined;
      continue;
    }
    for (const entry of entries) {
      const name = rawFromBytes(entry.name);
      const path = (rel === "" ? name : joinRaw(rel, name)) as Raw;
      const stat = fs.lstatSync(placeOf(path), { throwIfNoEntry: false });
      if (!stat) continue;
      if (stat.isDirectory()) {
        waiting.push(path);
        there.set(path, { bytes: 0, mode: stat.mode, folder: true });
      } else if (stat.isFile()) there.set(path, { bytes: stat.size, mode: stat.mode });
      else if (stat.isSymbolicLink()) {
        const target = rawFromBytes(fs.readlinkSync(placeOf(path), { encoding: "buffer" }));
        there.set(path, { bytes: 0, mode: stat.mode, target });
      }
      if (there.size > mostEntries) return undefined;
    }
  }
  return there;
}

/** An archive may hold its folder or only what is in it: what its paths may begin with that the folder's do not. */
function rootsIn(entries: Entry[]): string[] {
  const first = entries[0]!.path.split("/")[0]!;
  const shared = entries.every(({ path }) => path.startsWith(`${first}/`));
  return shared ? [`${first}/`, ""] : [""];
}

function missingIn(entries: Entry[], { there, strip }: { there: Map<Raw, Found>; strip: string }): Entry[] {
  return entries.filter(({ path, bytes, target, folder, mode }) => {
    const found = there.get(path.slice(strip.length) as Raw);
    if (!found || found.bytes !== bytes || found.target !== target || found.folder !== folder) return true;
    return mode !== undefined && target === undefined && !sameRights(mode, found.mode);
  });
}
