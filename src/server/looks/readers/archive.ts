import fs from "node:fs";
import { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import type { ArchiveEntry, LookView } from "@/contract/looks";
import { quietly } from "../../disk/open-quietly";
import { listed, unpacked } from "./sevenzip";
import { NotShown, type Source } from "./source";
import { Zip } from "./zip";

const shownEntries = 2000;
const mostEntries = 200_000;
/** So much of a packed one is unpacked to list it. */
const mostUnpacked = 2_000_000_000;

const listing = (entries: ArchiveEntry[], count: number, bytes: number, goesOn: boolean): LookView => ({
  form: "archive",
  entries: entries.slice(0, shownEntries),
  count,
  bytes,
  whole: !goesOn,
});

/** What lies in a ZIP file, by its directory. */
export async function zip(source: Source): Promise<LookView> {
  const { parts, claimed, goesOn } = await Zip.open(source.fd);
  const entries = parts.map(
    ({ name, bytes, folder }): ArchiveEntry => ({ name, bytes, ...(folder ? { folder: true as const } : {}) }),
  );
  const locked = parts.some((part) => part.locked);
  return { ...listing(entries, entries.length, claimed, goesOn), ...(locked ? { locked } : {}) } as LookView;
}

interface Listing {
  entries: ArchiveEntry[];
  count: number;
  bytes: number;
  goesOn: boolean;
  /** Of the first entry that was looked for, what it holds. */
  content?: Buffer;
}

/** Lists a tar (POSIX.1-2017, pax) as it comes; where it ends early, what came until then. @throws NotShown where nothing did */
async function listStream(from: Readable, wanted?: RegExp): Promise<Listing> {
  const { extract } = await import("tar-stream");
  const found: Listing = { entries: [], count: 0, bytes: 0, goesOn: false };
  let read = 0;
  const reader = extract();
  from.on("error", (error) => reader.destroy(error));
  from.on("data", (part: Buffer) => {
    read += part.length;
    if (read > mostUnpacked) reader.destroy(new NotShown("it unpacks to too much"));
  });
  from.pipe(reader);
  try {
    for await (const entry of reader) {
      const { name, size = 0, type } = entry.header;
      found.count++;
      found.bytes += size;
      if (found.entries.length < shownEntries)
        found.entries.push({ name, bytes: size, ...(type === "directory" ? { folder: true as const } : {}) });
      if (found.count >= mostEntries) {
        found.goesOn = true;
        break;
      }
      if (!found.content && wanted?.test(name) && size < mostWanted) {
        const parts: Buffer[] = [];
        for await (const part of entry) parts.push(part as Buffer);
        found.content = Buffer.concat(parts);
      } else entry.resume();
    }
  } catch {
    if (found.count === 0) throw new NotShown("it is damaged, or was cut off");
    found.goesOn = true;
  } finally {
    from.destroy();
  }
  return found;
}

const mostWanted = 1_000_000;

/** Lists a tar that was unpacked, and reads one of its entries. */
export const listTar = (content: Buffer, wanted?: RegExp): Promise<Listing> => listStream(Readable.from([content]), wanted);

/** What lies in a tar, packed by gzip or not. Read from its beginning on, up to a bound. */
export async function tar(source: Source, packed: boolean): Promise<LookView> {
  // A descriptor of its own, which ends with the stream; of the same file, whatever its name leads to now.
  const fd = quietly((flag) => fs.openSync(`/proc/self/fd/${source.fd}`, fs.constants.O_RDONLY | flag));
  const file = fs.createReadStream("", { fd, start: 0 });
  const unpack = packed ? createGunzip() : undefined;
  if (unpack) file.on("error", (error) => unpack.destroy(error)).pipe(unpack);
  try {
    const { entries, count, bytes, goesOn } = await listStream(unpack ?? file);
    return listing(entries, count, bytes, goesOn);
  } finally {
    file.destroy();
  }
}

/** So much of one that is packed by xz, bzip2 or zstd is unpacked to list it. */
const mostListed = 100_000_000;

/** One that is packed otherwise: a tar is listed, and anything else is one entry. */
export async function packed(source: Source): Promise<LookView> {
  const part = { source, from: 0, length: source.bytes, name: source.name };
  const { content, whole } = await unpacked(part, mostListed);
  if (content.length >= 262 && content.toString("latin1", 257, 262) === "ustar") {
    const { entries, count, bytes, goesOn } = await listTar(content);
    return listing(entries, count, bytes, goesOn || !whole);
  }
  const name = source.name.replace(/\.[a-z0-9]+$/, "");
  return listing([{ name, bytes: content.length }], 1, content.length, !whole);
}

/** What lies in an archive of another kind, by its own list. */
export async function other(source: Source): Promise<LookView> {
  const { entries, locked, whole } = await listed(source, mostEntries);
  const bytes = entries.reduce((sum, entry) => sum + entry.bytes, 0);
  return { ...listing(entries, entries.length, bytes, !whole), ...(locked ? { locked } : {}) } as LookView;
}
