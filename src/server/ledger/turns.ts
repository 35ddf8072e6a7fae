import type { Raw } from "@/core/names/raw";
import type { Disk } from "../disk/disk";

/** One act's turn. What takes long is done outside it: others have theirs meanwhile. */
export class Turn {
  private end = () => {};
  private readonly within: Raw[] = [];

  constructor(
    private readonly turns: Turns,
    private readonly disk: Disk,
  ) {}

  async enter(): Promise<void> {
    this.end = await this.turns.take();
    this.disk.hold();
    for (const folder of this.within) this.disk.alsoWithin(folder);
  }

  exit(): void {
    this.disk.letGo();
    this.end();
  }

  /** A folder that this act may work in, in all of its turn. */
  widen(folder: Raw): void {
    this.within.push(folder);
    this.disk.alsoWithin(folder);
  }

  /** Does something outside the turn, and comes back into it. */
  async leave<T>(work: () => Promise<T>): Promise<T> {
    this.exit();
    try {
      return await work();
    } finally {
      await this.enter();
    }
  }
}

/** Acts have turns, one after the other, in the order in which they ask. */
export class Turns {
  private last: Promise<void> = Promise.resolve();
  private readonly underWay = new Set<Promise<unknown>>();
  /** How many turns are over. */
  count = 0;

  constructor(private readonly disk: Disk) {}

  /** Waits for a turn; answers how to end it. */
  async take(): Promise<() => void> {
    const before = this.last;
    let end = () => {};
    this.last = new Promise<void>((over) => {
      end = () => {
        this.count++;
        over();
      };
    });
    await before;
    return end;
  }

  /** Does work in a turn, which it may leave and come back into. */
  inTurn<T>(work: (turn: Turn) => Promise<T>): Promise<T> {
    const run = async () => {
      const turn = new Turn(this, this.disk);
      await turn.enter();
      try {
        return await work(turn);
      } finally {
        turn.exit();
      }
    };
    const running = run();
    this.underWay.add(running);
    return running.finally(() => this.underWay.delete(running));
  }

  /** Waits until no act is in the middle of its turn. */
  async between(): Promise<void> {
    await this.last;
  }

  /** Waits until every act that was begun is over, outside its turn too. */
  async idle(): Promise<void> {
    while (this.underWay.size > 0) await Promise.allSettled([...this.underWay]);
  }
}
