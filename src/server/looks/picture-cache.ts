import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import type { Workers } from "../jobs/workers";

/** What made pictures may take of the disk. */
export const mostBytes = 200_000_000;
/** After so many more it is looked whether they take too much. */
const lookAfter = 200;

const folderOf = (data: string) => path.join(data, "pictures");

/** Small pictures that were made before, in Vuoto's own folder; thrown away and made again at will. */
function fileFor(data: string, key: string): string {
  const name = createHash("sha256").update(key).digest("hex");
  return path.join(folderOf(data), name.slice(0, 2), `${name}.webp`);
}

let kept = 0;

/** Keeps them within their bounds: at once, and from time to time as more are kept. */
export function pruneSeldom(workers: Workers, data: string): void {
  if (kept++ % lookAfter === 0) workers.run("prunePictures", { folder: folderOf(data), most: mostBytes }).catch(() => {});
}

/** The bytes that they take. */
export const bytesOfPictures = async (workers: Workers, data: string): Promise<number> =>
  (await workers.run("prunePictures", { folder: folderOf(data), most: Number.POSITIVE_INFINITY })).bytes;

/** Throws them all away; each is made again when it is next looked at. Answers how many went. */
export const forgetPictures = async (workers: Workers, data: string): Promise<number> =>
  (await workers.run("prunePictures", { folder: folderOf(data), most: 0 })).gone;

export function cachedPicture(data: string, key: string): Buffer | undefined {
  try {
    return fs.readFileSync(fileFor(data, key));
  } catch {
    return undefined;
  }
}

export function keepPicture(data: string, key: string, picture: Buffer): void {
  const file = fileFor(data, key);
  try {
    fs.mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
    fs.writeFileSync(`${file}.new`, picture, { mode: 0o600 });
    fs.renameSync(`${file}.new`, file);
  } catch {
    // A full disk: it is made again next time.
  }
}
