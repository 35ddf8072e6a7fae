import { Problem } from "@/core/problem";
import { arrivedSince, isOver } from "@/core/quiet/levels";
import type { Holding } from "@/core/quiet/occasions";
import { onBehalfOf } from "../actor";
import type { Stop } from "../clock";
import { prepared } from "../db/prepared";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { screenOf } from "../screen/screens";
import { outOfSight } from "../screen/sight";
import { thingsOn } from "../survey/items";
import { endingSoon } from "./longer";
import { dueHolding, holdingKey, holdNow, occasionsNow, startedIn } from "./occasions";
import { hide, iconsOf, quiet } from "./quiet";

const tickMs = 15_000;
/** What could not be done is not tried at every tick. */
const againMs = 5 * 60_000;
const askAgainMs = 60_000;

/**
 * What the person took back last of what was done by itself: until then nothing else was done with the screen. It is not done again
 * of its own accord. `until`: the end that was; `held`: what was held from then on, as {@link dueHolding} tells it.
 */
function undoneByHand({ ledger, db }: Engine): { until?: number | null; held?: string } | undefined {
  const last = prepared<[], { target: number; act: string; by: string | null }>(
    db,
    `SELECT u.target, u.act, u.by FROM entry u JOIN entry t ON t.id = u.target
     WHERE t.act = 'quiet' AND u.state <> 'running' ORDER BY u.id DESC LIMIT 1`,
  ).get();
  if (last?.act !== "undo" || last.by === "timetable" || ledger.entries.get(last.target).by !== "timetable") return undefined;
  const steps = ledger.entries.stepsIfKnown(last.target).map(({ step }) => step);
  const [until] = steps.flatMap((step) => (step.type === "screen" && step.part === "shown" ? [step.from.until] : []));
  const [held] = steps.flatMap((step) =>
    step.type === "set" && step.key === holdingKey ? [startedIn(step.to as Holding | null)] : [],
  );
  return { until, held };
}

/**
 * Does what the person said should hold without them: brings everything back when its time came, lets occasions begin and
 * end, and takes along what arrives.
 * What should hold is asked of the record each time; nothing that was missed is done later.
 */
export class Standing {
  private notBefore = 0;
  private timer: Stop | undefined;
  private stopHearing = () => {};
  private endingSaid: number | undefined;
  private askedAt = Number.NEGATIVE_INFINITY;
  private underWay: Promise<void> | undefined;

  constructor(private readonly engine: Engine) {}

  /**
   * From now on, until the account is closed. Nobody is woken for nothing: the clock is looked at only while something is to
   * begin or to end by it. `failed` hears of what nobody foresaw.
   */
  begin(failed: (error: unknown) => void): void {
    const { engine } = this;
    const arm = () => {
      if (this.timer || engine.closing || !this.needsClock()) return;
      // Often enough, and not at the very moment: a computer that slept wakes with its timers late.
      this.timer = engine.clock.after(tickMs, () => {
        this.timer = undefined;
        void this.tick().catch(failed).finally(arm);
      });
    };
    this.stopHearing = engine.events.listen(arm);
    arm();
  }

  stop(): void {
    this.stopHearing();
    this.timer?.();
  }

  private needsClock(): boolean {
    const { engine } = this;
    const { shown } = readScreen(engine.db);
    if (engine.now() < this.notBefore) return true;
    if (shown.level !== "everything" && (shown.until !== null || shown.along || screenOf(engine).ask)) return true;
    return occasionsNow(engine).some(
      ({ occasion, period }) => occasion.timetable !== null || (period && Number.isFinite(period.end)),
    );
  }

  tick(): Promise<void> {
    this.underWay ??= this.now().finally(() => {
      this.underWay = undefined;
    });
    return this.underWay;
  }

  private async now(): Promise<void> {
    const { engine } = this;
    if (engine.closing || engine.now() < this.notBefore) return;
    try {
      await onBehalfOf("timetable", async () => {
        const undone = undoneByHand(engine);
        const { shown } = readScreen(engine.db);
        if (isOver(shown, engine.now()) && shown.until !== undone?.until) await this.end();
        if (undone?.held === undefined || undone.held !== dueHolding(engine)) await holdNow(engine);
        await this.takeAlong();
        await this.askScreen();
        this.sayEnding();
      });
    } catch (error) {
      // It holds as it is; the next try may go better.
      if (!(error instanceof Problem)) throw error;
      this.notBefore = engine.now() + againMs;
    }
  }

  /** What is about to end is said in the foot, once. */
  private sayEnding(): void {
    const next = endingSoon(this.engine);
    if (next && next.at !== this.endingSaid) this.engine.events.emit({ type: "changed", what: "ledger" });
    this.endingSaid = next?.at;
  }

  /** A screen that can be asked may have been changed by others, or before Vuoto was started. */
  private async askScreen(): Promise<void> {
    const { engine } = this;
    const screen = screenOf(engine);
    const { shown } = readScreen(engine.db);
    if (!screen.ask || shown.level === "everything" || engine.now() < this.askedAt + askAgainMs) return;
    this.askedAt = engine.now();
    const before = screen.believed?.(engine, shown);
    await screen.ask(engine);
    if (screen.believed?.(engine, shown) !== before) engine.events.emit({ type: "changed", what: "ledger" });
  }

  /** Things that were taken out of sight one by one stay so: that had another beginning. */
  private async end(): Promise<void> {
    const { refused } = await quiet(this.engine, { level: "toggle" });
    if (refused.length > 0) this.notBefore = this.engine.now() + againMs;
  }

  /** What arrived, once it is finished and no program has it open. */
  private async takeAlong(): Promise<void> {
    const { engine } = this;
    const { shown } = readScreen(engine.db);
    if (!shown.along || shown.level === "everything") return;
    const items = thingsOn(engine.db, "desktop");
    const hidden = [...outOfSight(engine, items, shown)];
    const arrived = arrivedSince({ ...shown, hidden }, iconsOf(engine)).filter(({ kind }) => kind !== "half download");
    if (arrived.length === 0) return;
    const trial = await hide(engine, { items: arrived.map(({ id }) => id), dryRun: true });
    const ready = new Set(trial.steps?.flatMap(({ item }) => item ?? []));
    const refused = new Set(trial.refused.map(({ item }) => item));
    const fine = arrived.filter(({ id }) => !refused.has(id) && (ready.has(id) || screenOf(engine).name === "simulated"));
    if (fine.length > 0) await hide(engine, { items: fine.map(({ id }) => id) });
  }
}
