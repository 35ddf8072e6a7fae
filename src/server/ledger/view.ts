import type { EntryAnswer } from "@/contract/ledger";
import type { LedgerView } from "@/contract/views";
import { shownPlace } from "@/core/ledger/step-type";
import { folderOf } from "@/core/names/raw";
import type { Engine, Reading } from "../engine";
import { ledgerList } from "./list";
import { trashList } from "./trash-list";

const onePage = 100;
const longestWord = 200;

/** The acts, the latest first, a page at a time; and what lies in the trash. */
export function ledgerView(engine: Engine, asked: { sheet?: string; before?: string; word?: string }): LedgerView {
  const words = engine.words();
  const trash = trashList(engine);
  const sheet = asked.sheet === "trash" ? "trash" : "acts";
  const word = asked.word?.trim().slice(0, longestWord) || undefined;
  const before = /^[1-9]\d{0,14}$/.test(asked.before ?? "") ? Number(asked.before) : undefined;
  const page = ledgerList(engine, { most: onePage + 1, before, word });
  const entries = page.slice(0, onePage);
  const destroyed = new Map();
  const count = (where: string) => engine.db.prepare<[], number>(`SELECT count(*) FROM entry WHERE ${where}`).pluck().get()!;
  return {
    sheet,
    word,
    total: count("true"),
    standing: count("target = id AND state = 'done'"),
    forGood: forGood(engine),
    older: page.length > onePage ? page[onePage - 1]!.id : undefined,
    latest: before === undefined,
    sittings: sittingsOf(engine, entries),
    entries: entries.map((entry) => ({
      id: entry.id,
      words: entry.words,
      when: words.ago(entry.at),
      state: entry.state,
      of: entry.of,
      sitting: entry.sitting ?? undefined,
      refused: entry.refused.map(({ name, why }) => ({ name, why })),
      undo: entry.of === null && entry.state === "done" ? undoOf(engine, entry.id, destroyed) : undefined,
      canRedo: entry.of !== null && entry.act === "undo" && isLastOn(engine, entry.of, entry.id),
      nothing: entry.of === null && entry.state === "undone" && entry.refused.length > 0 && !wasUndone(engine, entry.id),
    })),
    trash: (sheet === "trash" ? trash : []).map((thing) => ({
      id: thing.id,
      name: thing.label,
      from: thing.original
        ? shownPlace(folderOf(thing.original), engine.account.root)
        : "not known: its info file is missing or damaged",
      deletedAt: thing.deletedAt,
      bytes: thing.identity.type === "folder" ? undefined : thing.identity.bytes,
    })),
    trashCount: trash.length,
    trashBytes: trash.reduce((sum, thing) => sum + thing.identity.bytes, 0),
  };
}

/** What undoing an act that stands would bring back: all, or a part; undefined where it is nothing. */
export function undoOf(
  { ledger, words }: Engine,
  entry: number,
  destroyed?: Parameters<Engine["ledger"]["outlook"]>[1],
): { part?: string } | undefined {
  const { of, lost } = ledger.outlook(entry, destroyed);
  if (lost.length === of) return undefined;
  return lost.length === 0 ? {} : { part: `${words().count(of - lost.length)} of ${words().count(of)}` };
}

/** How many acts stand by which something was destroyed that does not come back. */
const forGood = ({ db, ledger }: Engine): number =>
  db
    .prepare<[], number>("SELECT id FROM entry WHERE target = id AND state = 'done' AND act IN ('empty', 'parcel-delete')")
    .pluck()
    .all()
    .filter((id) => ledger.outlook(id).lost.length > 0).length;

/** The sittings in which some acts were done: when each began, and how many of its acts stand. */
function sittingsOf(engine: Reading, entries: EntryAnswer[]): LedgerView["sittings"] {
  const words = engine.words();
  return engine.db
    .prepare<[string], { id: string; began: number; acts: number; standing: number }>(
      `SELECT sitting AS id, min(at) AS began, count(*) AS acts, sum(state = 'done') AS standing FROM entry
       WHERE sitting IN (SELECT value FROM json_each(?)) AND target = id GROUP BY sitting`,
    )
    .all(JSON.stringify([...new Set(entries.flatMap(({ sitting }) => (sitting === null ? [] : [sitting])))]))
    .map(({ id, began, acts, standing }) => ({
      id,
      standing,
      words: `A sitting, ${words.dateTime(began)}: ${words.counted(acts, "act")}, ${standing === acts ? "none undone" : standing === 0 ? "all undone" : `${words.count(acts - standing)} undone`}`,
    }));
}

/** Whether nothing was done with an entry since that undo, which took back all of it. */
function isLastOn(engine: Engine, target: number, undo: number): boolean {
  const last = engine.db.prepare<[number], number>("SELECT max(id) FROM entry WHERE target = ?").pluck().get(target);
  return last === undo && engine.ledger.entries.get(target).state === "undone";
}

function wasUndone(engine: Reading, entry: number): boolean {
  return engine.db.prepare("SELECT 1 FROM entry WHERE target = ? AND id <> ?").get(entry, entry) !== undefined;
}
