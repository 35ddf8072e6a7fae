import { Worker } from "node:worker_threads";
import { Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";

export interface Waiting {
  id: number;
  name: string;
  input: unknown;
  part?: (part: never) => void;
  signal?: AbortSignal;
  /** Before all that waits and is not. */
  urgent?: boolean;
  /** It cannot look at the flag: its thread is ended when it is cancelled. */
  abrupt?: boolean;
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
  /** Stops listening for the leaving of what waits. */
  private readonly unheard = new WeakMap<Waiting, () => void>();
  private current: Waiting | undefined;
  /** Stops listening for the cancelling of what is under way. */
  private unhear = () => {};

  constructor(private readonly script: string) {}

  push(waiting: Waiting): void {
    const at = waiting.urgent ? this.queue.findIndex((other) => !other.urgent) : -1;
    if (at < 0) this.queue.push(waiting);
    else this.queue.splice(at, 0, waiting);
    // Who waits no longer is not kept in the row.
    const drop = () => this.drop(waiting);
    waiting.signal?.addEventListener("abort", drop, { once: true });
    this.unheard.set(waiting, () => waiting.signal?.removeEventListener("abort", drop));
    this.next();
  }

  private drop(waiting: Waiting): void {
    const at = this.queue.indexOf(waiting);
    if (at < 0) return;
    this.queue.splice(at, 1);
    waiting.reject(new Problem("cancelled", { name: "Reading" }));
  }

  private next(): void {
    if (this.current) return;
    const waiting = this.queue.shift();
    if (!waiting) return;
    this.unheard.get(waiting)?.();
    if (waiting.signal?.aborted) {
      waiting.reject(new Problem("cancelled", { name: "Reading" }));
      this.next();
      return;
    }
    this.current = waiting;
    const worker = this.start();
    worker.ref();
    const stop = () => {
      if (waiting.abrupt) this.cut(waiting);
      else Atomics.store(new Int32Array(this.flag), 0, waiting.id);
    };
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

  private cut(waiting: Waiting): void {
    if (this.current !== waiting) return;
    this.over();
    void this.stop();
    waiting.reject(new Problem("cancelled", {}));
    this.next();
  }

  /** Ends the thread; the next work starts another. */
  async stop(): Promise<void> {
    const { worker } = this;
    this.worker = undefined;
    await worker?.terminate();
  }

  /** The same, where it has nothing to do. */
  async rest(): Promise<void> {
    if (!this.current) await this.stop();
  }
}
