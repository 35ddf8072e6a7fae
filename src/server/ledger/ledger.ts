import { dependents, dependsOn, meets } from "@/core/ledger/depends";
import { type Renamed, renamedWords } from "@/core/ledger/renamed";
import type { Json } from "@/core/ledger/shapes";
import {
  type ActName,
  concernsThing,
  isPurpose,
  isRecordOnly,
  isWhole,
  type Plan,
  type Step,
  subjectOf,
  touchesOf,
  typeOf,
} from "@/core/ledger/step";
import type { Touch } from "@/core/ledger/step-type";
import type { MoveStep } from "@/core/ledger/steps/move";
import { planVersion, readStoredStep } from "@/core/ledger/stored-step";
import { folderOf, nameOf, type Raw } from "@/core/names/raw";
import { asProblem, Problem } from "@/core/problem";
import type { Account } from "../account";
import type { Db } from "../db/db";
import type { Disk } from "../disk/disk";
import { diskProblem, errorCode } from "../disk/disk-problem";
import { growing, type InUse, nothingInUse } from "../disk/in-use";
import type { SyncInput } from "../disk/sync";
import type { Pace } from "../disk/tree";
import type { CarrierLink } from "../jobs/carriers";
import { breathing, gentle } from "../jobs/gentle";
import { CarrierOf, mayStop, Sync } from "./carrying";
import { Entries, type EntryRow, type Refused, type StoredStep } from "./entries";
import type { Direction, StepContext } from "./step-kind";
import { kindOf } from "./steps/kinds";
import { nameBack } from "./steps/move";
import { Temporaries, type TemporaryRole } from "./temporaries";
import { type Turn, Turns } from "./turns";

export interface Report {
  entry: number | null;
  act: string;
  words: string;
  /** Steps done; where any concern things, how many things. */
  done: number;
  refused: Refused[];
}

interface LedgerParts {
  account: Account;
  db: Db;
  disk: Disk;
  /** Another disk with the same bounds, for what is only looked at. */
  apartDisk: () => Disk;
  /** Something that moves the bytes of one act. */
  carrier: () => CarrierLink;
  now: () => number;
  /** Aborts once the account closes. */
  ending: AbortSignal;
  /** Makes the entries of folders durable, and the file systems that small files were written to. */
  sync: (what: SyncInput) => Promise<unknown>;
  /** What is in use now. */
  scanInUse: () => Promise<InUse>;
  prove: StepContext["prove"];
  /** Throws where the record is no longer the one that was opened. */
  expectRecord: () => void;
  /** Told after each entry, so that views can show it. */
  changed: (entry: number) => void;
}

/**
 * The durable record of every act. An act's steps are written down before the first is done, done one after the other,
 * made durable together, and then marked in one transaction. What a crash leaves half done is taken back at the next
 * start. Acts take turns, which are short: bytes are moved outside them, and other acts go on meanwhile, save on what is on
 * its way.
 */
export class Ledger {
  private readonly turns: Turns;
  private readonly temporaries: Temporaries;
  /** What the acts have to do with that are outside their turn just now, by entry. */
  private readonly onTheirWay = new Map<number, { words: string; touch: Touch }>();

  readonly entries: Entries;

  constructor(private readonly parts: LedgerParts) {
    this.entries = new Entries(parts.db, parts.now);
    this.turns = new Turns(parts.disk);
    this.temporaries = new Temporaries(parts.db);
  }

  /** Waits until every act that was begun is over. */
  idle(): Promise<void> {
    return this.turns.idle();
  }

  /** Waits until no act is in the middle of its turn; answers how many turns are over, which tells whether one was since. */
  async between(): Promise<number> {
    await this.turns.between();
    return this.turns.count;
  }

  /** Does work while no act is in the middle of its turn, and none begins one. Short. */
  undisturbed<T>(work: () => Promise<T>): Promise<T> {
    return this.turns.inTurn(work);
  }

