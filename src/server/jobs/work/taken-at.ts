import fs from "node:fs";
import readExif from "exif-reader";
import type Sharp from "sharp";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";

const mostBytes = 200_000_000;

/**
 * When each picture was taken, as its camera wrote it (Exif 2.32, DateTimeOriginal): milliseconds since 1970 on a clock
 * without a time zone, so that its day is the day on that clock. Null where a picture does not say or cannot be read.
 */
export async function takenAt(pictures: Raw[], context: WorkContext): Promise<(number | null)[]> {
  const { default: sharp } = await import("sharp");
  const found: (number | null)[] = [];
  for (const picture of pictures) {
    if (context.cancelled()) break;
    found.push(await takenOf(picture, sharp));
    context.tell(1);
  }
  return found;
}

async function takenOf(picture: Raw, sharp: typeof Sharp): Promise<number | null> {
  try {
    const fd = openQuietly(Buffer.from(bytesOfRaw(picture)));
    try {
      const stat = fs.fstatSync(fd);
      if (!stat.isFile() || stat.size > mostBytes) return null;
      const { exif } = await sharp(fs.readFileSync(fd), { failOn: "none" }).metadata();
      const taken = exif && readExif(exif).Photo?.DateTimeOriginal;
      return taken instanceof Date && !Number.isNaN(taken.getTime()) ? taken.getTime() : null;
    } finally {
      fs.closeSync(fd);
    }
  } catch {
    return null;
  }
}
