import type { ReportJson } from "@/contract/items";
import { mayPass, triesWaitedFor, waitAgain } from "@/core/depots/again";
import { rawFromText } from "@/core/names/raw";
import { asProblem, Problem, unlessProblem } from "@/core/problem";
import type { Stop } from "../clock";
import { type DepotRecord, readRecord } from "../db/record";
import type { Pace } from "../disk/tree";
import type { Engine, Sendings as SendingsOf, UnderWay } from "../engine";
import type { Job } from "../jobs/jobs";
import { temporaryName } from "../ledger/temporaries";
import { addressOf } from "./address";
import { bytesOf, letGoOf, nothingSent } from "./arrived";
import { depotTitle, type Parcel, parcelById } from "./depots";
import { withStore } from "./kinds/kinds";
import { ParcelFiles, type Said } from "./parcel-files";
import { secondMs } from "./second";
import { noteRate } from "./seen";
import { Sending } from "./sending";
import { addSending, changeSending, dropSending, type SendingRow, sendingRow, sendingRows, toRemoval } from "./sending-row";
import type { DepotAddress } from "./store";
import { tagsOf } from "./tags";
import { doubtDepots } from "./watch";

/** Bytes moved lately, from which the rate is told. */
interface Moved {
  at: number;
  bytes: number;
}

/** A sending that is under way in this process. */
interface Running {
  /** Where its depot lay when it began. */
  address?: DepotAddress;
  parcel: string;
  controller: AbortController;
  done: Promise<void>;
  /** Since it went on: bytes sent and read back. */
  bytes: number;
  lately: Moved[];
  /** How often in a row nothing was won. */
  tries: number;
  waitsUntil?: number;
  waitsFor?: Said;
  /** Ends the waiting at once. */
  hurry?: () => void;
  /** What was sent in vain is not counted as sent. */
  recount?: () => void;
}

interface Waiter {
  resolve(report: ReportJson): void;
  reject(problem: unknown): void;
}

const latelyMs = 10_000;
/** Bytes, there and back, from which it is remembered how fast they went. */
const enoughToTell = 1_000_000;
const tellEveryMs = 500;

/**
 * The parcels on their way, one a depot at a time, in the order in which they were begun. Each goes on by itself until it has
 * arrived, is stopped by the person, or by something that does not pass.
 */
export class Sendings implements SendingsOf {
  private readonly running = new Map<string, Running>();
  private readonly waiters = new Map<string, Waiter[]>();
  /** Where it is for one command alone: what that has asked for. */
  private readonly asked = new Set<string>();
  /** What could not be taken away, until something has changed about depots. */
  private readonly rested = new Set<string>();
  private ended = false;
  private toldAt = 0;
  private telling: Stop | undefined;

  constructor(
    private readonly engine: Engine,
    /** Whether it goes on when nobody waits for it any more. */
    private readonly lasting: boolean,
  ) {}

  /** Begins to send, or goes on with what was paused or had failed. */
  begin(parcel: string, depot: string): void {
    const { db } = this.engine;
    const row = sendingRow(db, parcel);
    this.asked.add(parcel);
    if (!row) addSending(db, { parcel, depot, part: rawFromText(temporaryName()), at: this.engine.now() });
    else if (row.depot !== depot) throw new Problem("on-its-way", { name: parcelById(this.engine, parcel)?.title });
    else changeSending(db, parcel, { state: "going", problem: null });
    this.tell();
    this.hurry(parcel);
  }

  /** Starts whatever waits for its turn. */
  goOn(): void {
    if (this.ended) return;
    for (const row of sendingRows(this.engine.db)) {
      if (this.running.has(row.depot)) continue;
      const isDue = row.state === "going" || row.state === "removing";
      if (isDue && !this.rested.has(row.parcel) && (this.lasting || this.asked.has(row.parcel))) this.start(row);
    }
  }

  /** Something has changed about depots: what waits to be tried again is tried now, or only one parcel is. */
  hurry(parcel?: string): void {
    if (parcel === undefined) this.rested.clear();
    for (const running of this.running.values()) if (parcel === undefined || running.parcel === parcel) running.hurry?.();
    this.goOn();
  }

  private start({ parcel, depot }: SendingRow): void {
    const running: Running = {
      parcel,
      controller: new AbortController(),
      done: Promise.resolve(),
      bytes: 0,
      lately: [],
      tries: 0,
    };
    running.address = unlessProblem(() => addressOf(this.engine, depot, depotTitle(this.engine, depot)));
    this.running.set(depot, running);
    running.done = this.run(parcel, running).finally(() => {
      this.running.delete(depot);
      doubtDepots(this.engine);
      this.tell();
      this.goOn();
    });
  }

