import type { JobLine } from "@/contract/views";

export type VuotoEvent =
  | { type: "changed"; what: "items" | "ledger" | "homes" }
  | { type: "job"; job: JobLine }
  | { type: "said"; words: string };

export interface NumberedEvent {
  n: number;
  event: VuotoEvent;
}

const kept = 500;

/** What happened, numbered without gaps, so that a stream can be resumed where it broke off. */
export class Events {
  private n = 0;
  private readonly recent: NumberedEvent[] = [];
  private readonly listeners = new Set<(event: NumberedEvent) => void>();

  emit(event: VuotoEvent): void {
    const numbered = { n: ++this.n, event };
    this.recent.push(numbered);
    if (this.recent.length > kept) this.recent.shift();
    for (const listener of this.listeners) listener(numbered);
  }

  get last(): number {
    return this.n;
  }

  /** Events after `n`; undefined where they are no longer all kept, and the listener must look at everything anew. */
  since(n: number): NumberedEvent[] | undefined {
    if (n > this.n || (n < this.n && (this.recent[0]?.n ?? Number.POSITIVE_INFINITY) > n + 1)) return undefined;
    return this.recent.filter((event) => event.n > n);
  }

  listen(listener: (event: NumberedEvent) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }
}
