import pRetry from "p-retry";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Content } from "../disk/tree";

/** What a cloud is signed in with. Never in a log, an error, an address or the ledger. */
export interface SignIn {
  user: string;
  password: string;
}

/** Where a depot lies, as data: a thread that carries bytes opens it by this. */
export type DepotAddress =
  | { kind: "folder"; folder: Raw /** What the depot is called, where it is one. */; title?: string }
  | {
      kind: "drive";
      title: string;
      /** What our file on it says. */
      mark: string;
      /** Where it is mounted just now, if it is. */
      folder?: Raw;
      /** Whether our file is there on another file system. */
      other?: boolean;
      /** Bytes that a sample drive holds. */
      bound?: number;
    }
  | {
      kind: "cloud";
      title: string;
      /** Ends with a slash; has neither a user nor a password in it. */
      url: string;
      signIn?: SignIn;
      /** SHA-256 of the certificate that the person accepted, in hex. */
      pin?: string;
    };

/** An entry of a depot. */
export interface StoredEntry {
  name: Raw;
  type: "file" | "folder" | "other";
  bytes: number;
}

/** Bytes; what a depot does not say is not there. */
export interface Capacity {
  free?: number;
  total?: number;
}

/** New content, which can be asked for from its beginning again, and how many bytes it has. */
export interface NewContent {
  bytes: number;
  content: () => Content;
}

export interface Writing {
  /** Its time of change, where the depot keeps one; nanoseconds since 1970. */
  mtimeNs?: bigint;
  /** In the place of what may lie there: only within a folder that is ours alone. */
  replaces?: boolean;
}

/**
 * What every kind of depot can do, a file a kind. Paths lie below the depot: a parcel's folder, and what is in it. Methods
 * reject with a {@link Problem}; "depot-gone" where it is not in reach.
 */
export interface DepotStore {
  /** How many requests at once are of use to it. */
  readonly lanes: number;
  /** Throws what stands in the way of asking it anything. */
  reach(): Promise<void>;
  capacity(): Promise<Capacity>;
  stat(path: Raw): Promise<StoredEntry | undefined>;
  /** What lies in a folder; of a folder that is not there, nothing. */
  list(path: Raw): Promise<StoredEntry[]>;
  /** A file's content as it lies there, not as this computer remembers it. @throws Problem "file-too-large" beyond `most` bytes */
  read(path: Raw, most?: number): Content;
  makeFolder(path: Raw): Promise<void>;
  /** Writes a file. Not durable before its parcel is committed. @throws Problem "name-taken" where one is there and not replaced */
  write(path: Raw, content: NewContent, how?: Writing): Promise<void>;
  /** Makes all below a folder durable. */
  settle(path: Raw): Promise<void>;
  /** A parcel takes its name by one rename, durably, or keeps the one it had. Replaces nothing. */
  commit(part: Raw, bag: Raw): Promise<void>;
  /** Takes what lies there away, with all that is in it. */
  remove(path: Raw): Promise<void>;
  /** Lets go of its connections. */
  close(): Promise<void>;
}

/** Text as new content. */
export function contentOf(text: string): NewContent {
  const bytes = Buffer.from(text);
  return {
    bytes: bytes.length,
    async *content() {
      if (bytes.length > 0) yield bytes;
    },
  };
}

/** All of a small file in a depot; undefined where there is none. @throws Problem "file-too-large" */
export async function readWhole(store: DepotStore, path: Raw, most: number): Promise<Buffer | undefined> {
  const there = await store.stat(path);
  if (there?.type !== "file") return undefined;
  if (there.bytes > most) throw new Problem("file-too-large", { name: path.slice(path.lastIndexOf("/") + 1) });
  return retried(async () => {
    const parts: Buffer[] = [];
    for await (const part of store.read(path, most)) parts.push(Buffer.from(part));
    return Buffer.concat(parts);
  });
}

/** Hands content on, and throws once it is more than `most` bytes. @throws Problem "file-too-large" */
export async function* bounded(content: Content, path: Raw, most: number): Content {
  let length = 0;
  for await (const part of content) {
    length += part.length;
    if (length > most) throw new Problem("file-too-large", { name: path.slice(path.lastIndexOf("/") + 1) });
    yield part;
  }
}

/** A file's content; where the way to it is cut in the middle, it is asked for again, and goes on from there. */
export async function* readSteadily(store: DepotStore, path: Raw, most?: number, signal?: AbortSignal): Content {
  let given = 0;
  let parts: AsyncIterator<Buffer> | undefined;
  try {
    for (;;) {
      const part = await retried(async () => {
        parts ??= after(store.read(path, most), given)[Symbol.asyncIterator]();
        try {
          return await parts.next();
        } catch (error) {
          parts = undefined;
          throw error;
        }
      }, signal);
      if (part.done) return;
      given += part.value.length;
      yield part.value;
    }
  } finally {
    await parts?.return?.();
  }
}

/** Content without its first bytes. */
async function* after(content: Content, bytes: number): Content {
  let left = bytes;
  for await (const part of content) {
    if (part.length > left) yield part.subarray(left);
    left = Math.max(0, left - part.length);
  }
}

/** Who is asked to wait longer than this leaves it to those who wait for long. */
const mostWaitSeconds = 2;

const passesSoon = (error: unknown): boolean =>
  error instanceof Problem && error.code === "depot-failing" && (error.facts.waitSeconds ?? 0) <= mostWaitSeconds;

/** Tries again, soon and a few times, what failed on the way to a depot and may well be done by the next request. */
export const retried = <T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> =>
  pRetry(work, {
    retries: 3,
    minTimeout: 100,
    // Not all who fail at once try again at once: where each second request fails it would be the same ones again.
    randomize: true,
    shouldRetry: ({ error }) => passesSoon(error) && !signal?.aborted,
  });
