import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import { typeOfZip } from "./container";
import { headLength, isText } from "./read-words";

/** The type of a file by its content (IANA): "text/plain" of any text; undefined where it is not known, or it can be run. */
export async function contentType({ path }: { path: Raw }): Promise<string | undefined> {
  const head = Buffer.alloc(headLength);
  const fd = openQuietly(Buffer.from(bytesOfRaw(path)));
  try {
    const stat = fs.fstatSync(fd);
    if (!stat.isFile() || (stat.mode & 0o111) !== 0) return undefined;
    const read = head.subarray(0, fs.readSync(fd, head, 0, headLength, 0));
    const { fileTypeFromBuffer } = await import("file-type");
    const mime = (await fileTypeFromBuffer(read).catch(() => undefined))?.mime as string | undefined;
    if (mime === "application/zip") return (await typeOfZip(fd)) ?? mime;
    return mime ?? (read.length > 0 && !read.subarray(0, 2).equals(Buffer.from("#!")) && isText(read) ? "text/plain" : undefined);
  } finally {
    fs.closeSync(fd);
  }
}
