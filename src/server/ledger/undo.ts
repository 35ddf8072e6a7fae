import type { ReportJson } from "@/contract/items";
import type { AgainInput, UndoInput } from "@/contract/ledger";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import type { Report } from "./ledger";

/**
 * Takes back the last act, an entry (with what depends on it, where that is wanted), a sitting, or everything, the latest
 * first. Each is an entry of its own.
 */
export async function undo(engine: Engine, input: UndoInput): Promise<ReportJson> {
  const named = input.entry !== undefined || input.sitting !== undefined;
  if (named || input.dryRun) return undoNow(engine, input);
  // Asked twice in quick succession, the second means the act before: which that is, is known once the first is over.
  const mine = (underWay.get(engine) ?? Promise.resolve()).catch(() => {}).then(() => undoNow(engine, input));
  underWay.set(engine, mine);
  return mine;
}
const underWay = sharedMemory<Engine, Promise<unknown>>("undoing");

async function undoNow(engine: Engine, input: UndoInput): Promise<ReportJson> {
  const { ledger, db } = engine;
  if (input.entry === "all" || input.sitting !== undefined) {
    const standing = db
      .prepare<[string | null, string | null], { id: number }>(
        `SELECT e.id FROM entry e WHERE e.target = e.id AND e.state = 'done' AND (? IS NULL OR e.sitting = ?)
         ORDER BY (SELECT max(t.id) FROM entry t WHERE t.target = e.id) DESC`,
      )
      .all(input.sitting ?? null, input.sitting ?? null);
    if (standing.length === 0) throw new Problem("undo-nothing");
    return undoAll(
      engine,
      standing.map((row) => row.id),
      input,
    );
  }
  const id = input.entry ?? ledger.entries.latest()?.id;
  if (id === undefined) throw new Problem("undo-nothing");
  const later = ledger.dependentsOf(id);
  // What was done by itself on the strength of an act goes with it: nobody gave it.
  const together = input.withLater || (input.entry === undefined && later.every(({ by }) => by === "timetable"));
  if (together && later.length > 0) return undoAll(engine, [...later.map((entry) => entry.id), id], input);
  return undoOne(engine, id, "Taking back", input);
}

/** Does again what was undone last, and with each call what was undone before that, until something else is done. */
export async function again(engine: Engine, input: AgainInput): Promise<ReportJson> {
  const last = engine.ledger.entries.lastUndone();
  if (!last) throw new Problem("again-nothing");
  return undoOne(engine, last.id, "Doing again", input);
}

async function undoOne(engine: Engine, id: number, doing: string, { dryRun }: AgainInput): Promise<ReportJson> {
  if (dryRun) return engine.ledger.undo(id, { trial: true });
  const report = await engine.jobs.run(doing, "things", 0, (job) => engine.ledger.undo(id, { pace: job }));
  engine.lookLater();
  return report;
}

async function undoAll(engine: Engine, ids: number[], input: UndoInput): Promise<ReportJson> {
  const whole: Report = { entry: null, act: "undo", words: "", done: 0, refused: [] };
  const taken = new Set<number>();
  const words: string[] = [];
  await engine.jobs.run("Taking acts back", "things", ids.length, async (job) => {
    for (const [n, id] of ids.entries()) {
      if (job.signal.aborted) throw new Problem("cancelled", { name: "Taking acts back" });
      try {
        const report = await engine.ledger.undo(id, input.dryRun ? { trial: true, after: taken } : {});
        whole.entry = report.entry;
        whole.done += report.done;
        whole.refused.push(...report.refused);
        taken.add(id);
        words.push(engine.ledger.entries.get(id).words);
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        whole.refused.push({ name: engine.ledger.entries.get(id).words, code: error.code, why: error.message });
      }
      job.progress(n + 1);
    }
  });
  if (!input.dryRun) engine.lookLater();
  return {
    ...whole,
    // What a trial would take back, an act a line.
    ...(input.dryRun ? { acts: words } : {}),
    words: `Undid ${engine.words().counted(taken.size, "act")}`,
  };
}