  /** Whether an act is moving what lies, or will lie, at a path. */
  isOnItsWay(path: Raw): boolean {
    for (const { touch } of this.onTheirWay.values()) if (touch.makes.has(`path:${path}`)) return true;
    return false;
  }

  /** Throws where another act is outside its turn with the same things. */
  private refuseOnTheWay(step: Step, entry: number): void {
    if (this.onTheirWay.size === 0) return;
    const touch = touchesOf([step]);
    for (const [id, other] of this.onTheirWay)
      if (id !== entry && meets(touch, other.touch))
        throw new Problem("on-its-way", { name: subjectOf(step), detail: other.words });
  }

  /**
   * Makes a plan in its turn, from the facts as they are then, and performs it. With `trial` nothing is written or
   * changed, and the report says what would be done (`fine`) and what would be refused; a trial waits for nobody.
   */
  async perform(
    makePlan: () => Plan | Promise<Plan>,
    options: { trial?: boolean; pace?: Pace } = {},
  ): Promise<Report & { plan: Plan; fine: Step[] }> {
    if (options.trial) {
      const { plan, inUse, growingNow } = await this.planned(makePlan);
      return { ...(await this.trial(plan, inUse, growingNow)), plan };
    }
    return this.turns.inTurn(async (turn) => {
      await this.settleFirst(turn);
      const { plan, stored, inUse, growingNow } = await this.planned(makePlan);
      this.parts.expectRecord();
      if (plan.steps.length === 0)
        return { entry: null, act: plan.act, words: plan.words([]), done: 0, refused: plan.left, plan, fine: [] };

      const id = this.entries.begin(plan, stored);
      const steps = plan.steps.map((step, n): StoredStep => ({ n, step, state: "planned", note: null }));
      const pace = options.pace ?? gentle();
      pace.whole?.(steps.length);
      const report = await this.orRecovered(turn, id, () =>
        this.run(id, id, "do", steps, { turn, inUse, growingNow, pace, words: plan.words, left: plan.left }),
      );
      return { ...report, plan, fine: [] };
    });
  }

  /** What could not be settled when it went wrong, as its record could not be written. */
  private unsettled = false;

  private async settleFirst(turn: Turn): Promise<void> {
    if (!this.unsettled) return;
    await this.recoverRunning(turn);
    this.unsettled = false;
  }

  /** A plan as a later start would read it, each step as JSON too, and what is in use now. */
  private async planned(makePlan: () => Plan | Promise<Plan>) {
    let made: Plan;
    try {
      made = await makePlan();
    } catch (error) {
      throw diskProblem(error, {});
    }
    // One step may hold a tree of very many.
    const breath = breathing();
    const stored: string[] = [];
    const steps: Step[] = [];
    for (const step of made.steps) {
      const json = JSON.stringify(step);
      await breath();
      stored.push(json);
      steps.push(readStoredStep(planVersion, json));
      await breath();
    }
    const plan: Plan = { ...made, steps };
    const inUse = await this.parts.scanInUse();
    const growingNow = await growing(
      plan.steps.flatMap((step) => typeOf(step).takes?.(step) ?? []),
      this.parts.now(),
    );
    for (const path of growingNow) inUse.byPath.set(path, "a program");
    return { plan, stored, inUse, growingNow };
  }

  /** Steps catch what concerns them; what still comes through (a sync or a commit that failed) is settled like a crash. */
  private async orRecovered(turn: Turn, entry: number, work: () => Promise<Report>): Promise<Report> {
    try {
      return await work();
    } catch (error) {
      try {
        await this.recoverEntry(this.entries.get(entry), turn);
      } catch {
        // The record itself cannot be written: it is settled before the next act, or at the next start.
        this.unsettled = true;
      }
      throw diskProblem(error, {});
    }
  }

