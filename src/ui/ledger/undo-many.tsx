"use client";
import { useState } from "react";
import type { ReportJson } from "@/contract/items";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";

type Which = { entry: "all" } | { sitting: string };

/** Takes many acts back at once: what they are is shown first, and asked once. */
export function UndoMany({
  which,
  words,
  title,
  onUndone,
}: {
  which: Which;
  words: string;
  title: string;
  onUndone?: () => void;
}) {
  const live = useLive();
  const [what, setWhat] = useState<ReportJson>();
  const [busy, setBusy] = useState(false);
  const look = () => {
    setBusy(true);
    ask("ledger/undo", { ...which, dryRun: true })
      .then(setWhat)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const undo = () => {
    setWhat(undefined);
    setBusy(true);
    void live
      .act(ask("ledger/undo", which))
      .then((report) => report && onUndone?.())
      .finally(() => setBusy(false));
  };
  const acts = what?.acts ?? [];
  return (
    <>
      <button type="button" className="doing ml-auto" disabled={busy} onClick={look}>
        {words}
      </button>
      <Dialog open={what !== undefined} onClose={() => setWhat(undefined)} title={title}>
        {what && (
          <>
            <p className="mb-3">
              {acts.length === 1 ? "One act is" : `${acts.length} acts are`} taken back, the latest first. Each can be done again.
            </p>
            <ol
              aria-label="taken back in this order"
              className="mb-4 max-h-[36vh] overflow-auto border-y border-line"
              tabIndex={0}
            >
              {acts.map((act, n) => (
                <li key={n} className="border-b border-line py-1 last:border-0">
                  <bdi>{act}</bdi>
                </li>
              ))}
            </ol>
            {what.refused.length > 0 && (
              <p className="mb-4 text-ink-2">
                {what.refused.length === 1 ? "One of them cannot be" : `${what.refused.length} of them cannot be`}:{" "}
                {what.refused[0]!.why}
              </p>
            )}
            <button type="button" className="go" onClick={undo}>
              Take {acts.length === 1 ? "it" : "them"} back
            </button>
          </>
        )}
      </Dialog>
    </>
  );
}
