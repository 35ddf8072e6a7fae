import { isUtf8 } from "node:buffer";
import fs from "node:fs";
import Database from "better-sqlite3";
import { parse } from "csv-parse/sync";
import { wordsIn } from "@/core/homes/traits";
import { bytesOfRaw, nameOf, type Raw } from "@/core/names/raw";
import { realCalls } from "../../disk/calls";
import { openQuietly } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";
import { unreadFiles } from "./filed-things";

/** What was read of a file: `words` of its text, parted by spaces, and the host it came from. */
interface FileWords {
  words: string;
  sender: string | null;
}

/** What is told on the way: how many files there are to read, and what was read of some. */
export type ReadingWords = { of: number } | { read: [id: number, words: string, sender: string | null][] };

const toldAtOnce = 200;

export const headLength = 4100;
const mostWords = 80;
const mostHeads = 30;
const longestHead = 40;

/**
 * Reads the words at the beginning of the files that are learned from and were not read yet; what cannot be read or is no text
 * has none. `record` is only read: what is found is told.
 */
export async function readWords({ record }: { record: string }, context: WorkContext): Promise<void> {
  const db = new Database(record, { readonly: true, fileMustExist: true });
  const unread = unreadFiles(db);
  db.close();
  if (unread.length === 0) return;
  context.tell({ of: unread.length } satisfies ReadingWords);
  const head = Buffer.alloc(headLength);
  for (let at = 0; at < unread.length && !context.cancelled(); at += toldAtOnce) {
    const read = unread.slice(at, at + toldAtOnce).map(({ id, path }): [number, string, string | null] => {
      const { words, sender } = wordsOf(path, head);
      return [id, words, sender];
    });
    context.tell({ read } satisfies ReadingWords);
  }
}

function wordsOf(path: Raw, head: Buffer): FileWords {
  const place = Buffer.from(bytesOfRaw(path));
  try {
    const fd = openQuietly(place);
    try {
      const read = head.subarray(0, fs.readSync(fd, head, 0, headLength, 0));
      return {
        words: isText(read) ? wordsOfText(read.toString("utf8"), nameOf(path)).join(" ") : "",
        sender: senderOf(place) ?? null,
      };
    } finally {
      fs.closeSync(fd);
    }
  } catch {
    return { words: "", sender: null };
  }
}

/** Text: no NUL and valid UTF-8, but for a character cut at the end. */
export function isText(head: Buffer): boolean {
  if (head.length === 0) return true;
  if (head.includes(0)) return false;
  for (let cut = 0; cut < 4 && cut < head.length; cut++) {
    if (isUtf8(head.subarray(0, head.length - cut))) return true;
  }
  return false;
}

/** The words of the beginning of a text, and of a table the heads of its columns with a colon in front. */
export function wordsOfText(text: string, name: string): string[] {
  return [...(/\.(csv|tsv)$/i.test(name) ? headsOf(text) : []), ...wordsIn(text, mostWords)];
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

const originAttributes = ["user.xdg.origin.url", "user.xdg.referrer.url"];

/** The host a file was downloaded from, as programs record it (freedesktop.org, common extended attributes). */
export function senderOf(place: Buffer): string | undefined {
  const recorded = attributesOf(place);
  for (const attribute of originAttributes) {
    if (!recorded.includes(attribute)) continue;
    try {
      return (
        new URL(realCalls.getXattr(place, Buffer.from(attribute)).toString("utf8").replace(/\0+$/, "")).hostname || undefined
      );
    } catch {
      // Not recorded, or no address.
    }
  }
  return undefined;
}

/** Most files have none: to ask for their names takes less than to be told that one is missing. */
function attributesOf(place: Buffer): string[] {
  try {
    return realCalls.listXattrs(place).map(String);
  } catch {
    return [];
  }
}