  private async trial(plan: Plan, inUse: InUse, growingNow: Set<Raw>): Promise<Report & { fine: Step[] }> {
    const pace = gentle();
    const disk = this.parts.apartDisk();
    const context: StepContext = {
      ...this.context({ inUse, pace, entry: 0, n: 0, sync: new Sync(), later: [], notes: new Map() }),
      disk,
    };
    const refused: Refused[] = [...plan.left];
    const fine: Step[] = [];
    disk.hold();
    try {
      for (const step of plan.steps) {
        const pause = pace.breath();
        if (pause) await pause;
        try {
          this.refuseOnTheWay(step, 0);
          if (!typeOf(step).restsOnEarlier?.(step)) {
            refuseGrowing(step, growingNow);
            const looked = kindOf(step).check(step, context);
            if (looked) await looked;
          }
          fine.push(step);
        } catch (error) {
          refused.push(refusedFrom(step, error));
        }
      }
    } finally {
      disk.letGo();
    }
    if (isWhole(plan.act) && refused.length > plan.left.length) fine.length = 0;
    const done = (plan.steps.some(concernsThing) ? fine.filter(concernsThing) : fine).length;
    return { entry: null, act: plan.act, words: plan.words(fine), done, refused, fine };
  }

  /** Works on the steps of `target` in one direction, on behalf of `entry`, and marks both. */
  private async run(
    entry: number,
    target: number,
    direction: Direction,
    steps: StoredStep[],
    options: {
      turn: Turn;
      inUse: InUse;
      growingNow: Set<Raw>;
      pace: Pace;
      words?: (done: Step[]) => string;
      left?: Refused[];
    },
  ): Promise<Report> {
    const carriers = new CarrierOf(this.parts.carrier, this.parts.sync);
    try {
      return await this.runWith(carriers, entry, target, direction, steps, options);
    } finally {
      this.onTheirWay.delete(target);
      await carriers.end();
    }
  }

  private async runWith(
    carriers: CarrierOf,
    entry: number,
    target: number,
    direction: Direction,
    steps: StoredStep[],
    options: Parameters<Ledger["run"]>[4],
  ): Promise<Report> {
    const { turn, inUse, pace } = options;
    this.widen(steps, turn);
    const apart = <T>(work: () => Promise<T>) => {
      // Written down before other acts may look.
      this.onTheirWay.set(target, { words: this.entries.get(entry).words, touch: touchesOf(steps.map((s) => s.step)) });
      return turn.leave(work).finally(async () => Object.assign(inUse, await this.parts.scanInUse()));
    };
    const sync = new Sync();
    const later: (() => void)[] = [];
    const notes = new Map<number, Json>(steps.map((s) => [s.n, s.note]));
    const refused: Refused[] = [...(options.left ?? [])];
    const order = direction === "do" ? steps : steps.toReversed();
    let cancelled = false;
    for (const stored of order) {
      const due = direction === "do" ? stored.state === "planned" || stored.state === "undone" : stored.state === "done";
      if (!due) continue;
      const context = this.context({ inUse, pace, entry: target, n: stored.n, sync, later, notes, carriers, apart });
      // What a refused step wanted to have recorded must not be.
      const mark = later.length;
      const kind = kindOf(stored.step);
      let begun = false;
      try {
        if (cancelled) throw new Problem("cancelled", { name: subjectOf(stored.step) });
        await pace.step(0);
        this.refuseOnTheWay(stored.step, target);
        if (direction === "do") {
          refuseGrowing(stored.step, options.growingNow);
          begun = true;
          // What an earlier doing found out says nothing about this one.
          notes.set(stored.n, null);
          stored.note = await kind.do(stored.step, context);
          notes.set(stored.n, stored.note);
          stored.state = "done";
        } else {
          begun = true;
          await kind.undo(stored.step, stored.note, context);
          stored.note = notes.get(stored.n) ?? null;
          stored.state = "undone";
        }
      } catch (error) {
        later.length = mark;
        // What no step foresees leaves its state open: the whole entry is settled as after a crash.
        if (!(error instanceof Problem) && errorCode(error) === undefined) throw error;
        const problem = asProblem(diskProblem(error, { name: subjectOf(stored.step) }));
        if (problem.code === "cancelled") cancelled = true;
        // A call may fail after the one that mattered went through: the facts on disk tell, as after a crash.
        const side =
          begun && !problem.untouched
            ? await kind.settle(stored.step, notes.get(stored.n) ?? null, context, direction)
            : undefined;
        if (side === (direction === "do" ? "done" : "undone")) {
          stored.state = side;
          stored.note = notes.get(stored.n) ?? null;
          continue;
        }
        if (direction === "do") stored.state = "refused";
        refused.push(refusedFrom(stored.step, problem));
      }
    }
    const purposes = steps.filter((s) => isPurpose(s.step));
    const inVain = isWhole(this.entries.get(target).act as ActName)
      ? steps.some((s) => s.state !== "done")
      : purposes.length > 0 && !purposes.some((s) => s.state === "done");
    if (direction === "do" && inVain) await this.takeBackPreparations(target, steps, { sync, later, notes, inUse, carriers });
    await sync.flush(carriers);
    return this.finish(entry, target, direction, steps, later, refused, options);
  }

