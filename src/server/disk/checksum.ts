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
const block = 1 << 20;
/** So many blocks of one content wait to be summed at most. */
const mostWaiting = 3;

/** What a thread is told of content: the next of its bytes, that it is at its end, or that nobody asks any more. */
export type Summed = { id: number } & ({ part: Uint8Array } | { end: true } | { drop: true });
/** What it answers: that a part was taken in, or the checksum. */
export type Sum = { id: number; sha256?: string };

interface Waiting {
  taken(): void;
  summed(sha256: string): void;
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
    worker.on("message", ({ id, sha256 }: Sum) => {
      const waiting = this.open.get(id);
      if (sha256 === undefined) waiting?.taken();
      else waiting?.summed(sha256);
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

/** Begins a checksum of content of about so many bytes. */
export function checksumOf(bytes: number): Checksum {
  const thread = bytes < apartFrom ? undefined : threads[++last % threads.length];
  return thread ? summedApart(thread, last) : summedHere();
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
  let room = Buffer.allocUnsafeSlow(block);
  let filled = 0;
  let waiting = 0;
  let failure: Error | undefined;
  let heard = () => {};
  let summed: string | undefined;
  thread.open.set(id, {
    taken() {
      waiting--;
      heard();
    },
    summed(sha256) {
      summed = sha256;
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
        if (filled < block) continue;
        handOn();
        room = Buffer.allocUnsafeSlow(block);
      }
      return waiting > mostWaiting ? until(() => waiting <= mostWaiting) : undefined;
    },
    async end() {
      if (filled > 0) handOn();
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
