import type { Json } from "@/core/ledger/shapes";
import type { EntryState, Plan, Step, StepState } from "@/core/ledger/step";
import { planVersion, readStoredStep } from "@/core/ledger/stored-step";
import { Problem, unlessProblem } from "@/core/problem";
import { type Actor, actorNow } from "../actor";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import type { Direction } from "./step-kind";

/** One thing that was not done, and why. */
export interface Refused {
  name: string;
  /** The item, where it is one. */
  item?: string;
  code: string;
  why: string;
}

export interface EntryRow {
  id: number;
  act: string;
  words: string;
  at: number;
  state: EntryState;
  /** The entry whose steps it worked on: its own, or those that it took back or did again. */
  target: number;
  direction: Direction;
  sitting: string | null;
  said: string;
  /** How much is shown after an act of quiet. */
  level: string | null;
  /** Who gave it; null where it is not known. */
  by: Actor | null;
}

export interface StoredStep {
  n: number;
  step: Step;
  state: StepState;
  note: Json;
}

/** A step whose plan is longer is read once for all that is asked about it within a moment; characters, milliseconds. */
const largePlan = 200_000;
const largeMs = 5000;

/** An undo of an entry, after it was last done, that was refused a part for good. */
const refusedForGood = (entry: string, done: string) =>
  `SELECT 1 FROM entry u WHERE u.target = ${entry} AND u.direction = 'undo' AND u.state = 'done' AND u.id > ${done}
     AND NOT EXISTS (SELECT 1 FROM json_each(u.said) WHERE value ->> 'code' IN ('cancelled', 'in-use', 'on-its-way'))`;

/** The ledger as it is written down: entries and their steps, in Vuoto's own record. */
export class Entries {
  constructor(
    private readonly db: Db,
    private readonly now: () => number,
  ) {}

  /** Throws where there is none of that number. */
  get(id: number): EntryRow {
    const row = prepared<[number], EntryRow>(this.db, "SELECT * FROM entry WHERE id = ?").get(id);
    if (!row) throw new Problem("unknown-entry", { detail: String(id) });
    return row;
  }

  /** The entry that came last, of those that are no longer at work: what is still being done was not done. */
  last(): EntryRow | undefined {
    return prepared<[], EntryRow>(this.db, "SELECT * FROM entry WHERE state <> 'running' ORDER BY id DESC LIMIT 1").get();
  }

  /**
   * The entries that the next undo may take back, the likeliest first: of those that stand and that somebody gave, the latest. What
   * brought everything back in sight is passed over, with what had hidden it: an undo would hide it again. So is what undo has
   * already been refused for good.
   */
  *given(): Generator<EntryRow> {
    const standing = prepared<[], EntryRow>(
      this.db,
      `SELECT e.* FROM entry t JOIN entry e ON e.id = t.target
       WHERE e.state = 'done' AND t.direction = 'do' AND t.id = (SELECT max(id) FROM entry WHERE target = e.id AND direction = 'do')
         AND NOT EXISTS (${refusedForGood("e.id", "t.id")})
       ORDER BY t.id DESC`,
    );
    let [back, passed] = [false, false];
    for (const row of standing.iterate()) {
      const given = row.by !== "timetable";
      // Single things taken out of sight are brought back by themselves once the screen was changed since.
      if (row.level === null && given && !(row.act === "quiet" && passed)) yield row;
      if (row.level === null) continue;
      passed = true;
      if (row.level !== "everything" && !back && given) yield row;
      back = row.level === "everything";
    }
  }

  /** Whether an undo of what somebody gave passes over an entry: it was done by itself, or nothing of it is left to be seen. */
  isPassedOver(id: number): boolean {
    const row = this.get(id);
    if (row.by === "timetable") return true;
    if (row.act !== "quiet") return false;
    for (const given of this.given()) {
      if (given.id === id) return false;
      if (given.id < id) return true;
    }
    return true;
  }

