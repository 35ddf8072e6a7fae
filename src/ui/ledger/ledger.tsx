"use client";
import Link from "next/link";
import { useState } from "react";
import type { EntryLine, LedgerView, TrashLine } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { EmptyTrash } from "./empty-trash";

/** Every act with its steps and its undo; and what lies in the trash, to bring back. */
export function Ledger({ view }: { view: LedgerView }) {
  const tab = (sheet: LedgerView["sheet"], words: string) => (
    <Link
      href={`/ledger?sheet=${sheet}`}
      aria-current={view.sheet === sheet ? "true" : undefined}
      className={view.sheet === sheet ? "border-b-2 border-ink font-semibold" : "text-ink-2 hover:text-ink"}
    >
      {words}
    </Link>
  );
  return (
    <div className="mx-auto flex h-full max-w-[1100px] flex-col px-7 pt-5">
      <nav aria-label="sheets of the ledger" className="mb-4 flex gap-6">
        {tab("acts", `what was done ${view.entries.length}`)}
        {tab("trash", `in the trash ${view.trash.length}`)}
      </nav>
      {view.sheet === "acts" ? <Acts entries={view.entries} /> : <Trash things={view.trash} size={view.trashSize} />}
    </div>
  );
}

function Acts({ entries }: { entries: EntryLine[] }) {
  const live = useLive();
  const [busy, setBusy] = useState(false);
  const undoAll = () => {
    setBusy(true);
    void live.act(ask("ledger/undo", { entry: "all" })).finally(() => setBusy(false));
  };
  const standing = entries.filter((entry) => entry.canUndo).length;
  return (
    <>
      <div className="mb-3 flex items-baseline gap-6">
        <h1 className="text-say leading-tight font-medium">
          {entries.length === 0
            ? "Nothing was done yet."
            : standing === 0
              ? "Everything is as it was."
              : `${standing} ${standing === 1 ? "act stands" : "acts stand"}.`}
        </h1>
        {standing > 1 && (
          <button type="button" className="doing ml-auto" disabled={busy} onClick={undoAll}>
            undo everything, the latest first
          </button>
        )}
      </div>
      <ol className="min-h-0 flex-1 overflow-auto border-t-2 border-ink">
        {entries.map((entry) => (
          <Act key={entry.id} entry={entry} />
        ))}
      </ol>
    </>
  );
}

type StepLine = { words: string; state: string };

function Act({ entry }: { entry: EntryLine }) {
  const live = useLive();
  const [steps, setSteps] = useState<StepLine[]>();
  const [busy, setBusy] = useState(false);
  const undo = () => {
    setBusy(true);
    void live.act(ask("ledger/undo", { entry: entry.id })).finally(() => setBusy(false));
  };
  const open = () => {
    if (steps) return setSteps(undefined);
    ask<"ledger/steps", StepLine[]>("ledger/steps", { entry: entry.of ?? entry.id })
      .then(setSteps)
      .catch(live.say);
  };
  const state = entry.nothing ? "nothing was done" : entry.state === "undone" ? "undone" : entry.of !== null ? "" : "stands";
  return (
    <li className="border-b border-line py-2">
      <div className="grid grid-cols-[48px_1fr_110px_110px_70px] items-baseline gap-4">
        <span className="text-right font-mono text-[12px] text-ink-2">{entry.id}</span>
        <button
          type="button"
          aria-expanded={steps !== undefined}
          onClick={open}
          className={`min-w-0 text-left hover:underline ${entry.state === "undone" ? "text-ink-2 line-through decoration-ink-3" : ""}`}
        >
          <bdi className="break-words">{entry.words}</bdi>
        </button>
        <span className="text-small text-ink-2">{state}</span>
        <span className="text-small text-ink-2">{entry.when}</span>
        <span>
          {entry.canUndo && (
            <button type="button" className="doing" disabled={busy} onClick={undo} aria-label={`undo: ${entry.words}`}>
              undo
            </button>
          )}
        </span>
      </div>
      {entry.refused.length > 0 && (
        <ul className="mt-1 ml-16 text-small text-let-go">
          {entry.refused.slice(0, 8).map(({ why }) => (
            <li key={why}>{why}</li>
          ))}
          {entry.refused.length > 8 && <li>and {entry.refused.length - 8} more</li>}
        </ul>
      )}
      {steps && (
        <ol
          className="mt-1 ml-16 max-h-72 overflow-auto border-l border-line pl-4 text-small text-ink-2"
          tabIndex={0}
          aria-label="its steps"
        >
          {steps.map((step, n) => (
            <li key={n} className="py-px">
              <bdi>{step.words}</bdi>
              {step.state !== "done" && ` (${step.state})`}
            </li>
          ))}
        </ol>
      )}
    </li>
  );
}

function Trash({ things: list, size }: { things: TrashLine[]; size: string }) {
  const live = useLive();
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const ids = list.filter((thing) => chosen.has(thing.id)).map((thing) => thing.id);
  const toggle = (id: string) =>
    setChosen((before) => {
      const next = new Set(before);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const all = list.length > 0 && ids.length === list.length;
  return (
    <>
      <div className="mb-3 flex items-baseline gap-6">
        <h1 className="text-say leading-tight font-medium">
          {list.length === 0
            ? "The trash is empty."
            : `${things(list.length)} in the trash, ${size}. Each goes back to its exact place.`}
        </h1>
        {list.length > 0 && <EmptyTrash />}
        <button
          type="button"
          className="go whitespace-nowrap"
          disabled={ids.length === 0}
          onClick={() => void live.act(ask("ledger/restore", { things: ids })).then(() => setChosen(new Set()))}
        >
          Bring {ids.length} back
        </button>
      </div>
      {list.length > 0 && (
        <label className="flex items-center gap-3 border-t-2 border-b border-ink px-3 py-1.5 font-semibold">
          <input
            type="checkbox"
            className="size-4 accent-verdigris"
            checked={all}
            onChange={() => setChosen(all ? new Set() : new Set(list.map((t) => t.id)))}
          />
          all {list.length}
        </label>
      )}
      <ul className="min-h-0 flex-1 overflow-auto">
        {list.map((thing) => (
          <li key={thing.id} className={`border-b border-line ${chosen.has(thing.id) ? "bg-wash" : ""}`}>
            <label className="grid grid-cols-[16px_1fr_1fr_90px_110px] items-center gap-4 px-3 py-1.5">
              <input
                type="checkbox"
                className="size-4 accent-verdigris"
                checked={chosen.has(thing.id)}
                onChange={() => toggle(thing.id)}
              />
              <bdi className="truncate">{thing.name}</bdi>
              <span className="truncate text-small text-ink-2">{thing.from}</span>
              <span className="text-right text-small text-ink-2">{thing.size}</span>
              <span className="text-small text-ink-2">{thing.when}</span>
            </label>
          </li>
        ))}
      </ul>
    </>
  );
}