  private async run(id: string, running: Running): Promise<void> {
    const { engine } = this;
    const row = sendingRow(engine.db, id);
    if (row?.state === "removing") return this.takeAway(row, running).catch(() => void this.rested.add(id));
    const parcel = parcelById(engine, id);
    if (!parcel) return dropSending(engine.db, id);
    try {
      const title = depotTitle(engine, row?.depot);
      const { bytes, writtenBytes, provenBytes } = new ParcelFiles(engine.db, id).howFar();
      // Each byte goes there, and comes back.
      const left = bytes > 0 ? 2 * bytes - writtenBytes - provenBytes : 2 * bytesOf(engine, id);
      const arrived = () => {
        const now = new ParcelFiles(engine.db, id).howFar();
        return now.writtenBytes + now.provenBytes - writtenBytes - provenBytes;
      };
      const report = await engine.jobs.run(
        `Sending “${parcel.title}” to ${title}`,
        "bytes",
        left,
        async (job) => {
          job.signal.addEventListener("abort", () => running.controller.abort());
          running.recount = () => job.progress(arrived());
          await this.arrive(parcel, running, job);
          return this.steady(running, () => letGoOf(engine, parcel, running.controller.signal));
        },
        { parcel: id, pauses: true },
      );
      dropSending(engine.db, id);
      this.over(id, ({ resolve }) => resolve(report));
    } catch (error) {
      await this.stopped(parcel, error, running);
    } finally {
      engine.lookLater();
    }
  }

  private async arrive(parcel: Parcel, running: Running, job: Job): Promise<void> {
    const link = this.engine.carrier();
    const began = this.engine.now();
    const { signal } = running.controller;
    const pace: Pace = {
      signal,
      breath: () => job.breath(),
      step: async (bytes) => {
        if (signal.aborted) throw new Problem("cancelled", { name: `Sending “${parcel.title}”` });
        if (bytes > 0) this.count(running, bytes);
        await job.step(bytes);
      },
    };
    try {
      const steady = <T>(work: () => Promise<T>) => this.steady(running, work);
      await new Sending(this.engine, parcel, { link, pace, steady, moved: () => this.won(running) }).arrive();
      const { db } = this.engine;
      const took = this.engine.now() - began;
      const depot = sendingRow(db, parcel.id)?.depot;
      // Over both ways, as one is often slower; of little it tells nothing.
      if (depot && took > 0 && running.bytes >= enoughToTell) noteRate(db, depot, (1000 * running.bytes) / took, began);
    } finally {
      await link.end();
    }
  }

  private count(running: Running, bytes: number): void {
    const now = this.engine.now();
    running.bytes += bytes;
    running.lately.push({ at: now, bytes });
    while (running.lately[0] && running.lately[0].at < now - latelyMs) running.lately.shift();
  }

  private won(running: Running): void {
    running.tries = 0;
    running.waitsFor = undefined;
    this.tell();
  }

  /** Tries again what may pass, after waits that grow; who waits for it is told after some. */
  private async steady<T>(running: Running, work: () => Promise<T>): Promise<T> {
    for (;;) {
      try {
        return await work();
      } catch (error) {
        const { code, facts } = error instanceof Error ? asProblem(error) : new Problem("unexpected");
        if (running.controller.signal.aborted || !mayPass(code)) throw error;
        running.tries++;
        running.recount?.();
        if (running.tries >= triesWaitedFor) {
          if (!this.lasting) throw error;
          this.over(running.parcel, ({ reject }) => reject(error));
        }
        await this.pause(running, waitAgain(running.tries - 1, facts), { code, facts });
      }
    }
  }

  private pause(running: Running, seconds: number, said: Said): Promise<void> {
    const { clock } = this.engine;
    const ms = seconds * secondMs;
    const { signal } = running.controller;
    running.waitsUntil = clock.now() + ms;
    running.waitsFor = said;
    this.tell();
    return new Promise((resolve, reject) => {
      const end = (then: () => void) => {
        stop();
        signal.removeEventListener("abort", cut);
        running.hurry = undefined;
        running.waitsUntil = undefined;
        then();
      };
      const cut = () => end(() => reject(new Problem("cancelled", { name: "Waiting" })));
      // The clock keeps nobody, and who sends by command waits for this.
      const hold = setInterval(() => {}, 1 << 30);
      const stopClock = clock.after(ms, () => end(resolve));
      const stop = () => {
        clearInterval(hold);
        stopClock();
      };
      running.hurry = () => end(resolve);
      signal.addEventListener("abort", cut, { once: true });
    });
  }

  /** It does not go on by itself: it was paused or cancelled, Vuoto ends, or what stands in its way does not pass. */
  private async stopped(parcel: Parcel, thrown: unknown, running: Running): Promise<void> {
    const { db } = this.engine;
    const row = sendingRow(db, parcel.id);
    if (row && running.controller.signal.aborted) {
      if (row.state === "going" && !this.ended) changeSending(db, parcel.id, { state: "paused" });
      if (!this.ended) this.over(parcel.id, ({ reject }) => reject(thrown));
      return;
    }
    this.asked.delete(parcel.id);
    const problem = asProblem(thrown);
    if (row && problem.code === "parcel-empty") {
      // Nothing of it went anywhere: it is as it was before.
      const left = new ParcelFiles(db, parcel.id).leftOut();
      const removal = toRemoval(db, row);
      // Where the depot is not in reach now, once it is.
      if (removal) await this.takeAway(removal, running).catch(() => {});
      if (left.length > 0) return this.over(parcel.id, ({ resolve }) => resolve(nothingSent(this.engine, parcel, left)));
    } else if (row && (this.lasting || !mayPass(problem.code)))
      changeSending(db, parcel.id, { state: "failed", problem: { code: problem.code, facts: problem.facts } });
    this.over(parcel.id, ({ reject }) => reject(thrown));
  }

