import { Worker } from "node:worker_threads";
import { Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import { install } from "../install";
import type { Work } from "./worker";

type Input<N extends keyof Work> = Parameters<Work[N]>[0];
type Answer<N extends keyof Work> = Awaited<ReturnType<Work[N]>>;

interface Waiting {
  id: number;
  name: keyof Work;
  input: unknown;
  part?: (part: never) => void;
  signal?: AbortSignal;
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
class Lane {
  private worker: Worker | undefined;
  private readonly flag = new SharedArrayBuffer(4);
  private readonly queue: Waiting[] = [];
  private current: Waiting | undefined;
  /** Stops listening for the cancelling of what is under way. */
  private unhear = () => {};

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
    const worker = new Worker(install("dist/worker.mjs"), { workerData: { flag: this.flag } });
    this.worker = worker;
    worker.on("message", (message: Message) => {
      const waiting = this.current;
      if (!waiting || waiting.id !== message.id) return;
      if (message.part !== undefined) {
        waiting.part?.(message.part);
        return;
      }
      this.over();
      if (message.problem) waiting.reject(new Problem(message.problem.code, message.problem.facts));
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

/** Threads for walking, reading and hashing, for looking, and for learning: a preview never waits for a walk, nor a walk for learning. */
export class Workers {
  private readonly reading = new Lane();
  private readonly looking = new Lane();
  private readonly learning = new Lane();
  private last = 0;

  run<N extends keyof Work>(
    name: N,
    input: Input<N>,
    options: { part?: (part: never) => void; signal?: AbortSignal } = {},
  ): Promise<Answer<N>> {
    return new Promise((resolve, reject) => {
      this.laneFor(name).push({
        id: ++this.last,
        name,
        input,
        ...options,
        resolve: resolve as (answer: unknown) => void,
        reject,
      });
    });
  }

  private laneFor(name: keyof Work): Lane {
    if (name === "learnHomes") return this.learning;
    return name === "lookAtPicture" || name === "lookAtText" || name === "drawPng" ? this.looking : this.reading;
  }

  async stop(): Promise<void> {
    await Promise.all([this.reading.stop(), this.looking.stop(), this.learning.stop()]);
  }
}