  /** A home that these steps put on the list is within bounds from their first on, and so is a folder named for them. */
  private widen(steps: StoredStep[], turn: Turn): void {
    for (const { step } of steps) {
      const folder = typeOf(step).widens?.(step);
      if (folder !== undefined) turn.widen(folder);
    }
  }

  /** What was done for the sake of steps that were refused is not left behind: folders made and records noted, or a whole act. */
  private async takeBackPreparations(
    entry: number,
    steps: StoredStep[],
    shared: { sync: Sync; later: (() => void)[]; notes: Map<number, Json>; inUse: InUse; carriers: CarrierOf },
  ): Promise<void> {
    shared.later.length = 0;
    for (const s of steps.toReversed()) {
      if (s.state !== "done") continue;
      if (!isRecordOnly(s.step))
        await kindOf(s.step).undo(s.step, s.note, this.context({ ...shared, pace: gentle(), entry, n: s.n }));
      s.state = "refused";
    }
  }

  private finish(
    entry: number,
    target: number,
    direction: Direction,
    steps: StoredStep[],
    later: (() => void)[],
    refused: Refused[],
    options: { words?: (done: Step[]) => string },
  ): Report {
    const done = steps.filter((s) => s.state === "done").map((s) => s.step);
    const worked = direction === "do" ? done : steps.filter((s) => s.state === "undone").map((s) => s.step);
    // Folders that were made on the way are no thing that was done.
    const count = (steps.some((s) => concernsThing(s.step)) ? worked.filter(concernsThing) : worked).length;
    this.entries.end(entry, target, steps, {
      usual: worked[0] === undefined ? "refused" : direction === "do" ? "done" : "undone",
      state: done.length > 0 ? "done" : "undone",
      refused,
      words:
        entry === target
          ? options.words && (worked.length > 0 ? options.words(done) : `Not done: ${options.words(steps.map((s) => s.step))}`)
          : this.saidOfUndo(target, direction, count, refused.length) + renamedWords(namesBack(steps)),
      records: later,
    });
    this.parts.changed(entry);
    const row = this.entries.get(entry);
    return { entry, act: row.act, words: row.words, done: count, refused };
  }

  /** What became of taking an entry back, or doing it again: nothing is called undone that was refused. */
  private saidOfUndo(target: number, direction: Direction, worked: number, refused: number): string {
    const { words } = this.entries.get(target);
    const [all, none, part] =
      direction === "undo" ? ["Undone", "Not undone", "Undone in part"] : ["Done again", "Not done again", "Done again in part"];
    return `${worked === 0 ? none : refused > 0 ? part : all}: ${words}`;
  }

  /** The entry that the next undo takes back; undefined where there is none that can be. */
  latest(): EntryRow | undefined {
    for (const row of this.entries.given()) if (this.whyNot(row.id) === undefined) return row;
    return undefined;
  }

  /** Why nothing of an entry that stands can be taken back as things are; undefined where something can, as far as is known. */
  whyNot(id: number): Problem | undefined {
    const { of, lost } = this.outlook(id);
    return lost.length < of ? undefined : (lost[0]?.why ?? new Problem("undo-nothing"));
  }

