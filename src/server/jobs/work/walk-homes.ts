import fs from "node:fs";
import { bytesOfRaw, isWithin, type Raw, rawFromBytes, textOfRaw } from "@/core/names/raw";
import { type Kind, kindOf } from "@/core/survey/kinds";
import type { WorkContext } from "../work-context";

export interface WalkHomes {
  roots: Raw[];
  leftOut: Raw[];
  /** Below these what has a dot in front is told too: all of it would be lost with them. */
  whole: Raw[];
}

/** Files and folders found, in batches. The kind is told by name alone here. */
export interface WalkBatch {
  folders: { folder: Raw; files: number }[];
  files: { folder: Raw; name: Raw; bytes: number; mtimeNs: string; ino: string; kind: Kind }[];
}

const batchSize = 2000;

/**
 * Walks the homes, not following links, without hidden folders, and tells what lies there in batches. Synchronous calls,
 * which are fastest on a thread of their own. Answers which folders could not be read.
 */
export async function walkHomes(
  { roots, leftOut, whole }: WalkHomes,
  context: WorkContext,
): Promise<{ files: number; unreadable: Raw[] }> {
  let batch: WalkBatch = { folders: [], files: [] };
  let files = 0;
  const unreadable: Raw[] = [];
  const flush = () => {
    if (batch.files.length || batch.folders.length) context.tell(batch);
    batch = { folders: [], files: [] };
  };
  const waiting: Raw[] = roots.filter((root) => !roots.some((other) => other !== root && isWithin(other, root)));
  while (waiting.length > 0 && !context.cancelled()) {
    const folder = waiting.pop()!;
    if (leftOut.some((out) => isWithin(out, folder))) continue;
    const base = Buffer.from(bytesOfRaw(folder));
    let entries: fs.Dirent<Buffer>[];
    try {
      entries = fs.readdirSync(base, { withFileTypes: true, encoding: "buffer" });
    } catch {
      unreadable.push(folder);
      continue;
    }
    const hidden = whole.some((root) => isWithin(root, folder));
    let count = 0;
    for (const entry of entries) {
      const name = rawFromBytes(entry.name);
      if (name.startsWith(".") && !hidden) continue;
      const place = `${folder}/${name}` as Raw;
      if (entry.isDirectory()) waiting.push(place);
      else if (entry.isFile()) {
        let stat: fs.BigIntStats;
        try {
          stat = fs.lstatSync(Buffer.from(bytesOfRaw(place)), { bigint: true });
        } catch {
          continue;
        }
        count++;
        files++;
        const text = textOfRaw(name) ?? name;
        const { kind } = kindOf({ name: text, type: "file", bytes: Number(stat.size), isText: false, executable: false });
        batch.files.push({ folder, name, bytes: Number(stat.size), mtimeNs: String(stat.mtimeNs), ino: String(stat.ino), kind });
        if (batch.files.length >= batchSize) flush();
      }
    }
    batch.folders.push({ folder, files: count });
  }
  flush();
  return { files, unreadable };
}
