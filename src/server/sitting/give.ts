import type { ReportJson } from "@/contract/items";
import type { GiveInput, GivenAnswer, GivenInput, VerdictAct } from "@/contract/sitting";
import { asProblem, Problem } from "@/core/problem";
import { onBehalfOf } from "../actor";
import { writeLazily } from "../db/db";
import { prepared } from "../db/prepared";
import type { Engine, Reading } from "../engine";
import { othersFirst } from "../jobs/gentle";
import { sharedMemory } from "../shared";

/** Does an act as it was asked for. */
type DoIt = (act: VerdictAct, input: unknown) => Promise<unknown>;

interface GivenRow {
  n: number;
  id: string;
  act: VerdictAct;
  input: string;
  answer: string | null;
}

interface Line {
  underWay?: Promise<void>;
  /** Told whenever one is done. */
  waiting: Set<() => void>;
  /** What verdicts came to that could not be written down, as there was no room: found out again from the ledger later. */
  unwritten: Map<string, GivenAnswer>;
}

const lines = sharedMemory<Engine, Line>("given");

function lineOf(engine: Engine): Line {
  const line = lines.get(engine) ?? { waiting: new Set(), unwritten: new Map() };
  lines.set(engine, line);
  return line;
}

/** After so long it is tried again to write down what one came to. */
const againMs = 5000;

/** Answered verdicts are kept for as long as a page may still ask for them. */
const keptFor = 7 * 86_400_000;

/** Writes verdicts down, and does them one after the other: whatever becomes of the page that gave them. */
export function give(engine: Engine, { verdicts }: GiveInput, doIt: DoIt): { given: string[] } {
  const { db } = engine;
  const insert = db.prepare("INSERT OR IGNORE INTO given (id, act, input, at) VALUES (?, ?, ?, ?)");
  db.transaction(() => {
    db.prepare("DELETE FROM given WHERE answer IS NOT NULL AND at < ?").run(engine.now() - keptFor);
    for (const { id, act, input } of verdicts) insert.run(id, act, JSON.stringify(input), engine.now());
  })();
  goOnGiving(engine, doIt);
  return { given: verdicts.map(({ id }) => id) };
}

/** Does what was given and not done yet, also before a restart. */
export function goOnGiving(engine: Engine, doIt: DoIt): void {
  const line = lineOf(engine);
  // A verdict is given in a window.
  line.underWay ??= onBehalfOf("window", () => drain(engine, line, doIt)).finally(() => {
    line.underWay = undefined;
  });
}

async function drain(engine: Engine, line: Line, doIt: DoIt): Promise<void> {
  const { db } = engine;
  const next = db.prepare<[], GivenRow>("SELECT * FROM given WHERE answer IS NULL ORDER BY n LIMIT 1");
  const answer = db.prepare("UPDATE given SET answer = ? WHERE n = ?");
  for (let row = next.get(); row; row = engine.closing ? undefined : next.get()) {
    const came = await done(engine, row, doIt);
    if (!db.open) return;
    // Lost with the power supply, it is found out again from the ledger.
    const { n, id } = row;
    let written = true;
    try {
      writeLazily(db, () => answer.run(JSON.stringify(came), n));
      line.unwritten.delete(id);
    } catch {
      line.unwritten.set(id, came);
      written = false;
    }
    for (const tell of line.waiting) tell();
    line.waiting.clear();
    // The next would fare no better just now.
    if (!written) {
      engine.clock.after(againMs, () => {
        if (!engine.closing) goOnGiving(engine, doIt);
      });
      return;
    }
    // Writing the next one down goes before doing this one's successor.
    await othersFirst();
  }
}

async function done(engine: Engine, { id, act, input }: GivenRow, doIt: DoIt): Promise<GivenAnswer> {
  // Done already, and the process ended before that could be noted.
  const before = engine.ledger.entries.ofGiven(id);
  if (before) return { id, report: { ...before, act, done: 1, refused: [] } };
  try {
    const asked = JSON.parse(input) as Record<string, unknown>;
    const undone = act === "ledger/undo" && typeof asked["given"] === "string" ? asked["given"] : undefined;
    const meant = undone === undefined ? { ...asked, given: id } : { entry: entryOf(engine, undone) };
    return { id, report: (await doIt(act, meant)) as ReportJson };
  } catch (error) {
    return { id, problem: problemOf(asProblem(error)) };
  }
}

const problemOf = ({ code, title, remedy }: Problem): GivenAnswer["problem"] => ({ code, title, remedy });

/** The entry that a verdict became. */
function entryOf(engine: Reading, given: string): number {
  const text = engine.db.prepare<[string], string | null>("SELECT answer FROM given WHERE id = ?").pluck().get(given);
  const entry = text ? (JSON.parse(text) as GivenAnswer).report?.entry : undefined;
  if (typeof entry !== "number") throw new Problem("undo-nothing");
  return entry;
}

/** What verdicts came to: waits until one of them is done, and answers all that are. */
export async function given(engine: Engine, { ids }: GivenInput): Promise<GivenAnswer[]> {
  const line = lineOf(engine);
  const read = prepared<[string], { answer: string | null }>(engine.db, "SELECT answer FROM given WHERE id = ?");
  for (;;) {
    const answers = ids.flatMap((id): GivenAnswer[] => {
      const row = read.get(id);
      const came = line.unwritten.get(id);
      if (came) return [came];
      if (!row) return [{ id, problem: problemOf(new Problem("unknown-entry", { detail: "of that verdict" })) }];
      return row.answer === null ? [] : [JSON.parse(row.answer) as GivenAnswer];
    });
    if (answers.length > 0) return answers;
    await new Promise<void>((tell) => line.waiting.add(tell));
  }
}

/** Waits until what was given until now is done: a page that is loaded anew shows it so. */
export async function givenSoFar(engine: Engine): Promise<void> {
  await lineOf(engine).underWay;
}
