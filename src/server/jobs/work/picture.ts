import fs from "node:fs";
import { bytesOfRaw, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { readQuietly } from "../../disk/open-quietly";

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
  if (!stat.isFile()) throw new Problem("no-picture", { name });
  if (stat.size > mostBytes) throw new Problem("no-picture", { name, detail: "it is larger than 200 MB" });
  // Loaded when first needed: most threads never look at a picture, and loading takes longer than they do.
  const { default: sharp } = await import("sharp");
  try {
    return await sharp(readQuietly(place), { limitInputPixels: mostPixels, failOn: "none", sequentialRead: true })
      .rotate()
      .resize(width, height, { fit: "inside", withoutEnlargement: true })
      .webp({ quality: 80, effort: 2 })
      .toBuffer();
  } catch (error) {
    throw new Problem("no-picture", { name, detail: reasonOf(error) });
  }
}

/** Why it could not be decoded, for a person: the library's own words tell little. */
function reasonOf(error: unknown): string {
  const said = error instanceof Error ? error.message : "";
  return /pixel limit|too large/i.test(said)
    ? "it has more than 120 million pixels"
    : "it is damaged, or in a form that is not known";
}
