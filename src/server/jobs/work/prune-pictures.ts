import fs from "node:fs";
import path from "node:path";

/**
 * Throws away made pictures until they take no more than three quarters of `most` bytes, where they take more than that: those
 * first that were longest not looked at. Answers how many went, and the bytes that the others take.
 */
export async function prunePictures({
  folder,
  most,
}: {
  folder: string;
  most: number;
}): Promise<{ gone: number; bytes: number }> {
  let names: string[];
  try {
    names = fs.readdirSync(folder, { recursive: true, encoding: "utf8" });
  } catch {
    return { gone: 0, bytes: 0 };
  }
  const pictures = names.flatMap((name) => {
    const file = path.join(folder, name);
    const stat = fs.lstatSync(file, { throwIfNoEntry: false });
    return stat?.isFile() ? [{ file, bytes: stat.size, at: Math.max(stat.atimeMs, stat.mtimeMs) }] : [];
  });
  let bytes = pictures.reduce((sum, picture) => sum + picture.bytes, 0);
  if (bytes <= most) return { gone: 0, bytes };
  pictures.sort((a, b) => a.at - b.at);
  let gone = 0;
  for (const picture of pictures) {
    if (bytes <= (most * 3) / 4) break;
    fs.rmSync(picture.file, { force: true });
    bytes -= picture.bytes;
    gone++;
  }
  return { gone, bytes };
}
