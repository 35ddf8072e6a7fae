import type { EntriesInput, EntryAnswer, LaterAnswer } from "@/contract/ledger";
import { stepSentence } from "@/core/ledger/step";
import { rawFromText } from "@/core/names/raw";
import type { Engine, Reading } from "../engine";
import { itemById } from "../survey/items";
import type { EntryRow, Refused } from "./entries";

/**
 * The latest entries, newest first; with `before` the latest before that one. `word`: those that have it in their words, or in
 * the names and places of what they worked on.
 */
export function ledgerList(engine: Reading, { most = 200, before, word }: EntriesInput = {}): EntryAnswer[] {
  const from = before ?? Number.MAX_SAFE_INTEGER;
  if (word === undefined)
    return engine.db
      .prepare<[number, number], EntryRow>("SELECT * FROM entry WHERE id < ? ORDER BY id DESC LIMIT ?")
      .all(from, most)
      .map(viewOf);
  return engine.db
    .prepare<[number, string, string, number], EntryRow>(
      `SELECT * FROM entry WHERE id < ? AND (words LIKE ? ESCAPE '\\' OR EXISTS (
         SELECT 1 FROM step WHERE step.entry = entry.target AND plan LIKE ? ESCAPE '\\'))
       ORDER BY id DESC LIMIT ?`,
    )
    .all(from, likeOf(word), likeOf(JSON.stringify(rawFromText(word)).slice(1, -1)), most)
    .map(viewOf);
}

const likeOf = (text: string) => `%${text.replace(/[\\%_]/g, "\\$&")}%`;

/** What has to be undone before an entry can be, the latest first. */
export function later(engine: Engine, entry: number): LaterAnswer {
  return engine.ledger.dependentsOf(entry).map(({ id, words }) => ({ id, words }));
}

export function viewOf(row: EntryRow): EntryAnswer {
  return {
    id: row.id,
    act: row.act,
    words: row.words,
    at: row.at,
    state: row.state,
    of: row.target === row.id ? null : row.target,
    sitting: row.sitting,
    by: row.by,
    refused: JSON.parse(row.said) as Refused[],
  };
}

/** The steps of an entry in words, with how each stands. */
export function stepsInWords(engine: Engine, entry: number, most = 500): { words: string; state: string }[] {
  const words = engine.words();
  const titleOf = (id: string) => itemById(engine.db, id)?.label ?? "a thing";
  return engine.ledger.entries
    .stepsOf(entry)
    .slice(0, most)
    .map(({ step, state }) => ({ words: stepSentence(step, { root: engine.account.root, words, titleOf }), state }));
}