  /** Takes what was sent of a parcel out of its depot again: only what is ours, by its name or by its own checksum. */
  private async takeAway(row: SendingRow, running: Running): Promise<void> {
    const { engine } = this;
    const isKnown = readRecord<DepotRecord>(engine.db, `depot:${row.depot}`) !== null;
    // One that is off the list by now, and was in it when this began, is where it was; of another nobody knows.
    const address = () => (isKnown ? addressOf(engine, row.depot, depotTitle(engine, row.depot)) : running.address);
    if (address())
      await this.steady(running, () =>
        withStore(
          address()!,
          engine.disk,
          async (store) => {
            await store.remove(row.part);
            if (row.bag && row.tags && (await tagsOf(store, row.bag)) === row.tags) await store.remove(row.bag);
          },
          running.controller.signal,
        ),
      );
    dropSending(engine.db, row.parcel);
  }

  private over(parcel: string, tell: (waiter: Waiter) => void): void {
    const waiting = this.waiters.get(parcel) ?? [];
    this.waiters.delete(parcel);
    for (const waiter of waiting) tell(waiter);
  }

  /** What comes of a parcel on its way; rejects where it stops, or for long does not get on. */
  arrival(parcel: string): Promise<ReportJson> {
    return new Promise((resolve, reject) => {
      this.waiters.set(parcel, [...(this.waiters.get(parcel) ?? []), { resolve, reject }]);
    });
  }

  private runningOf(parcel: string): Running | undefined {
    return [...this.running.values()].find((one) => one.parcel === parcel);
  }

  /** Stops it where it is; it goes on from there. Answers whether it has not arrived at that very moment. */
  async pauseParcel(parcel: string): Promise<boolean> {
    changeSending(this.engine.db, parcel, { state: "paused", problem: null });
    const running = this.runningOf(parcel);
    running?.controller.abort();
    await running?.done;
    this.tell();
    return sendingRow(this.engine.db, parcel) !== undefined && parcelById(this.engine, parcel)?.state !== "sent";
  }

  /**
   * Stops it, and takes away what was sent of it; where the depot is not in reach, once it is. What has arrived meanwhile is never
   * taken away.
   */
  async cancelParcel(parcel: string): Promise<"arrived" | "gone" | "goes"> {
    const { db } = this.engine;
    if (!(await this.pauseParcel(parcel))) return "arrived";
    this.over(parcel, ({ reject }) => reject(new Problem("cancelled", { name: "Sending" })));
    const row = sendingRow(db, parcel);
    const removal = row && toRemoval(db, row);
    return !removal || (await this.removed(removal.parcel)) ? "gone" : "goes";
  }

  /** What is to go from a depot is taken away there: waits for as long as one looks on. */
  async removed(removal: string): Promise<boolean> {
    this.asked.add(removal);
    this.goOn();
    const late = new Promise((next) => setTimeout(next, lookOnMs).unref());
    await Promise.race([this.runningOf(removal)?.done, late]);
    this.tell();
    return sendingRow(this.engine.db, removal) === undefined;
  }

  underWay(parcel: string): UnderWay {
    const running = this.runningOf(parcel);
    if (!running) return { running: false };
    const { lately, waitsFor, waitsUntil } = running;
    const span = lately.length > 1 ? this.engine.now() - lately[0]!.at : 0;
    const rate = span > 500 ? (1000 * lately.reduce((sum, { bytes }) => sum + bytes, 0)) / span : undefined;
    return { running: true, rate, waitsFor, waitsUntil };
  }

  /** Says that something about parcels is another now, a few times a second at most. */
  private tell(): void {
    if (this.ended || this.telling) return;
    const since = this.engine.now() - this.toldAt;
    const say = () => {
      this.telling = undefined;
      this.toldAt = this.engine.now();
      if (!this.ended) this.engine.events.emit({ type: "changed", what: "parcels" });
    };
    if (since >= tellEveryMs) say();
    else this.telling = this.engine.clock.after(tellEveryMs - since, say);
  }

  /** Stops all of them where they are: Vuoto ends, and goes on with them at its next start. */
  async end(): Promise<void> {
    this.ended = true;
    this.telling?.();
    const all = [...this.running.values()];
    for (const { controller } of all) controller.abort();
    await Promise.all(all.map(({ done }) => done));
    for (const parcel of [...this.waiters.keys()])
      this.over(parcel, ({ reject }) => reject(new Problem("cancelled", { name: "Sending" })));
  }
}

const lookOnMs = 3000;