  /**
   * What undoing an entry that stands would come to, as far as is known without looking: of how many steps, and those that do
   * not come back, as what they moved was destroyed since. `known`: of several asked at once, what each destroyed.
   */
  outlook(
    id: number,
    known = new Map<number, ReadonlyMap<string, Problem>>(),
  ): { of: number; lost: { step: Step; why: Problem }[] } {
    const since = this.entries.destroyingSince(id).map((entry) => {
      const keys = known.get(entry) ?? this.destroyedBy(entry);
      known.set(entry, keys);
      return keys;
    });
    if (since.every(({ size }) => size === 0)) return { of: 1, lost: [] };
    const done = this.doneSteps(id);
    // Where it moved things, it is for these: records alone do not bring them back.
    const things = done.filter(concernsThing);
    const steps = things.length > 0 ? things : done;
    const lost = steps.flatMap((step) => {
      const keys = [...touchesOf([step]).makes];
      const why = since.map((destroyed) => keys.map((key) => destroyed.get(key)).find(Boolean)).find(Boolean);
      return why ? [{ step, why }] : [];
    });
    return { of: steps.length, lost };
  }

  /** What an entry destroyed and does not come back as things are: the keys of the things, and why. */
  private destroyedBy(entry: number): ReadonlyMap<string, Problem> {
    const destroyed = new Map<string, Problem>();
    for (const step of this.doneSteps(entry)) {
      const why = this.notUndoable(step);
      if (why) for (const key of touchesOf([step]).makes) destroyed.set(key, why);
    }
    return destroyed;
  }

  private notUndoable(step: Step): Problem | undefined {
    const { account, db } = this.parts;
    try {
      kindOf(step).expectUndoable?.(step, { account, db });
      return undefined;
    } catch (error) {
      return asProblem(error);
    }
  }

  /** The steps of an entry that stand, where they are understood. */
  private doneSteps(entry: number): Step[] {
    return this.entries.stepsIfKnown(entry).flatMap(({ step, state }) => (state === "done" ? [step] : []));
  }

  /** What of a later entry stands in the way of undoing an earlier one: not what is gone for good, and would be for ever. */
  private inTheWayOf(later: number): Touch {
    return touchesOf(this.doneSteps(later).filter((step) => !this.notUndoable(step)));
  }

  /**
   * Takes an entry back, or, for the entry of an undo, does again what it took back. `after`: entries that
   * a trial takes to be undone by then.
   */
  async undo(id: number, options: { trial?: boolean; pace?: Pace; after?: ReadonlySet<number> } = {}): Promise<Report> {
    const prepared = () => {
      const row = this.entries.get(id);
      if (row.state === "running") throw new Problem("unknown-entry", { detail: String(id) });
      const again = row.direction === "undo";
      const target = again ? this.entries.get(row.target) : row;
      if (again ? target.state !== "undone" : target.state !== "done" || row.target !== row.id)
        throw new Problem("already-undone");
      const steps = this.entries.stepsOf(target.id);
      const due = steps.filter((s) => s.state === (again ? "undone" : "done"));
      if (due.length === 0) throw new Problem("undo-nothing");
      const { of, lost } = again ? { of: 1, lost: [] } : this.outlook(target.id);
      if (lost.length === of) throw lost[0]?.why ?? new Problem("undo-nothing");
      if (!again)
        this.refuseDependent(
          target.id,
          due.map((s) => s.step),
          options.after,
        );
      const words = `${again ? "Done again" : "Undone"}: ${target.words}`;
      return { again, target, steps, due: due.length, words, lost };
    };
    if (options.trial) {
      const { again, due, words, lost } = prepared();
      const refused = lost.map(({ step, why }) => ({ name: subjectOf(step), code: why.code, why: why.message }));
      return { entry: null, act: again ? "redo" : "undo", words, done: due - lost.length, refused };
    }
    return this.turns.inTurn(async (turn) => {
      // What was left half done is no ground to stand on, and is not overtaken by undoing something older.
      await this.settleFirst(turn);
      const { again, target, steps, due, words } = prepared();
      this.parts.expectRecord();
      const entry = this.entries.beginAgain(target, again ? "do" : "undo", words);
      const pace = options.pace ?? gentle();
      pace.whole?.(due);
      const inUse = await this.parts.scanInUse();
      return this.orRecovered(turn, entry, () =>
        this.run(entry, target.id, again ? "do" : "undo", steps, { turn, inUse, growingNow: new Set(), pace }),
      );
    });
  }

