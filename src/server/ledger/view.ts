import type { LedgerView } from "@/contract/views";
import { shownPlace } from "@/core/ledger/sentence";
import { folderOf } from "@/core/names/raw";
import type { Engine } from "../engine";
import { ledgerList } from "./list";
import { trashList } from "./trash-list";

/** Every act, the latest first, and what lies in the trash. */
export function ledgerView(engine: Engine, asked?: string): LedgerView {
  const words = engine.words();
  const trash = trashList(engine);
  return {
    sheet: asked === "trash" ? "trash" : "acts",
    entries: ledgerList(engine).map((entry) => ({
      id: entry.id,
      words: entry.words,
      when: words.ago(entry.at),
      state: entry.state,
      of: entry.of,
      refused: entry.refused.map(({ name, why }) => ({ name, why })),
      canUndo: entry.of === null && entry.state === "done",
      nothing: entry.of === null && entry.state === "undone" && entry.refused.length > 0 && !wasUndone(engine, entry.id),
    })),
    trash: trash.map((thing) => ({
      id: thing.id,
      name: thing.label,
      from: thing.original
        ? shownPlace(folderOf(thing.original), engine.account.root)
        : "not known: its info file is missing or damaged",
      when: thing.deletedAt === undefined ? "" : words.ago(thing.deletedAt),
      size: thing.identity.type === "folder" ? "folder" : words.bytes(thing.identity.bytes),
    })),
    trashSize: words.bytes(trash.reduce((sum, thing) => sum + thing.identity.bytes, 0)),
  };
}

function wasUndone(engine: Engine, entry: number): boolean {
  return engine.db.prepare("SELECT 1 FROM entry WHERE target = ? AND id <> ?").get(entry, entry) !== undefined;
}
