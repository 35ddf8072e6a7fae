import fs from "node:fs";
import { parse } from "csv-parse/sync";
import { wordsIn } from "@/core/homes/traits";
import { bytesOfRaw, joinRaw, type Raw } from "@/core/names/raw";
import { realCalls } from "../../disk/calls";
import type { WorkContext } from "../work-context";

export interface ReadWords {
  folder: Raw;
  names: Raw[];
}

/** What was read of a file: `words` of its text, parted by spaces, and the host it came from. */
export interface FileWords {
  words: string;
  sender: string | null;
}

export const headLength = 4100;
const mostWords = 80;
const mostHeads = 30;
const longestHead = 40;

/** Reads the words at the beginning of files, a folder at a time; what cannot be read or is no text has none. */
export async function readWords(folders: ReadWords[], context: WorkContext): Promise<FileWords[][]> {
  const head = Buffer.alloc(headLength);
  return folders.map(({ folder, names }) => {
    const found = names.map((name): FileWords => {
      if (context.cancelled()) return { words: "", sender: null };
      const place = Buffer.from(bytesOfRaw(joinRaw(folder, name)));
      try {
        const fd = openQuietly(place);
        try {
          const read = head.subarray(0, fs.readSync(fd, head, 0, headLength, 0));
          return {
            words: isText(read) ? wordsOfText(read.toString("utf8"), name).join(" ") : "",
            sender: senderOf(place) ?? null,
          };
        } finally {
          fs.closeSync(fd);
        }
      } catch {
        return { words: "", sender: null };
      }
    });
    context.tell(names.length);
    return found;
  });
}

/** Opens for reading without leaving the time of it, where that is allowed: then only others' reading is recorded. */
export function openQuietly(place: Buffer): number {
  const { O_RDONLY, O_NOFOLLOW, O_NONBLOCK, O_NOATIME } = fs.constants;
  try {
    return fs.openSync(place, O_RDONLY | O_NOFOLLOW | O_NONBLOCK | O_NOATIME);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== "EPERM") throw error;
    return fs.openSync(place, O_RDONLY | O_NOFOLLOW | O_NONBLOCK);
  }
}

/** Text: no NUL and valid UTF-8, but for a character cut at the end. */
export function isText(head: Buffer): boolean {
  if (head.length === 0) return true;
  if (head.includes(0)) return false;
  for (let cut = 0; cut < 4 && cut < head.length; cut++) {
    try {
      new TextDecoder("utf-8", { fatal: true }).decode(head.subarray(0, head.length - cut));
      return true;
    } catch {}
  }
  return false;
}

/** The words of the beginning of a text, and of a table the heads of its columns with a colon in front. */
export function wordsOfText(text: string, name: string): string[] {
  return [...(/\.(csv|tsv)$/i.test(name) ? headsOf(text) : []), ...wordsIn(text).slice(0, mostWords)];
}

function headsOf(text: string): string[] {
  try {
    const [heads] = parse(text.slice(0, text.indexOf("\n") + 1 || undefined), {
      delimiter: [",", ";", "\t"],
      relax_quotes: true,
      relax_column_count: true,
    }) as string[][];
    return (heads ?? [])
      .map((head) => head.trim().toLowerCase().replace(/\s+/g, "_").slice(0, longestHead))
      .filter((head) => /\p{L}/u.test(head))
      .slice(0, mostHeads)
      .map((head) => `:${head}`);
  } catch {
    return [];
  }
}

const originAttributes = ["user.xdg.origin.url", "user.xdg.referrer.url"].map((name) => Buffer.from(name));

/** The host a file was downloaded from, as programs record it (freedesktop.org, common extended attributes). */
export function senderOf(place: Buffer): string | undefined {
  for (const attribute of originAttributes) {
    try {
      return new URL(realCalls.getXattr(place, attribute).toString("utf8").replace(/\0+$/, "")).hostname || undefined;
    } catch {
      // Not recorded, or no address.
    }
  }
  return undefined;
}
