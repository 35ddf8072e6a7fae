"use client";
import { useRouter } from "next/navigation";
import { Fragment, useMemo, useState } from "react";
import type { LaterAnswer } from "@/contract/ledger";
import { ledgerFrom, type Told } from "@/contract/told";
import type { EntryLine, LedgerView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { Trash } from "./trash";
import { UndoMany } from "./undo-many";

/** Every act with its steps and its undo; and what lies in the trash, to bring back. */
export function Ledger({ told }: { told: Told<LedgerView> }) {
  const view = useMemo(() => ledgerFrom(told), [told]);
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
        {tab("acts", `what was done ${view.standing}`)}
        {tab("trash", `in the trash ${view.trashCount}`)}
      </nav>
      {view.sheet === "acts" ? <Acts view={view} /> : <Trash things={view.trash} bytes={view.trashBytes} />}
    </div>
  );
}

function Acts({ view }: { view: LedgerView }) {
  const { entries, standing, older, latest } = view;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <h1 className="text-say leading-tight font-medium">
          {view.total === 0
            ? "Nothing yet."
            : standing === 0
              ? "Everything is as it was."
              : `${standing} ${standing === 1 ? "act" : "acts"} so far; ${undoable(standing, view.forGood)}.`}
        </h1>
        {standing > 1 && <UndoMany which={{ entry: "all" }} words="undo everything, the latest first" title="Undo everything" />}
        {view.total > 0 && <Search word={view.word} />}
      </div>
      {view.word && entries.length === 0 && (
        <p className="border-t-2 border-ink py-3 text-ink-2">
          No act{latest ? "" : " before these"} has “{view.word}” in its words, or in the name or place of a thing.
        </p>
      )}
      {view.total === 0 && (
        <p className="mb-4 max-w-[62ch] text-ink-2">
          Whatever you do is listed here, with each file that it moved and where to. It can be undone, also weeks later and out of
          turn, and done again. Only what you erase for good is gone: the trash that you empty, a parcel that you delete.
        </p>
      )}
      <ol className="min-h-0 flex-1 overflow-auto border-t-2 border-ink" aria-label="acts" tabIndex={0}>
        {entries.map((entry, n) => {
          const sitting = entry.sitting !== entries[n - 1]?.sitting && view.sittings.find(({ id }) => id === entry.sitting);
          return (
            <Fragment key={entry.id}>
              {sitting && <SittingHead sitting={sitting} />}
              <Act entry={entry} />
            </Fragment>
          );
        })}
      </ol>
      {(older !== undefined || !latest) && (
        <nav aria-label="pages of the ledger" className="flex gap-6 border-t border-line py-2 text-small">
          {!latest && (
            <Link className="doing" href={view.word ? `/ledger?word=${encodeURIComponent(view.word)}` : "/ledger"}>
              the latest acts
            </Link>
          )}
          {older !== undefined && (
            <Link className="doing" href={`/ledger?before=${older}${view.word ? `&word=${encodeURIComponent(view.word)}` : ""}`}>
              older acts
            </Link>
          )}
          <span className="ml-auto text-ink-2">
            {entries.length > 0 && `lines ${entries.at(-1)!.id} to ${entries[0]!.id}`} of {view.total}
          </span>
        </nav>
      )}
    </>
  );
}

/** What can be taken back of so many acts, some of which are for good. */
function undoable(standing: number, forGood: number): string {
  if (forGood === 0) return standing === 1 ? "it can be undone" : "each can be undone";
  if (forGood === standing) return "what was erased for good does not come back";
  return `each can be undone, but for what ${forGood === 1 ? "one" : forGood} erased`;
}

/** Looks through all acts, however many pages they fill, for a word. */
function Search({ word }: { word?: string }) {
  const router = useRouter();
  const [typed, setTyped] = useState(word ?? "");
  const look = (wanted: string) => router.push(wanted.trim() ? `/ledger?word=${encodeURIComponent(wanted.trim())}` : "/ledger");
  return (
    <form
      role="search"
      className="ml-auto flex items-baseline gap-3 text-small"
      onSubmit={(event) => {
        event.preventDefault();
        look(typed);
      }}
    >
      <label className="flex items-baseline gap-2 text-ink-2">
        find
        <input
          type="search"
          className="w-44 border-b border-ink-2 bg-transparent text-ink outline-none focus:border-verdigris"
          placeholder="a name, a place, a word"
          value={typed}
          onChange={(event) => {
            setTyped(event.target.value);
            if (event.target.value === "") look("");
          }}
        />
      </label>
      <button type="submit" className="doing whitespace-nowrap" disabled={typed.trim() === ""}>
        in all acts
      </button>
    </form>
  );
}

