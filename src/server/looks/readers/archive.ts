import fs from "node:fs";
import type { Readable } from "node:stream";
import { createGunzip } from "node:zlib";
import type { ArchiveEntry, LookView } from "@/contract/looks";
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

/** What lies in a tar, packed by gzip or not. Read from its beginning on, up to a bound. */
export async function tar(source: Source, packed: boolean): Promise<LookView> {
  const { extract } = await import("tar-stream");
  const entries: ArchiveEntry[] = [];
  let [count, bytes, read, goesOn] = [0, 0, 0, false];
  const reader = extract();
  // A descriptor of its own, which ends with the stream; of the same file, whatever its name leads to now.
  const from = fs.createReadStream(`/proc/self/fd/${source.fd}`);
  const whole: Readable = packed ? from.pipe(createGunzip()).on("error", (error) => reader.destroy(error)) : from;
  from.on("error", (error) => reader.destroy(error));
  whole.on("data", (part: Buffer) => {
    read += part.length;
    if (read > mostUnpacked) {
      goesOn = true;
      reader.destroy();
      from.destroy();
    }
  });
  whole.pipe(reader);
  try {
    for await (const entry of reader) {
      const { name, size = 0, type } = entry.header;
      count++;
      bytes += size;
      if (entries.length < shownEntries)
        entries.push({ name, bytes: size, ...(type === "directory" ? { folder: true as const } : {}) });
      if (count >= mostEntries) {
        goesOn = true;
        break;
      }
      entry.resume();
    }
  } catch {
    if (count === 0) throw new NotShown("it is damaged, or was cut off");
    goesOn = true;
  } finally {
    from.destroy();
  }
  return listing(entries, count, bytes, goesOn);
}
