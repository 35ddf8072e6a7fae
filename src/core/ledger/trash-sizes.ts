import type { Raw } from "../names/raw";
import { escapePath } from "./trash-info";

/** How much disk a folder in the trash takes, as of the time of its info file. */
export interface TrashSize {
  name: Raw;
  /** Of the blocks it and its contents take, as `du -B1` counts. */
  bytes: number;
  /** Of its info file, in whole seconds since 1970. */
  infoSeconds: number;
}

/**
 * Reads a `directorysizes` file (freedesktop.org Trash specification 1.0): a line for each folder in the trash, its size,
 * its info file's time and its name, percent-encoded, a space between. Lines that are something else are passed over.
 */
export function readTrashSizes(text: string): Map<Raw, TrashSize> {
  const sizes = new Map<Raw, TrashSize>();
  for (const line of text.split("\n")) {
    const found = /^(\d{1,15}) (\d{1,12}) (\S+)$/.exec(line);
    if (!found) continue;
    const name = found[3]!.replace(/%([0-9A-Fa-f]{2})/g, (_, hex: string) =>
      String.fromCharCode(Number.parseInt(hex, 16)),
    ) as Raw;
    sizes.set(name, { name, bytes: Number(found[1]), infoSeconds: Number(found[2]) });
  }
  return sizes;
}

export const writeTrashSizes = (sizes: TrashSize[]): string =>
  sizes.map(({ name, bytes, infoSeconds }) => `${bytes} ${infoSeconds} ${escapePath(name)}\n`).join("");
