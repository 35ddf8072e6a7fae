import type { OpenFiles } from "../disk/in-use";
import type { SyncInput } from "../disk/sync";
import { install } from "../install";
import { Lane } from "./lane";
import type { Work } from "./worker";

type Input<N extends keyof Work> = Parameters<Work[N]>[0];
type Answer<N extends keyof Work> = Awaited<ReturnType<Work[N]>>;

/** Threads for walking, reading and hashing, for looking, and for learning: a preview never waits for a walk, nor a walk for learning. */
export class Workers {
  private readonly reading = new Lane(install("dist/worker.mjs"));
  private readonly looking = new Lane(install("dist/worker.mjs"));
  private readonly syncing = new Lane(install("dist/carrier.mjs"));
  private readonly scanning = new Lane(install("dist/carrier.mjs"));
  private readonly learning = new Lane(install("dist/worker.mjs"));
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

  /** Makes changes durable. */
  sync(input: SyncInput): Promise<unknown> {
    return new Promise((resolve, reject) => this.syncing.push({ id: ++this.last, name: "syncFolders", input, resolve, reject }));
  }

  scanOpenFiles(): Promise<OpenFiles> {
    return new Promise((resolve, reject) =>
      this.scanning.push({
        id: ++this.last,
        name: "scanOpenFiles",
        input: null,
        resolve: resolve as (answer: unknown) => void,
        reject,
      }),
    );
  }

  private laneFor(name: keyof Work): Lane {
    if (name === "learnHomes") return this.learning;
    return name === "lookAtPicture" || name === "lookAtText" || name === "drawPng" ? this.looking : this.reading;
  }

  async stop(): Promise<void> {
    await Promise.all([
      this.reading.stop(),
      this.looking.stop(),
      this.learning.stop(),
      this.syncing.stop(),
      this.scanning.stop(),
    ]);
  }
}
