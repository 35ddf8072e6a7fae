import type { EntriesInput, LaterAnswer } from "@/contract/ledger";
import { stepSentence } from "@/core/ledger/sentence";
import type { EntryState } from "@/core/ledger/step";
import type { Actor } from "../actor";
import type { Engine, Reading } from "../engine";
import { itemById } from "../survey/items";
import type { EntryRow, Refused } from "./entries";

export interface EntryView {
  id: number;
  act: string;
  words: string;
  at: number;
  state: EntryState;
  /** The entry that this one took back or did again. */
  of: number | null;
  sitting: string | null;
  /** Who gave it: window or command; null where it is not known. */
  by: Actor | null;
  refused: Refused[];
}

/** The latest entries, newest first; with `before` the latest before that one. */
export function ledgerList(engine: Reading, { most = 200, before }: EntriesInput = {}): EntryView[] {
  return engine.db
    .prepare<[number, number], EntryRow>("SELECT * FROM entry WHERE id < ? ORDER BY id DESC LIMIT ?")
    .all(before ?? Number.MAX_SAFE_INTEGER, most)
    .map(viewOf);
}

/** What has to be undone before an entry can be, the latest first. */
export function later(engine: Engine, entry: number): LaterAnswer {
  return engine.ledger.dependentsOf(entry).map(({ id, words }) => ({ id, words }));
}

export function viewOf(row: EntryRow): EntryView {
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
    .map(({ step, state }) => ({ words: stepSentence(step, engine.account.root, words, titleOf), state }));
}