  /** The entry by which one was last done: itself, or a later one that did it again. */
  lastDone(id: number): number {
    const sql = "SELECT max(id) FROM entry WHERE target = ? AND direction = 'do'";
    return prepared<[number], number>(this.db, sql).pluck().get(id) ?? id;
  }

  /** What doing again takes: the undo that came last, of those since the last act that was anything else. */
  lastUndone(): EntryRow | undefined {
    return prepared<[], EntryRow>(
      this.db,
      `SELECT u.* FROM entry u JOIN entry t ON t.id = u.target
         WHERE u.direction = 'undo' AND u.state = 'done' AND t.state = 'undone'
           AND u.id > (SELECT coalesce(max(id), 0) FROM entry WHERE target = id)
           AND u.id = (SELECT max(id) FROM entry WHERE target = u.target)
         ORDER BY u.id DESC LIMIT 1`,
    ).get();
  }

  /** The entry that did a verdict which was given in a sitting, where it stands. */
  ofGiven(given: string): { entry: number; words: string } | undefined {
    return prepared<[string], { entry: number; words: string }>(
      this.db,
      "SELECT id AS entry, words FROM entry WHERE given = ? AND state = 'done' ORDER BY id DESC LIMIT 1",
    ).get(given);
  }

  /** Those that a crash left in the middle. */
  running(): EntryRow[] {
    return prepared<[], EntryRow>(this.db, "SELECT * FROM entry WHERE state = 'running' ORDER BY id").all();
  }

  /**
   * Those that stand and were done after this one, the last first; one that was done again counts from then. Not those of
   * which undo has already been refused a part for good: what is left of them will stay.
   */
  standingAfter(id: number): IterableIterator<EntryRow> {
    return this.db
      .prepare<[number, number], EntryRow>(
        `SELECT e.* FROM entry d JOIN entry e ON e.id = d.target
         WHERE d.direction = 'do' AND d.id > (SELECT max(id) FROM entry WHERE target = ? AND direction = 'do')
           AND e.state = 'done' AND e.id <> ?
           AND d.id = (SELECT max(id) FROM entry WHERE target = e.id AND direction = 'do')
           AND NOT EXISTS (${refusedForGood("e.id", "d.id")})
         ORDER BY d.id DESC`,
      )
      .iterate(id, id);
  }

  /** Those that stand and may have destroyed things for good: of an entry, and of what was done after it. */
  destroyingSince(id: number): number[] {
    return prepared<[number], number>(
      this.db,
      `SELECT e.id FROM entry e
       WHERE e.act IN ('empty', 'parcel-delete') AND e.state = 'done'
         AND (SELECT max(id) FROM entry WHERE target = e.id AND direction = 'do')
           >= (SELECT max(id) FROM entry WHERE target = ? AND direction = 'do')`,
    )
      .pluck()
      .all(id);
  }

  /** @throws Problem "entry-unknown" where a step is not understood */
  stepsOf(entry: number): StoredStep[] {
    return prepared<[number], { n: number; version: number; plan: string; state: StepState; note: string | null }>(
      this.db,
      "SELECT n, version, plan, state, note FROM step JOIN step_state USING (entry, n) WHERE entry = ? ORDER BY n",
    )
      .all(entry)
      .map((row) => ({
        n: row.n,
        step: this.understood(entry, row.n, row.version, row.plan),
        state: row.state,
        note: row.note === null ? null : (JSON.parse(row.note) as Json),
      }));
  }

  private understood(entry: number, n: number, version: number, plan: string): Step {
    const key = `${entry}.${n}`;
    const known = this.large.get(key);
    if (known) return known;
    try {
      const step = readStoredStep(version, plan);
      if (plan.length > largePlan) this.remember(key, step);
      return step;
    } catch {
      throw new Problem("entry-unknown", { detail: String(entry) });
    }
  }

