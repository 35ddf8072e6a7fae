import fs from "node:fs";
import { bytesOfRaw, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";

export interface LookAtPicture {
  path: Raw;
  /** The box into which it is fitted, in pixels; never enlarged. */
  width: number;
  height: number;
}

/** More pixels than this are not decoded: a picture that declares them may be made to fill the memory. */
const mostPixels = 120_000_000;
const mostBytes = 200_000_000;

/** A picture re-encoded as WebP, turned upright, without its metadata. */
export async function lookAtPicture({ path, width, height }: LookAtPicture): Promise<Uint8Array> {
  const name = shownName(path.slice(path.lastIndexOf("/") + 1) as Raw);
  const place = Buffer.from(bytesOfRaw(path));
  // Decided upon and moved while its picture was asked for.
  const stat = fs.lstatSync(place, { throwIfNoEntry: false });
  if (!stat) throw new Problem("vanished", { name });
  if (!stat.isFile() || stat.size > mostBytes) throw new Problem("too-large", { name });
  // Loaded when first needed: most threads never look at a picture, and loading takes longer than they do.
  const { default: sharp } = await import("sharp");
  try {
    return await sharp(fs.readFileSync(place), { limitInputPixels: mostPixels, failOn: "none", sequentialRead: true })
      .rotate()
      .resize(width, height, { fit: "inside", withoutEnlargement: true })
      .webp({ quality: 80, effort: 2 })
      .toBuffer();
  } catch (error) {
    throw new Problem("malformed", { name, detail: error instanceof Error ? error.message.slice(0, 120) : undefined });
  }
}