/** Stands above the acts of one sitting, which can be taken back together, also days later. */
function SittingHead({ sitting }: { sitting: LedgerView["sittings"][number] }) {
  return (
    <li className="flex items-baseline gap-4 border-b border-ink bg-wash px-3 py-1.5 text-small">
      <b className="font-semibold">{sitting.words}</b>
      {sitting.standing > 1 && (
        <span className="ml-auto">
          <UndoMany which={{ sitting: sitting.id }} words="undo the sitting" title="Undo the sitting" />
        </span>
      )}
    </li>
  );
}

type StepLine = { words: string; state: string };

function Act({ entry }: { entry: EntryLine }) {
  const live = useLive();
  const [steps, setSteps] = useState<StepLine[]>();
  const [busy, setBusy] = useState(false);
  const [later, setLater] = useState<LaterAnswer>();
  const take = (withLater: boolean) => {
    setLater(undefined);
    setBusy(true);
    void live.act(ask("ledger/undo", { entry: entry.id, withLater })).finally(() => setBusy(false));
  };
  /** At once where nothing depends on it; else what does is shown first. */
  const undo = () => {
    if (busy) return;
    setBusy(true);
    ask("ledger/later", { entry: entry.id })
      .then((answer) => (answer.length === 0 ? take(false) : setLater(answer)))
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const open = () => {
    if (steps) return setSteps(undefined);
    ask("ledger/steps", { entry: entry.of ?? entry.id })
      .then(setSteps)
      .catch(live.say);
  };
  const state = entry.nothing ? "nothing was done" : entry.state === "undone" ? "undone" : entry.of !== null ? "" : "done";
  return (
    <li className={`border-b border-b-line py-2 ${entry.sitting === undefined ? "" : "border-l-4 border-l-wash"}`}>
      <div className="grid grid-cols-[48px_1fr_110px_110px_90px] items-baseline gap-4 max-[760px]:grid-cols-[28px_1fr_64px_84px_56px] max-[760px]:gap-2">
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
          {entry.undo && (
            <button
              type="button"
              className="doing text-left"
              aria-disabled={busy}
              onClick={undo}
              aria-label={`undo${entry.undo.part ? ` ${entry.undo.part}` : ""}: ${entry.words}`}
            >
              undo {entry.undo.part}
            </button>
          )}
          {entry.canRedo && (
            <button
              type="button"
              className="doing whitespace-nowrap"
              disabled={busy}
              onClick={() => take(false)}
              aria-label={`do again: ${entry.words}`}
            >
              do again
            </button>
          )}
        </span>
      </div>
      {later && <WithLater entry={entry} later={later} onTake={() => take(true)} onClose={() => setLater(undefined)} />}
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

/** What has to be undone before an act can be, shown before any of it is. */
function WithLater({
  entry,
  later,
  onTake,
  onClose,
}: {
  entry: EntryLine;
  later: LaterAnswer;
  onTake: () => void;
  onClose: () => void;
}) {
  return (
    <Dialog open onClose={onClose} title={`Undo ${later.length + 1} acts`}>
      <p className="mb-3">
        {later.length === 1 ? "One later act concerns" : `${later.length} later acts concern`} the same things or names, and
        {later.length === 1 ? " is" : " are"} undone first.
      </p>
      <ol
        className="mb-5 max-h-[32vh] overflow-auto border-y border-line text-small"
        tabIndex={0}
        aria-label="undone in this order"
      >
        {[...later, entry].map(({ id, words }) => (
          <li key={id} className={`flex gap-4 border-b border-line py-1 last:border-0 ${id === entry.id ? "font-semibold" : ""}`}>
            <span className="w-10 shrink-0 text-right font-mono text-[12px] text-ink-2">{id}</span>
            <bdi className="break-words">{words}</bdi>
          </li>
        ))}
      </ol>
      <div className="flex items-center gap-6">
        <button type="button" className="go" onClick={onTake}>
          Undo {later.length === 1 ? "both" : `all ${later.length + 1}`}
        </button>
        <button type="button" className="doing" onClick={onClose}>
          leave them
        </button>
      </div>
    </Dialog>
  );
}
