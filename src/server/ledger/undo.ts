import type { ReportJson } from "@/contract/items";
import type { AgainInput, UndoInput } from "@/contract/ledger";
import { Problem } from "@/core/problem";
import { onBehalfOf } from "../actor";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import type { EntryRow } from "./entries";
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
      .all(input.sitting ?? null, input.sitting ?? null)
      .map(({ id }) => id);
    if (standing.length === 0) throw new Problem("undo-nothing");
    if (input.sitting === undefined) return undoAll(engine, standing, input);
    const { ids, inTheWay } = withWhatDepends(engine, standing);
    const report = await undoAll(engine, input.withLater || inTheWay.length === 0 ? ids : standing, input);
    return input.dryRun && inTheWay.length > 0 ? { ...report, inTheWay: inTheWay.map(({ words }) => words) } : report;
  }
  const id = input.entry ?? ledger.latest()?.id;
  if (id === undefined) throw new Problem("undo-nothing");
  const later = ledger.dependentsOf(id);
  // What was done by itself on the strength of an act goes with it, and what is undone already as far as can be seen: they do not
  // stand in the way of what somebody gave.
  const together = input.withLater || later.every((one) => ledger.entries.isPassedOver(one.id));
  if (together && later.length > 0) return undoAll(engine, [...later.map((entry) => entry.id), id], input);
  return undoOne(engine, id, "Taking back", input);
}

/** Entries with all that has to be undone before them, the latest first; and what of that somebody gave, and not among these. */
function withWhatDepends({ ledger }: Engine, entries: readonly number[]): { ids: number[]; inTheWay: EntryRow[] } {
  const later = new Map(entries.flatMap((id) => ledger.dependentsOf(id)).map((row) => [row.id, row]));
  const own = new Set(entries);
  const others = [...later.values()].filter(({ id }) => !own.has(id));
  return {
    ids: [...own, ...others.map(({ id }) => id)].sort((a, b) => ledger.entries.lastDone(b) - ledger.entries.lastDone(a)),
    inTheWay: others.filter(({ id }) => !ledger.entries.isPassedOver(id)),
  };
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
  let last: string | undefined;
  await engine.jobs.run("Taking acts back", "things", ids.length, async (job) => {
    for (const [n, id] of ids.entries()) {
      const own = id === ids.at(-1);
      if (job.signal.aborted) throw new Problem("cancelled", { name: "Taking acts back" });
      try {
        const undone = () => engine.ledger.undo(id, input.dryRun ? { trial: true, after: taken } : {});
        // What was done by itself is taken back by itself: what it is for goes on holding.
        const byItself = !own && engine.ledger.entries.get(id).by === "timetable";
        const report = await (byItself ? onBehalfOf("timetable", undone) : undone());
        whole.entry = report.entry;
        whole.done += report.done;
        whole.refused.push(...report.refused);
        if (report.done > 0) taken.add(id);
        last = report.words;
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
    words: last && taken.size === 1 ? last : `Undid ${engine.words().counted(taken.size, "act")}`,
  };
}
