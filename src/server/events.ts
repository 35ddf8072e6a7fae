import { randomBytes } from "node:crypto";
import type { JobLine } from "@/contract/views";

export type VuotoEvent =
  | { type: "changed"; what: "items" | "ledger" | "homes" | "parcels" }
  /** Files that merely grew: how large they are by now. */
  | { type: "grown"; items: { id: string; bytes: number }[] }
  | { type: "job"; job: JobLine }
  | { type: "said"; words: string }
  /** Sessions that were ended: their streams end too. */
  | { type: "ended"; sessions: string[] };

export interface NumberedEvent {
  n: number;
  event: VuotoEvent;
}

const kept = 500;

/**
 * What happened, numbered without gaps, so that a stream can be resumed where it broke off. A mark says up to where somebody
 * has heard: the epoch, which is another one after each start, and the number.
 */
export class Events {
  private readonly epoch = randomBytes(6).toString("hex");
  private n = 0;
  private readonly recent: NumberedEvent[] = [];
  private readonly listeners = new Set<(event: NumberedEvent) => void>();

  emit(event: VuotoEvent): void {
    const numbered = { n: ++this.n, event };
    this.recent.push(numbered);
    if (this.recent.length > kept) this.recent.shift();
    for (const listener of this.listeners) {
      try {
        listener(numbered);
      } catch (error) {
        // What happened has happened, whoever cannot hear of it.
        process.stderr.write(`${error instanceof Error ? error.stack : String(error)}\n`);
      }
    }
  }

  markOf = (n: number): string => `${this.epoch}.${n}`;

  /** The mark of the last event. */
  get last(): string {
    return this.markOf(this.n);
  }

  /** Events after a mark; undefined where they are no longer all kept, or come from another start, and the listener must look at everything anew. */
  since(mark: string): NumberedEvent[] | undefined {
    const [epoch, digits] = mark.split(".");
    const n = Number(digits);
    if (epoch !== this.epoch || !Number.isInteger(n) || n > this.n) return undefined;
    if (n < this.n && (this.recent[0]?.n ?? Number.POSITIVE_INFINITY) > n + 1) return undefined;
    return this.recent.filter((event) => event.n > n);
  }

  /** How many of those that listen are windows. */
  windows = 0;

  listen(listener: (event: NumberedEvent) => void, isWindow = false): () => void {
    this.listeners.add(listener);
    if (isWindow) this.windows++;
    return () => {
      if (this.listeners.delete(listener) && isWindow) this.windows--;
    };
  }
}