  /** What has to be undone before an entry can be, the latest first. Nothing, where it is itself an undo. */
  dependentsOf(id: number): EntryRow[] {
    if (this.entries.get(id).target !== id) return [];
    const later = [...this.entries.standingAfter(id)].reverse().map((entry) => ({ entry, touch: this.inTheWayOf(entry.id) }));
    return dependents(touchesOf(this.doneSteps(id)), later).reverse();
  }

  /** Throws where a later entry that stands concerns the same things. */
  private refuseDependent(id: number, steps: Step[], after?: ReadonlySet<number>): void {
    const touch = touchesOf(steps);
    for (const later of this.entries.standingAfter(id)) {
      if (after?.has(later.id)) continue;
      if (dependsOn(this.inTheWayOf(later.id), touch))
        throw new Problem("undo-depends", { detail: `${later.id}: ${later.words}` });
    }
  }

  /**
   * After a crash: settles each step of what was running by the facts on disk, takes an act back, and brings an undo to
   * its end. May itself be cut short and is then repeated. Answers what it did, in words.
   */
  recover(): Promise<string[]> {
    return this.turns.inTurn((turn) => this.recoverRunning(turn));
  }

  private async recoverRunning(turn: Turn): Promise<string[]> {
    const said: string[] = [];
    for (const row of this.entries.running()) {
      // An act that goes on outside its turn was not cut short.
      if (this.onTheirWay.has(row.target)) continue;
      try {
        said.push(await this.recoverEntry(row, turn));
      } catch (error) {
        // One entry that cannot be settled now (a disk that answers with errors) must not keep the person out.
        if (!(error instanceof Problem) && errorCode(error) === undefined) throw error;
        said.push(
          `Interrupted and not settled yet: ${row.words}. ${asProblem(diskProblem(error, {})).message} It is tried again at the next start.`,
        );
      }
    }
    return said;
  }

  private async recoverEntry(row: EntryRow, turn: Turn): Promise<string> {
    const steps = this.entries.stepsOf(row.target);
    const inUse = nothingInUse();
    const pace = gentle();
    await this.settleAll(row, steps, turn, { inUse, pace });
    if (row.act === "empty") return this.finishEmptying(row, steps);
    const report = await this.run(row.id, row.target, "undo", steps, { turn, inUse, growingNow: new Set(), pace });
    const ending = row.direction === "do" ? "taken back" : "brought to its end";
    const words =
      report.refused.length === 0
        ? `Interrupted and ${ending}: ${row.words}`
        : `Interrupted and partly ${ending}, ${report.refused.length} not: ${row.words}`;
    const saying: Refused[] = [{ name: "Vuoto", code: "interrupted", why: words }, ...report.refused];
    this.entries.say(row.id, saying);
    return words;
  }

  /** Brings each step that was under way to one of its sides. */
  private async settleAll(
    row: EntryRow,
    steps: StoredStep[],
    turn: Turn,
    { inUse, pace }: { inUse: InUse; pace: Pace },
  ): Promise<void> {
    this.widen(steps, turn);
    const carriers = new CarrierOf(this.parts.carrier, this.parts.sync);
    const sync = new Sync();
    const later: (() => void)[] = [];
    const notes = new Map<number, Json>(steps.map((s) => [s.n, s.note]));
    const unsettled =
      row.direction === "do" ? steps.filter((s) => s.state !== "refused") : steps.filter((s) => s.state === "done");
    try {
      for (const s of unsettled) {
        const context = this.context({ inUse, pace, entry: row.target, n: s.n, sync, later, notes, carriers });
        const side = await kindOf(s.step).settle(s.step, s.note, context, row.direction);
        // What lies on neither side can neither be taken back nor be left to do.
        s.state = side !== "gone" ? side : row.direction === "do" ? "refused" : "done";
        s.note = notes.get(s.n) ?? s.note;
      }
      await sync.flush(carriers);
    } finally {
      await carriers.end();
    }
    // Kept at once: what follows relies on it, and its own records stand only with it.
    const { db } = this.parts;
    db.transaction(() => {
      for (const write of later) write();
    })();
  }