  /** Steps with a tree of very many, read a moment ago: whether an act can be undone, and its undo, read the same ones. */
  private readonly large = new Map<string, Step>();
  private forgetting: NodeJS.Timeout | undefined;

  private remember(key: string, step: Step): void {
    this.large.set(key, step);
    clearTimeout(this.forgetting);
    this.forgetting = setTimeout(() => this.large.clear(), largeMs).unref();
  }

  /** The same, and none where a step was written by another version and is not understood: such an entry holds up no other. */
  stepsIfKnown(entry: number): StoredStep[] {
    return unlessProblem(() => this.stepsOf(entry)) ?? [];
  }

  /** Writes down an act and what it is going to do, each step as JSON, before the first is done. */
  begin(plan: Plan, steps: string[]): number {
    return this.db.transaction(() => {
      const id = this.insert(plan.act, plan.words(plan.steps), 0, "do", plan.sitting ?? null);
      prepared(this.db, "UPDATE entry SET target = id, given = ?, level = ? WHERE id = ?").run(
        plan.given ?? null,
        plan.level ?? null,
        id,
      );
      const insert = prepared(this.db, "INSERT INTO step (entry, n, version, plan) VALUES (?, ?, ?, ?)");
      const stand = prepared(this.db, "INSERT INTO step_state (entry, n, state) VALUES (?, ?, 'planned')");
      for (const [n, json] of steps.entries()) {
        insert.run(id, n, planVersion, json);
        stand.run(id, n);
      }
      return id;
    })();
  }

  /** Writes down that an entry is going to be taken back, or done again. */
  beginAgain(target: EntryRow, direction: Direction, words: string): number {
    return this.insert(direction === "do" ? "redo" : "undo", words, target.id, direction, target.sitting);
  }

  private insert(act: string, words: string, target: number, direction: Direction, sitting: string | null): number {
    return Number(
      prepared(
        this.db,
        `INSERT INTO entry (act, words, at, state, target, direction, sitting, said, by)
         VALUES (?, ?, ?, 'running', ?, ?, ?, '[]', ?)`,
      ).run(act, words, this.now(), target, direction, sitting, actorNow()).lastInsertRowid,
    );
  }

  /** Keeps what a step found out, at once. */
  note(entry: number, n: number, note: Json): void {
    prepared(this.db, "UPDATE step_state SET note = ? WHERE entry = ? AND n = ?").run(JSON.stringify(note), entry, n);
  }

  say(entry: number, refused: Refused[]): void {
    prepared(this.db, "UPDATE entry SET said = ? WHERE id = ?").run(JSON.stringify(refused), entry);
  }

  /** The end of an entry, in one transaction with what its steps want to have recorded: how each of them stands now. */
  end(
    entry: number,
    target: number,
    steps: StoredStep[],
    outcome: { usual: StepState; state: EntryState; refused: Refused[]; words?: string; records: (() => void)[] },
  ): void {
    const { db } = this;
    db.transaction(() => {
      for (const write of outcome.records) write();
      // Most steps end alike: one statement marks them, and one each those that do not.
      prepared(db, "UPDATE step_state SET state = ?, note = NULL WHERE entry = ?").run(outcome.usual, target);
      prepared(db, "DELETE FROM temporary WHERE entry = ?").run(target);
      const mark = prepared(db, "UPDATE step_state SET state = ?, note = ? WHERE entry = ? AND n = ?");
      for (const s of steps)
        if (s.state !== outcome.usual || s.note !== null)
          mark.run(s.state, s.note === null ? null : JSON.stringify(s.note), target, s.n);
      prepared(db, "UPDATE entry SET state = ? WHERE id = ?").run(outcome.state, target);
      if (entry !== target) prepared(db, "UPDATE entry SET state = 'done' WHERE id = ?").run(entry);
      if (outcome.words !== undefined) prepared(db, "UPDATE entry SET words = ? WHERE id = ?").run(outcome.words, entry);
      this.say(entry, outcome.refused);
    })();
  }
}
