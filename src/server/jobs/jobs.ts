import { randomUUID } from "node:crypto";
import type { JobLine } from "@/contract/views";
import { Problem } from "@/core/problem";
import { untilStopped } from "../actor";
import type { Clock } from "../clock";
import type { Pace } from "../disk/tree";
import type { Events } from "../events";
import { breathing } from "./gentle";

export interface Job extends Pace {
  readonly signal: AbortSignal;
  /** Says how far it is; tells the listeners a few times a second. */
  progress(done: number, of?: number): void;
  /** So many more are done. */
  readonly more: (n: number) => void;
}

const tellEvery = 200;
/** What is over sooner is not worth a word. */
const worthTelling = 400;

/** Work that takes a while: seen while it runs, with progress, and cancelled on request. */
export class Jobs {
  private readonly running = new Map<string, { view: JobLine; told: boolean; controller: AbortController }>();

  constructor(
    private readonly events: Events,
    private readonly clock: Clock,
  ) {}

  /** Those that were told of: of each of them it is told, too, when it is over. */
  list(): JobLine[] {
    return [...this.running.values()].flatMap(({ view, told }) => (told ? [{ ...view }] : []));
  }

  /** Those that nobody was told of, too: Vuoto ends. */
  cancelAll(): void {
    for (const id of this.running.keys()) this.cancel(id);
  }

  cancel(id: string): boolean {
    const job = this.running.get(id);
    if (!job) return false;
    job.view.state = "cancelling";
    job.told = true;
    job.controller.abort();
    this.events.emit({ type: "job", job: { ...job.view } });
    return true;
  }

  /** Runs work as a job. A {@link Job} is also the pace for work on disk: it throws "cancelled" between two blocks. */
  async run<T>(
    words: string,
    unit: JobLine["unit"],
    of: number,
    work: (job: Job) => Promise<T>,
    about: Pick<JobLine, "parcel" | "pauses"> = {},
  ): Promise<T> {
    const began = this.clock.now();
    const controller = new AbortController();
    const view: JobLine = { ...about, id: randomUUID(), words, done: 0, of, unit, took: 0, state: "running" };
    const line = { view, told: false, controller };
    this.running.set(view.id, line);
    let told = began;
    const breath = breathing();
    const tell = (now = this.clock.now()) => {
      told = now;
      line.told = true;
      view.took = now - began;
      this.events.emit({ type: "job", job: { ...view } });
    };
    // Also where nothing can be said yet of how far it is.
    const unsaid = this.clock.after(worthTelling, () => tell());
    const { clock } = this;
    const job: Job = {
      signal: controller.signal,
      progress(done, total = view.of) {
        view.done = done;
        view.of = total;
        const now = clock.now();
        if (now - told >= (line.told ? tellEvery : worthTelling)) tell(now);
      },
      more: (n) => job.progress(view.done + n),
      whole(steps) {
        if (unit === "things" && view.of === 0) view.of = steps;
      },
      async step(bytes) {
        if (controller.signal.aborted) throw new Problem("cancelled", { name: words });
        if (unit === "bytes") this.progress(view.done + bytes);
        else if (bytes === 0) this.progress(view.done + 1);
        const pause = breath();
        if (pause) await pause;
      },
      breath,
    };
    try {
      return await untilStopped(controller.signal, () => work(job));
    } finally {
      unsaid();
      this.running.delete(view.id);
      view.state = "over";
      if (line.told) tell();
    }
  }
}
