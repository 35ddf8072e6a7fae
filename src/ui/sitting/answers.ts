import type { GivenAnswer } from "@/contract/sitting";
import { ask } from "../kit/ask";

const waits = [500, 1000, 2000, 5000];
const mostAtOnce = 500;

/**
 * What verdicts came to, once they are done. Those that are not answered yet are asked about together, one request at a
 * time, and again where none comes: what was written down will be done.
 */
export class Answers {
  private readonly waiting = new Map<string, (answer: GivenAnswer) => void>();
  private asking = false;

  constructor(private readonly late: (problem: unknown) => void) {}

  of(id: string): Promise<GivenAnswer> {
    return new Promise((tell) => {
      this.waiting.set(id, tell);
      if (!this.asking) void this.ask();
    });
  }

  private async ask(): Promise<void> {
    this.asking = true;
    for (let tries = 0; this.waiting.size > 0; ) {
      const ids = [...this.waiting.keys()].slice(0, mostAtOnce);
      try {
        for (const answer of await ask("sitting/given", { ids })) {
          this.waiting.get(answer.id)?.(answer);
          this.waiting.delete(answer.id);
        }
        tries = 0;
      } catch (problem) {
        if (tries === 1) this.late(problem);
        await new Promise((next) => setTimeout(next, waits[Math.min(tries++, waits.length - 1)]));
      }
    }
    this.asking = false;
  }
}
