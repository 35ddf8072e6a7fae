import { type ChildProcess, fork } from "node:child_process";
import fs from "node:fs";
import type { LookView } from "@/contract/looks";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { install } from "../install";
import type { Drawing, LookAnswered, LookAsked } from "./look-process";

/**
 * A look takes no more of a processor, and its process no more memory; then it is ended, and another one is there for the next. On
 * a busy machine that lasts longer: only one that does nothing is ended by the clock.
 */
const usualLongestMs = 10_000;
const mostMemory = 900_000_000;
const heapMegabytes = 384;
const glanceMs = 150;
/** Without a look for so long it is ended: it takes memory. */
const idleMs = 60_000;

interface Waiting {
  asked: LookAsked;
  signal?: AbortSignal;
  resolve(answered: LookAnswered): void;
}

/**
 * The process in which files are looked at whose form could do harm: archives that unpack without end, documents that fill the
 * memory. One after the other; it is ended by its parent when it takes too long or too much.
 */
export class LookingApart {
  private child: ChildProcess | undefined;
  private readonly queue: Waiting[] = [];
  private current: Waiting | undefined;
  private last = 0;
  private idle: ReturnType<typeof setTimeout> | undefined;

  constructor(private readonly longestMs = usualLongestMs) {}

  /** What a file looks like. Never throws for what is in it. */
  async look(path: Raw, signal?: AbortSignal): Promise<LookView> {
    const { look, why } = await this.ask({ id: ++this.last, path }, signal);
    return look ?? { form: "bytes", why, head: [] };
  }

  /** One page, the letters of a font, or a picture, drawn, as a PNG. @throws Problem "no-picture" */
  async draw(path: Raw, what: Drawing, name: string, signal?: AbortSignal): Promise<Uint8Array> {
    const { picture, why } = await this.ask({ id: ++this.last, path, ...what }, signal);
    if (!picture) throw new Problem("no-picture", { name, detail: why });
    return picture;
  }

  end(): void {
    clearTimeout(this.idle);
    for (const { asked, resolve } of this.queue.splice(0)) resolve({ id: asked.id, why: "Vuoto ends" });
    this.child?.kill("SIGKILL");
    this.child = undefined;
  }

  private ask(asked: LookAsked, signal?: AbortSignal): Promise<LookAnswered> {
    return new Promise((resolve) => {
      this.queue.push({ asked, signal, resolve });
      this.next();
    });
  }

  private next(): void {
    if (this.current) return;
    const waiting = this.queue.shift();
    if (!waiting) {
      clearTimeout(this.idle);
      this.idle = setTimeout(() => this.stopChild(), idleMs).unref();
      return;
    }
    // Who waits no longer is not worked for.
    if (waiting.signal?.aborted) {
      waiting.resolve({ id: waiting.asked.id, why: "nobody waits for it" });
      this.next();
      return;
    }
    clearTimeout(this.idle);
    this.current = waiting;
    const child = this.start();
    const { pid } = child;
    const before = processorMs(pid);
    const late = `to read it takes longer than ${this.longestMs / 1000} seconds`;
    const over = (answered: LookAnswered) => {
      clearTimeout(deadline);
      clearInterval(glance);
      child.off("message", hear);
      child.off("exit", ended);
      this.current = undefined;
      waiting.resolve(answered);
      this.next();
    };
    const giveUp = (why: string) => {
      this.stopChild();
      over({ id: waiting.asked.id, why });
    };
    const hear = (answered: LookAnswered) => {
      if (answered.id === waiting.asked.id) over(answered);
    };
    const ended = (_code: number | null, signal: NodeJS.Signals | null) => {
      this.child = undefined;
      const memory = signal === "SIGABRT" || signal === "SIGKILL";
      over({ id: waiting.asked.id, why: memory ? "to read it takes more memory than it may" : "to read it failed" });
    };
    const deadline = setTimeout(() => giveUp(late), 6 * this.longestMs);
    const glance = setInterval(() => {
      if (memoryOf(pid) > mostMemory) giveUp("to read it takes more memory than it may");
      else if (processorMs(pid) - before > this.longestMs) giveUp(late);
    }, glanceMs);
    child.on("message", hear);
    child.once("exit", ended);
    child.send(waiting.asked);
  }

  private stopChild(): void {
    const { child } = this;
    this.child = undefined;
    child?.removeAllListeners();
    child?.on("error", () => {});
    child?.kill("SIGKILL");
  }

  private start(): ChildProcess {
    // One that ended while nobody looked is none any more.
    if (this.child?.connected) return this.child;
    const child = fork(install("dist/look.mjs"), [], {
      execArgv: [`--max-old-space-size=${heapMegabytes}`],
      serialization: "advanced",
      stdio: ["ignore", "ignore", "ignore", "ipc"],
      // It needs no more of this process than where Vuoto lies.
      env: { VUOTO_ROOT: install(), PATH: process.env.PATH ?? "", HOME: "/nonexistent" } as unknown as NodeJS.ProcessEnv,
    });
    child.on("error", () => {});
    child.unref();
    child.channel?.unref();
    this.child = child;
    return child;
  }
}

/** The time that a process had of a processor, in milliseconds (proc(5), stat: utime and stime, in hundredths); 0 where that cannot be told. */
function processorMs(pid: number | undefined): number {
  try {
    const stat = fs.readFileSync(`/proc/${pid}/stat`, "latin1");
    const [utime, stime] = stat
      .slice(stat.lastIndexOf(")") + 2)
      .split(" ")
      .slice(11, 13);
    return (Number(utime) + Number(stime)) * 10;
  } catch {
    return 0;
  }
}

/** What a process holds in memory, in bytes; 0 where that cannot be told. */
function memoryOf(pid: number | undefined): number {
  try {
    return Number(/^VmRSS:\s+(\d+)/m.exec(fs.readFileSync(`/proc/${pid}/status`, "latin1"))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}
