import { Worker } from "node:worker_threads";
import { Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";

export interface Waiting {
  id: number;
  name: string;
  input: unknown;
  part?: (part: never) => void;
  signal?: AbortSignal;
  /** What taking in a part of the answer threw. */
  failed?: { error: unknown };
  resolve(answer: unknown): void;
  reject(error: unknown): void;
}

interface Message {
  id: number;
  part?: never;
  answer?: unknown;
  problem?: { code: ProblemCode; facts: ProblemFacts };
}

/** One thread and its queue. The thread ends with the process and is started when first needed. */
export class Lane {
  private worker: Worker | undefined;
  private readonly flag = new SharedArrayBuffer(4);
  private readonly queue: Waiting[] = [];
  private current: Waiting | undefined;
  /** Stops listening for the cancelling of what is under way. */
  private unhear = () => {};

  constructor(private readonly script: string) {}

  push(waiting: Waiting): void {
    this.queue.push(waiting);
    this.next();
  }

  private next(): void {
    if (this.current) return;
    const waiting = this.queue.shift();
    if (!waiting) return;
    if (waiting.signal?.aborted) {
      waiting.reject(new Problem("cancelled", { name: "Reading" }));
      this.next();
      return;
    }
    this.current = waiting;
    const worker = this.start();
    worker.ref();
    const stop = () => Atomics.store(new Int32Array(this.flag), 0, waiting.id);
    waiting.signal?.addEventListener("abort", stop, { once: true });
    this.unhear = () => waiting.signal?.removeEventListener("abort", stop);
    worker.postMessage({ id: waiting.id, name: waiting.name, input: waiting.input });
  }

  private start(): Worker {
    if (this.worker) return this.worker;
    const worker = new Worker(this.script, { workerData: { flag: this.flag } });
    this.worker = worker;
    worker.on("message", (message: Message) => {
      const waiting = this.current;
      if (!waiting || waiting.id !== message.id) return;
      if (message.part !== undefined) {
        try {
          waiting.part?.(message.part);
        } catch (error) {
          // What could not be taken in cannot be made good by the rest: the work is stopped, and has failed.
          Atomics.store(new Int32Array(this.flag), 0, waiting.id);
          waiting.part = undefined;
          waiting.failed = { error };
        }
        return;
      }
      this.over();
      if (waiting.failed) waiting.reject(waiting.failed.error);
      else if (message.problem) waiting.reject(new Problem(message.problem.code, message.problem.facts));
      else waiting.resolve(message.answer);
      this.next();
    });
    worker.on("error", (error) => {
      const waiting = this.current;
      this.worker = undefined;
      this.over();
      waiting?.reject(new Problem("unexpected", { detail: error.message }));
      this.next();
    });
    return worker;
  }

  private over(): void {
    this.unhear();
    this.current = undefined;
    this.worker?.unref();
  }

  async stop(): Promise<void> {
    await this.worker?.terminate();
  }
}
