import type { GiveInput } from "@/contract/sitting";
import { ask } from "../kit/ask";

type Given = GiveInput["verdicts"][number];

/** What a browser sends on after its page is gone is limited to 64 kB; a little less, for the rest of the request. */
const mostAtLeaving = 50_000;
const waits = [500, 1000, 2000, 5000];

/**
 * Verdicts on their way to where they are written down. Each is sent at once, in order, those that come while one is under
 * way together; again until that is answered; and when the page is left, with the browser seeing to it. One that arrives
 * twice is done once.
 */
export class Outbox {
  private readonly open = new Map<string, { given: Given; arrived: () => void }>();
  private sending = false;

  constructor(private readonly late: (problem: unknown) => void) {}

  /** Answers when it is written down. */
  give(given: Given): Promise<void> {
    return new Promise((arrived) => {
      this.open.set(given.id, { given, arrived });
      if (!this.sending) void this.send();
    });
  }

  /** All that was given is written down. */
  isEmpty(): boolean {
    return this.open.size === 0;
  }

  private async send(): Promise<void> {
    this.sending = true;
    for (let tries = 0; this.open.size > 0; ) {
      const verdicts = [...this.open.values()].map(({ given }) => given).slice(0, 500);
      try {
        await ask("sitting/give", { verdicts });
        tries = 0;
        for (const { id } of verdicts) {
          this.open.get(id)?.arrived();
          this.open.delete(id);
        }
      } catch (problem) {
        if (tries === 1) this.late(problem);
        await new Promise((next) => setTimeout(next, waits[Math.min(tries++, waits.length - 1)]));
      }
    }
    this.sending = false;
  }

  /** The page is left: what is not yet written down is handed to the browser. */
  leave = (): void => {
    let batch: Given[] = [];
    let length = 0;
    const post = () => {
      if (batch.length === 0) return;
      void fetch("/api/sitting/give", {
        method: "POST",
        keepalive: true,
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ verdicts: batch }),
      }).catch(() => {});
      batch = [];
      length = 0;
    };
    for (const { given } of this.open.values()) {
      const more = JSON.stringify(given).length;
      if (length + more > mostAtLeaving) post();
      batch.push(given);
      length += more;
    }
    post();
  };
}
