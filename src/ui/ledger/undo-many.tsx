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
    if (busy) return;
    setBusy(true);
    ask("ledger/undo", { ...which, dryRun: true })
      .then(setWhat)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const undo = (withLater: boolean) => {
    setWhat(undefined);
    setBusy(true);
    void live
      .act(ask("ledger/undo", { ...which, ...(withLater ? { withLater } : {}) }))
      .then((report) => report && onUndone?.())
      .finally(() => setBusy(false));
  };
  const acts = what?.acts ?? [];
  const inTheWay = what?.inTheWay ?? [];
  return (
    <>
      {/* Not disabled while it looks: it would lose the focus, to which the dialog leads back. */}
      <button type="button" className="doing" aria-disabled={busy} onClick={look}>
        {words}
      </button>
      <Dialog open={what !== undefined} onClose={() => setWhat(undefined)} title={title}>
        {what && (
          <>
            <p className="mb-3">
              {acts.length === 0
                ? "None of it can be taken back as things are."
                : `${acts.length === 1 ? "One act is" : `${acts.length} acts are`} taken back, the latest first. Each can be done again.`}
            </p>
            {acts.length > 0 && <Acts label="taken back in this order" acts={acts} />}
            {inTheWay.length > 0 ? (
              <>
                <p className="mb-3">
                  {inTheWay.length === 1 ? "A later act concerns" : `${inTheWay.length} later acts concern`} the same things, and
                  {inTheWay.length === 1 ? " stands" : " stand"} in the way of the rest:
                </p>
                <Acts label="in the way" acts={inTheWay} />
              </>
            ) : (
              what.refused.length > 0 && (
                <p className="mb-4 text-ink-2">
                  {what.refused.length === 1 ? "One of them cannot be" : `${what.refused.length} of them cannot be`}:{" "}
                  {what.refused[0]!.why}
                </p>
              )
            )}
            <div className="flex flex-wrap items-center gap-6">
              {inTheWay.length > 0 && (
                <button type="button" className="go" onClick={() => undo(true)}>
                  Take all of it back together
                </button>
              )}
              {acts.length > 0 && (
                <button type="button" className={inTheWay.length > 0 ? "doing" : "go"} onClick={() => undo(false)}>
                  {inTheWay.length > 0
                    ? `only ${acts.length === 1 ? "that one" : `these ${acts.length}`}`
                    : `Take ${acts.length === 1 ? "it" : "them"} back`}
                </button>
              )}
              <button type="button" className="doing" onClick={() => setWhat(undefined)}>
                leave them
              </button>
            </div>
          </>
        )}
      </Dialog>
    </>
  );
}

function Acts({ label, acts }: { label: string; acts: readonly string[] }) {
  return (
    <ol aria-label={label} className="mb-4 max-h-[30vh] overflow-auto border-y border-line" tabIndex={0}>
      {acts.map((act, n) => (
        <li key={n} className="border-b border-line py-1 last:border-0">
          <bdi>{act}</bdi>
        </li>
      ))}
    </ol>
  );
}
