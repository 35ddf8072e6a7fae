import { createHash } from "node:crypto";
import fs from "node:fs";
import { bytesOfRaw, isWithin, nameOf, type Raw, textOfRaw } from "@/core/names/raw";
import { type Kind, kindOf } from "@/core/survey/kinds";
import { statIn, type WalkStat } from "../../disk/statx";
import type { WorkContext } from "../work-context";

export interface WalkHomes {
  roots: Raw[];
  /** Passed over and not told of. */
  leftOut: Raw[];
  /** What the person wishes to be passed over: told of in the answer. Names do not count below `whole`. */
  byWish: { names: Raw[]; folders: Raw[] };
  /** Below these what has a dot in front is told too: all of it would be lost with them. */
  whole: Raw[];
  /** The state in which each folder is known: one that is in it still is only said to be. */
  known: Map<Raw, string>;
}

/** Folders found, in batches, with the files in them. The kind is told by name alone here. */
export interface WalkBatch {
  folders: WalkedFolder[];
  /** Folders in the state in which they are known. */
  same: Raw[];
  /** How many files all these hold. */
  files: number;
}

/** Files of a folder; of one with very many a part of them after the other. */
export interface WalkedFolder {
  folder: Raw;
  state: string;
  names: Raw[];
  files: WalkedFile[];
  /** More of the same folder come. */
  more?: true;
}

interface WalkedFile extends WalkStat {
  kind: Kind;
}

const batchSize = 2000;

/**
 * Walks the homes, not following links, without hidden folders, and tells what lies there in batches. Synchronous calls,
 * which are fastest on a thread of their own. Answers which folders could not be read, and which were passed over by wish.
 */
export async function walkHomes(
  { roots, leftOut, byWish, whole, known }: WalkHomes,
  context: WorkContext,
): Promise<{ files: number; unreadable: Raw[]; leftOut: Raw[] }> {
  let batch: WalkBatch = { folders: [], same: [], files: 0 };
  let files = 0;
  const unreadable: Raw[] = [];
  const passedOver: Raw[] = [];
  const flush = () => {
    if (batch.folders.length || batch.same.length) context.tell(batch);
    batch = { folders: [], same: [], files: 0 };
  };
  const waiting: Raw[] = roots.filter((root) => !roots.some((other) => other !== root && isWithin(other, root)));
  while (waiting.length > 0 && !context.cancelled()) {
    const folder = waiting.pop()!;
    if (leftOut.some((out) => isWithin(out, folder))) continue;
    const hidden = whole.some((root) => isWithin(root, folder));
    if (byWish.folders.includes(folder) || (!hidden && byWish.names.includes(nameOf(folder)))) {
      passedOver.push(folder);
      continue;
    }
    let entries: fs.Dirent[];
    let opened: number | undefined;
    try {
      const base = Buffer.from(bytesOfRaw(folder));
      opened = fs.openSync(base, fs.constants.O_RDONLY | fs.constants.O_DIRECTORY | fs.constants.O_NOFOLLOW);
      // As latin1 a name keeps its bytes, one to a character.
      entries = fs.readdirSync(`/proc/self/fd/${opened}`, { withFileTypes: true, encoding: "latin1" });
    } catch {
      if (opened !== undefined) fs.closeSync(opened);
      unreadable.push(folder);
      continue;
    }
    let state = "";
    const names: Raw[] = [];
    const found: WalkStat[] = [];
    for (const entry of entries) {
      const name = entry.name as Raw;
      if (name.startsWith(".") && !hidden) continue;
      if (entry.isDirectory()) waiting.push(`${folder}/${name}` as Raw);
      if (!entry.isFile()) continue;
      const file = statIn(opened, name);
      if (!file) continue;
      state += `${name}\0${file.ino}:${file.bytes}:${file.mtimeNs}\0`;
      names.push(name);
      found.push(file);
    }
    fs.closeSync(opened);
    const now = createHash("sha256").update(state, "latin1").digest("base64url");
    files += names.length;
    if (known.get(folder) === now) {
      batch.same.push(folder);
      batch.files += names.length;
    } else
      for (let at = 0; at === 0 || at < names.length; at += batchSize) {
        const part = names.slice(at, at + batchSize);
        const of = part.map((name, n) => ({ ...found[at + n]!, kind: kindByName(name) }));
        const more = at + batchSize < names.length;
        batch.folders.push({ folder, state: now, names: part, files: of, ...(more ? { more } : {}) });
        batch.files += part.length;
        if (more) flush();
      }
    if (batch.files >= batchSize || batch.same.length >= batchSize) flush();
  }
  flush();
  return { files, unreadable, leftOut: passedOver };
}

function kindByName(name: Raw): Kind {
  const text = textOfRaw(name) ?? name;
  // The size does not matter to what a name says, but that there is something does.
  return kindOf({ name: text, type: "file", bytes: 1, isText: false, executable: false }).kind;
}
