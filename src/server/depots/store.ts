import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Content } from "../disk/tree";

/** Where a depot lies, as data: a thread that carries bytes opens it by this. */
export type DepotAddress = { kind: "folder"; folder: Raw };

/** An entry of a depot. */
export interface StoredEntry {
  name: Raw;
  type: "file" | "folder" | "other";
  bytes: number;
}

/**
 * What every kind of depot can do, a file a kind. Paths lie below the depot: a parcel's folder, and what is in it. Methods
 * reject with a {@link Problem}; "depot-gone" where it is not in reach.
 */
export interface DepotStore {
  /** Whether it is in reach now. */
  state(): Promise<"in reach" | "gone">;
  /** Bytes that are free, where that is known. */
  capacity(): Promise<number | undefined>;
  stat(path: Raw): Promise<StoredEntry | undefined>;
  list(path: Raw): Promise<StoredEntry[]>;
  /** A file's content as it lies there, not as this computer remembers it. */
  read(path: Raw): Content;
  makeFolder(path: Raw): Promise<void>;
  /** Writes a new file. Not durable before its parcel is committed. `mtimeNs`: nanoseconds since 1970. */
  write(path: Raw, content: Content, mtimeNs?: bigint): Promise<void>;
  /** Makes all below a folder durable. */
  settle(path: Raw): Promise<void>;
  /** A parcel takes its name by one rename, durably, or keeps the one it had. Replaces nothing. */
  commit(part: Raw, bag: Raw): Promise<void>;
  /** Takes a parcel's folder away, with all that is in it. */
  remove(path: Raw): Promise<void>;
}

/** All of a small file in a depot; undefined where there is none. @throws Problem "file-too-large" */
export async function readWhole(store: DepotStore, path: Raw, most: number): Promise<Buffer | undefined> {
  if ((await store.stat(path))?.type !== "file") return undefined;
  const parts: Buffer[] = [];
  let length = 0;
  for await (const part of store.read(path)) {
    length += part.length;
    if (length > most) throw new Problem("file-too-large", { name: path.slice(path.lastIndexOf("/") + 1) });
    parts.push(Buffer.from(part));
  }
  return Buffer.concat(parts);
}
