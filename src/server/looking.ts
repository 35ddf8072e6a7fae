import { asProblem, Problem } from "@/core/problem";
import type { Stop } from "./clock";
import type { Engine } from "./engine";
import { belongingAfterUndo, learnBelonging, rankNew } from "./homes/belonging";
import { followMovedHomes } from "./homes/follow";
import { homes, walkHomes } from "./homes/homes";
import { refreshTrashSizes } from "./ledger/trash-sizes";
import { keepFigures } from "./survey/figures-of-day";
import { lookElsewhere, lookInside } from "./survey/protection";
import { refreshWorktops } from "./survey/refresh";
import { compareArchives } from "./survey/spent";
import { hashLikelyTwins } from "./survey/twins";

const lookAfterMs = 1500;
const longestWaitMs = 30_000;
/** Learning that takes no longer is done after every look. */
const quickMs = 1000;

type What = "worktops" | "all";

/** The looks at what lies there, one at a time, and what is learned from them. */
export class Looking {
  private underWay: Promise<void> | undefined;
  private next: What | undefined;
  private later: Stop | undefined;
  private learnLater: Stop | undefined;
  private learnedIn: number | undefined;

  private readonly lasting: boolean;
  /** Homes and copies are looked at only when that is asked for. */
  private readonly small: boolean;

  /** `lasting`: an answer may rest on what was learned a moment ago; "small", in little memory. */
  constructor(
    private readonly engine: Engine,
    lasting?: true | "small",
  ) {
    this.lasting = lasting !== undefined;
    this.small = lasting === "small";
  }

  /** Reads what lies there and compares files; once at a time, and again if asked meanwhile. */
  again(what: What = "worktops"): Promise<void> {
    const { engine } = this;
    if (what === "all") this.later?.();
    if (this.underWay) {
      this.next = this.next === "all" || what === "all" ? "all" : "worktops";
      return this.underWay;
    }
    this.underWay = this.look(what)
      .then(
        () => {
          engine.trouble = undefined;
        },
        (error: unknown) => {
          // Said on every view until a look goes well again.
          engine.trouble = asProblem(error);
          if (!engine.closing) engine.events.emit({ type: "changed", what: "items" });
          throw error;
        },
      )
      .finally(() => {
        this.underWay = undefined;
      });
    return this.underWay;
  }

  /** The same, once a few moments have passed without another act. */
  soon(): void {
    this.later?.();
    this.later = this.engine.clock.after(lookAfterMs, () => {
      if (!this.engine.closing) this.again(this.small ? "worktops" : "all").catch(() => {});
    });
  }

  /** Begins no other look, and waits for the end of this one. */
  async end(): Promise<void> {
    this.later?.();
    this.learnLater?.();
    await this.underWay?.catch(() => {});
  }

  private async look(what: What): Promise<void> {
    const { engine } = this;
    for (let next: What | undefined = what; next; next = this.next) {
      this.next = undefined;
      await refreshWorktops(engine);
      if (this.small && next === "worktops") continue;
      await rankNew(engine);
      let learning: Promise<void> | undefined;
      if (next === "all") {
        // What was read at an earlier start is learned from before the walk, which takes a while.
        if (this.lasting && this.learnedIn === undefined && homes(engine).length > 0) await this.learn();
        await followMovedHomes(engine);
        // Learning reads on a thread of its own, while files are compared.
        const walkedAt = engine.now();
        if ((await walkHomes(engine)) || this.learnedIn === undefined) learning = this.learnAnew();
        engine.walkedAt = walkedAt;
      }
      await Promise.all([learning, this.compare(next)]);
      keepFigures(engine);
    }
  }

  /** Looks for what can be proven. */
  private async compare(what: What): Promise<void> {
    const { engine } = this;
    if (what === "all") await refreshTrashSizes(engine);
    await hashLikelyTwins(engine);
    await lookElsewhere(engine);
    await lookInside(engine);
    await compareArchives(engine);
  }

  private async learn(): Promise<void> {
    const began = performance.now();
    try {
      this.engine.belonging = await learnBelonging(this.engine);
    } catch (error) {
      // What was learned before still holds; the next look learns anew.
      if (!(error instanceof Problem) || error.code !== "cancelled") throw error;
      this.learnedIn = undefined;
      return;
    }
    this.learnedIn = performance.now() - began;
    this.engine.events.emit({ type: "changed", what: "homes" });
  }

  /** Learns anew: at once where that is quick or wanted, else a while after, once for all that changed until then. */
  private async learnAnew(): Promise<void> {
    const { engine, learnedIn } = this;
    if (!this.lasting || learnedIn === undefined || learnedIn < quickMs) return this.learn();
    engine.belonging = belongingAfterUndo(engine);
    this.learnLater ??= engine.clock.after(Math.min(5 * learnedIn, longestWaitMs), () => {
      this.learnLater = undefined;
      if (!engine.closing) this.learn().catch(() => {});
    });
  }
}
