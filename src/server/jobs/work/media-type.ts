import fs from "node:fs";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import { headLength } from "./read-words";

/** The type of a sound or a video by its content (IANA); undefined where it is neither. */
export async function mediaType({ path }: { path: Raw }): Promise<string | undefined> {
  const head = Buffer.alloc(headLength);
  const fd = openQuietly(Buffer.from(bytesOfRaw(path)));
  let length: number;
  try {
    if (!fs.fstatSync(fd).isFile()) return undefined;
    length = fs.readSync(fd, head, 0, headLength, 0);
  } finally {
    fs.closeSync(fd);
  }
  const { fileTypeFromBuffer } = await import("file-type");
  const mime = (await fileTypeFromBuffer(head.subarray(0, length)).catch(() => undefined))?.mime;
  return mime && /^(audio|video)\//.test(mime) ? mime : undefined;
}
