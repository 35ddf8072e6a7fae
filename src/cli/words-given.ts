import fs from "node:fs";
import os from "node:os";
import type { HomeRef } from "@/contract/homes";
import type { ItemRef } from "@/contract/items";
import { folderOf, joinRaw, nameOf, normalRaw, type Raw, rawFromBytes, rawFromText, shownName } from "@/core/names/raw";
import { type Account, tuckedFolder } from "@/server/account";
import { realFolder } from "@/server/disk/around";

/** The bytes of each word on the command line: Node turns bytes that are no UTF-8 into something else. */
function wordsAsBytes(): Map<string, Raw[]> {
  const words = new Map<string, Raw[]>();
  let given: Raw[] = [];
  try {
    given = rawFromBytes(fs.readFileSync("/proc/self/cmdline")).split("\0").slice(0, -1) as Raw[];
  } catch {
    // Not Linux's /proc: the text will have to do.
  }
  const texts = process.argv.slice(2);
  const bytes = given.slice(given.length - texts.length);
  for (const [n, text] of texts.entries()) words.set(text, [...(words.get(text) ?? []), bytes[n] ?? rawFromText(text)]);
  return words;
}

let known: Map<string, Raw[]> | undefined;

/** The bytes of a word as it was typed. Words that look alike as text are handed out in the order in which they stand. */
export function rawWord(text: string): Raw {
  known ??= wordsAsBytes();
  const list = known.get(text);
  if (!list) return rawFromText(text);
  return list.length > 1 ? list.shift()! : list[0]!;
}

/** A path as it was typed, from the root on; a tilde that no shell has replaced is the person's home folder. */
export function absolute(path: Raw): Raw {
  if (path === "~" || path.startsWith("~/")) return normalRaw(`${rawFromText(os.homedir())}${path.slice(1)}` as Raw);
  return normalRaw(path.startsWith("/") ? path : joinRaw(rawFromText(process.cwd()), path));
}

const isPath = (raw: Raw) => /^(\/|\.\.?(\/|$)|~(\/|$))/.test(raw);

/** A depot as it was typed: its folder, as it is shown; or its title or id. */
export function depotWord(text: string): string {
  const raw = rawWord(text);
  if (!isPath(raw)) return text;
  const path = absolute(raw);
  return shownName(realFolder(path) ?? path);
}

/** A thing as it was typed: a path, or the bare name of something on a worktop, in sight or out of it. */
export function itemWord(account: Account, text: string): ItemRef {
  const raw = rawWord(text);
  const folders = [...account.worktops.map(({ folder }) => folder), ...account.worktops.map(tuckedFolder)];
  const candidates = raw.includes("/") ? [] : folders.map((folder) => joinRaw(folder, raw));
  const path = candidates.find(exists) ?? resolveFolder(absolute(raw));
  return { path: btoa(path) };
}

function resolveFolder(path: Raw): Raw {
  const folder = realFolder(folderOf(path));
  return folder ? joinRaw(folder, nameOf(path)) : path;
}

function exists(path: Raw): boolean {
  try {
    fs.lstatSync(Buffer.from(path, "latin1"));
    return true;
  } catch {
    return false;
  }
}

/** A home as it was typed: a folder's path, or a title, which may be new. */
export function homeWord(text: string): HomeRef {
  const raw = rawWord(text);
  if (!isPath(raw)) return { title: text };
  const path = absolute(raw);
  return { folder: btoa(realFolder(path) ?? path) };
}

/** A folder as it was typed, by its bytes. */
export function folderWord(text: string): { path: string } {
  const path = absolute(rawWord(text));
  return { path: btoa(realFolder(path) ?? path) };
}
