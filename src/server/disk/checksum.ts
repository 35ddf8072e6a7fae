import { createHash } from "node:crypto";
import os from "node:os";
import { Worker } from "node:worker_threads";

/** The SHA-256 (FIPS 180-4) of content that comes a part after the other. */
export interface Checksum {
  /** Takes a part in, of which nothing is needed once this is over; where it answers a promise, the next waits for that. */
  add(part: Buffer): Promise<void> | undefined;
  /** In hex. */
  end(): Promise<string>;
  /** Nobody asks for it any more. */
  drop(): void;
}

/** Less than this is summed where it is read: to hand it on takes longer. */
const apartFrom = 1 << 18;
/** So many bytes are handed on, or read, at once. */
export const sumBlock = 1 << 20;
/** So many blocks of one content wait to be summed at most. */
const mostWaiting = 3;

/** Memory for blocks that is free just now: to get a gigabyte of it anew takes a fifth of the time that it takes to sum it. */
const rooms: Buffer[] = [];
const mostRooms = 16;
const takeRoom = () => rooms.pop() ?? Buffer.allocUnsafeSlow(sumBlock);
const giveRoom = (room: Buffer) => void (rooms.length < mostRooms && rooms.push(room));

/** What a thread is told of content: the next of its bytes, the open file it is in, that it is at its end, or that nobody asks any more. */
export type Summed = { id: number } & ({ part: Uint8Array } | { fd: number } | { end: true } | { drop: true });
/**
 * What it answers: that a part was taken in, with its memory to be used again; so many bytes of a file; the checksum; that a file
 * cannot be read on, and its error's code; that it has let go of one.
 */
export type Sum = { id: number } & (
  | { room: ArrayBuffer }
  | { read: number }
  | { sha256: string }
  | { code: string }
  | { dropped: true }
);

interface Waiting {
  hear(sum: Sum): void;
  failed(error: Error): void;
}

/** A thread that sums; ends with the one that started it. */
class SumThread {
  readonly open = new Map<number, Waiting>();
  private worker: Worker | undefined;

  constructor(private readonly script: string) {}

  tell(summed: Summed, transferred: ArrayBuffer[] = []): void {
    this.started().postMessage(summed, transferred);
  }

  private started(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(this.script);
    worker.on("message", (sum: Sum) => {
      if ("room" in sum) giveRoom(Buffer.from(sum.room));
      this.open.get(sum.id)?.hear(sum);
    });
    worker.on("error", (error: Error) => {
      this.worker = undefined;
      for (const waiting of this.open.values()) waiting.failed(error);
    });
    worker.unref();
    this.worker = worker;
    return worker;
  }
}

let threads: SumThread[] = [];
let last = 0;

/** From now on this thread has large contents summed by others, so that it reads and sends meanwhile; `script` is theirs. */
export function sumApart(script: string, count = Math.min(4, os.availableParallelism())): void {
  threads = Array.from({ length: count }, () => new SumThread(script));
}

const threadFor = (bytes: number): SumThread | undefined => (bytes < apartFrom ? undefined : threads[++last % threads.length]);

/** Begins a checksum of content of about so many bytes. */
export function checksumOf(bytes: number): Checksum {
  const thread = threadFor(bytes);
  return thread ? summedApart(thread, last) : summedHere();
}

/**
 * The SHA-256 of an open file of about so many bytes, which another thread reads from its beginning; undefined where it is as well
 * read here. The file must stay open until then. `step` hears of the bytes that were read; where it throws, nothing more is.
 */
export function sumOfOpen(fd: number, bytes: number, step: (bytes: number) => Promise<void>): Promise<string> | undefined {
  const thread = threadFor(bytes);
  return thread && readApart(thread, last, fd, step);
}

function summedHere(): Checksum {
  const hash = createHash("sha256");
  return {
    add(part) {
      hash.update(part);
      return undefined;
    },
    end: async () => hash.digest("hex"),
    drop() {},
  };
}

function summedApart(thread: SumThread, id: number): Checksum {
  let room = takeRoom();
  let filled = 0;
  let waiting = 0;
  let failure: Error | undefined;
  let heard = () => {};
  let summed: string | undefined;
  thread.open.set(id, {
    hear(sum) {
      if ("room" in sum) waiting--;
      if ("sha256" in sum) summed = sum.sha256;
      heard();
    },
    failed(error) {
      failure = error;
      heard();
    },
  });
  const until = async (reached: () => boolean) => {
    while (!reached()) {
      if (failure) throw failure;
      await new Promise<void>((resolve) => {
        heard = resolve;
      });
    }
  };
  const handOn = () => {
    waiting++;
    thread.tell({ id, part: room.subarray(0, filled) }, [room.buffer as ArrayBuffer]);
    filled = 0;
  };
  return {
    add(part) {
      for (let at = 0; at < part.length; ) {
        const taken = part.copy(room, filled, at);
        at += taken;
        filled += taken;
        if (filled < sumBlock) continue;
        handOn();
        room = takeRoom();
      }
      return waiting > mostWaiting ? until(() => waiting <= mostWaiting) : undefined;
    },
    async end() {
      if (filled > 0) handOn();
      else giveRoom(room);
      thread.tell({ id, end: true });
      await until(() => summed !== undefined);
      thread.open.delete(id);
      return summed!;
    },
    drop() {
      if (thread.open.delete(id)) thread.tell({ id, drop: true });
    },
  };
}

async function readApart(thread: SumThread, id: number, fd: number, step: (bytes: number) => Promise<void>): Promise<string> {
  let stopped: unknown;
  try {
    return await new Promise<string>((resolve, reject) => {
      thread.open.set(id, {
        hear(sum) {
          if ("sha256" in sum) resolve(sum.sha256);
          else if ("code" in sum) reject(Object.assign(new Error(`${sum.code}: read`), { code: sum.code, syscall: "read" }));
          // Only now may the file be closed: its number could be another's while the thread still reads.
          else if ("dropped" in sum) reject(stopped);
          else if ("read" in sum)
            step(sum.read).catch((error) => {
              stopped ??= error;
              thread.tell({ id, drop: true });
            });
        },
        failed: reject,
      });
      thread.tell({ id, fd });
    });
  } finally {
    thread.open.delete(id);
  }
}
