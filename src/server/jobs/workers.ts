import { setMaxListeners } from "node:events";
import { Problem } from "@/core/problem";
import type { OpenFiles } from "../disk/in-use";
import type { SyncInput } from "../disk/sync";
import { install } from "../install";
import { Lane } from "./lane";
import type { WorkContext } from "./work-context";
import type { Work } from "./worker";

type Input<N extends keyof Work> = Parameters<Work[N]>[0];
type Answer<N extends keyof Work> = Awaited<ReturnType<Work[N]>>;

/**
 * The threads of this process, each started when it is first needed: for walking, reading and hashing; for looking; for
 * learning; for arranging; for syncing and for what is in use. A preview never waits for a walk, nor a walk for learning.
 */
const scripts = {
  reading: "worker",
  looking: "worker",
  learning: "worker",
  arranging: "worker",
  syncing: "carrier",
  scanning: "carrier",
} as const;
type LaneName = keyof typeof scripts;
const lanes = new Map<LaneName, Lane>();
let last = 0;

function laneOf(name: LaneName): Lane {
  const lane = lanes.get(name) ?? new Lane(install(`dist/${scripts[name]}.mjs`));
  lanes.set(name, lane);
  return lane;
}

/** Ends the threads that have nothing to do just now. */
export async function restThreads(): Promise<void> {
  await Promise.all([...lanes.values()].map((lane) => lane.rest()));
}

const looks: (keyof Work)[] = [
  "lookAtPicture",
  "lookAtText",
  "mediaType",
  "drawPng",
  "listInParcel",
  "findInParcels",
  "readParcelList",
  "tagFiles",
];

function laneFor(name: keyof Work): LaneName {
  if (name === "findNearest" || name === "measureBlanks") return "arranging";
  if (name === "readWords" || name === "learnHomes" || name === "rankThings") return "learning";
  return looks.includes(name) ? "looking" : "reading";
}

export interface WorkOptions {
  /** Hears of parts of the answer. */
  part?: (part: never) => void;
  signal?: AbortSignal;
  /** Before all that waits and is not. */
  urgent?: boolean;
  /** It cannot look whether it was cancelled: its thread is ended then. */
  abrupt?: boolean;
}

/** Work that is done on the thread of who asks. */
// biome-ignore lint/suspicious/noExplicitAny: each of the functions has an input of its own.
export type Here = Record<string, (input: any, context: WorkContext) => unknown>;

/** In a turn of its own, as an answer from a thread would come. */
async function doHere(work: Here[string], input: unknown, context: WorkContext): Promise<unknown> {
  await undefined;
  if (context.cancelled()) throw new Problem("cancelled", { name: "Reading" });
  return work(input, context);
}

/** What one engine has done on threads, which are there for all engines of a process. */
export class Workers {
  private readonly ended = new AbortController();
  private readonly underWay = new Set<Promise<unknown>>();

  /** `here`: work that is done on this thread, by its name, as another thread would take more memory than it has to do. */
  constructor(private readonly here: Here = {}) {
    // As many listen as there is work waiting.
    setMaxListeners(0, this.ended.signal);
  }

  run<N extends keyof Work>(name: N, input: Input<N>, options: WorkOptions = {}): Promise<Answer<N>> {
    return this.push(laneFor(name), name, input, options) as Promise<Answer<N>>;
  }

  /** Makes changes durable. */
  sync(input: SyncInput): Promise<unknown> {
    return this.push("syncing", "syncFolders", input);
  }

  scanOpenFiles(): Promise<OpenFiles> {
    return this.push("scanning", "scanOpenFiles", null) as Promise<OpenFiles>;
  }

  /** Cancels what was asked for and is not done, and waits until none of it goes on. */
  async stop(): Promise<void> {
    this.ended.abort();
    await Promise.allSettled(this.underWay);
  }

  private push(
    lane: LaneName,
    name: string,
    input: unknown,
    { part, signal, urgent, abrupt }: WorkOptions = {},
  ): Promise<unknown> {
    const either = signal ? AbortSignal.any([signal, this.ended.signal]) : this.ended.signal;
    const here = this.here[name];
    const answer = here
      ? doHere(here, input, { tell: (told) => part?.(told as never), cancelled: () => either.aborted })
      : new Promise((resolve, reject) =>
          laneOf(lane).push({ id: ++last, name, input, part, urgent, abrupt, signal: either, resolve, reject }),
        );
    this.underWay.add(answer);
    const over = () => this.underWay.delete(answer);
    answer.then(over, over);
    return answer;
  }
}