  /** What was erased cannot be taken back, and was asked for: it stays erased, and the rest stays in the trash. */
  private finishEmptying(row: EntryRow, steps: StoredStep[]): string {
    for (const s of steps) if (s.state !== "done") s.state = "refused";
    const erased = steps.filter((s) => s.state === "done").length;
    const words = `Interrupted: ${erased} of ${steps.length} things in the trash were erased, the rest is still there`;
    this.finish(row.id, row.target, "do", steps, [], [{ name: "Vuoto", code: "interrupted", why: words }], {});
    return words;
  }

  private context(at: {
    inUse: InUse;
    pace: Pace;
    entry: number;
    n: number;
    sync: Sync;
    later: (() => void)[];
    notes: Map<number, Json>;
    carriers?: CarrierOf;
    /** Does something outside the turn; where it is missing there is none to leave. */
    apart?: <T>(work: () => Promise<T>) => Promise<T>;
  }): StepContext {
    const { entries, temporaries } = this;
    const { account, db, disk, now, ending, prove } = this.parts;
    const known = (role: TemporaryRole) => temporaries.of(at.entry, at.n, role);
    const carry: StepContext["carry"] = (name, input) => at.carriers!.carry(name, input, mayStop(name) ? at.pace : gentle());
    const outside: StepContext["outside"] = (work) => (at.apart ? at.apart(work) : work());
    return {
      stop: () => (at.pace.signal ? AbortSignal.any([at.pace.signal, ending]) : ending),
      prove: (path, proof) => outside(() => prove(path, proof)),
      account,
      disk,
      db,
      now,
      inUse: at.inUse,
      carry,
      apart: (name, input) => outside(() => carry(name, input)),
      outside,
      known,
      temporary: (role, folder) => {
        const before = known(role);
        if (!before || folderOf(before.path) !== folder) return temporaries.make(at.entry, at.n, role, folder);
        // A copy that is made again is another thing than the one before, by whose inode it would not be known.
        if (role === "copy") temporaries.made(at.entry, at.n, role, null);
        return before.path;
      },
      made: (role, ino) => temporaries.made(at.entry, at.n, role, ino),
      async clear() {
        const copy = known("copy");
        if (copy) await carry("removeMade", copy);
      },
      noteOf: (n) => at.notes.get(n) ?? null,
      keep(note) {
        at.notes.set(at.n, note);
        entries.note(at.entry, at.n, note);
      },
      changed: (folder) => at.sync.folders.add(folder),
      wrote: (folder) => at.sync.written.add(folder),
      atCommit: (write) => at.later.push(write),
    };
  }
}

/** What came back in sight under another name. */
function namesBack(steps: readonly StoredStep[]): Renamed[] {
  return steps.flatMap(({ step, state, note }) => {
    const to = step.type === "move" && state === "undone" ? nameBack(note) : undefined;
    return to === undefined ? [] : [{ from: nameOf((step as MoveStep).from), to }];
  });
}

function refuseGrowing(step: Step, growingNow: Set<Raw>): void {
  const taken = typeOf(step).takes?.(step);
  if (taken && growingNow.has(taken.from)) throw new Problem("in-use", { name: subjectOf(step), detail: "it is being written" });
}

function refusedFrom(step: Step, error: unknown): Refused {
  const problem = asProblem(error);
  const item = "item" in step && step.item !== undefined ? { item: step.item } : {};
  return { name: subjectOf(step), ...item, code: problem.code, why: problem.message };
}
