"use client";
import { useState } from "react";
import type { EmptyingAnswer } from "@/contract/ledger";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";

const named = 8;

/** The one act that destroys: asked once, with count, size and what exists nowhere else; only what was shown goes. */
export function EmptyTrash() {
  const live = useLive();
  const [what, setWhat] = useState<EmptyingAnswer>();
  const [busy, setBusy] = useState(false);
  const look = () => {
    setBusy(true);
    ask("ledger/emptying", {})
      .then(setWhat)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const erase = () => {
    if (!what) return;
    setWhat(undefined);
    setBusy(true);
    void live.act(ask("ledger/empty", { things: what.things })).finally(() => setBusy(false));
  };
  return (
    <>
      <button type="button" className="doing ml-auto whitespace-nowrap" disabled={busy} onClick={look}>
        {busy ? "looking" : "empty the trash"}
      </button>
      <Dialog open={what !== undefined} onClose={() => setWhat(undefined)} title="Empty the trash">
        {what && (
          <>
            <p className="mb-3">
              <b className="font-semibold">{things(what.count)}</b>, {what.files === 1 ? "1 file" : `${what.files} files`},{" "}
              <b className="font-semibold">{what.size}</b> are erased for good.
            </p>
            {what.nowhereElse.length === 0 ? (
              <p className="mb-5 text-ink-2">
                All of it was found in a home, on a worktop or in a parcel too, byte for byte; shortcuts, links and empty things
                aside, with which nothing is lost.
              </p>
            ) : (
              <div className="mb-5 border-l-4 border-let-go pl-3">
                <p className="font-semibold">
                  {what.nowhereElse.length === what.count
                    ? "None of it exists anywhere else."
                    : `Nowhere else: ${things(what.nowhereElse.length)} of these.`}
                </p>
                <ul className="mt-1 text-small text-ink-2">
                  {what.nowhereElse.slice(0, named).map((name, n) => (
                    <li key={n} className="truncate">
                      <bdi>{name}</bdi>
                    </li>
                  ))}
                  {what.nowhereElse.length > named && <li>and {what.nowhereElse.length - named} more</li>}
                </ul>
              </div>
            )}
            <div className="flex items-center gap-6">
              <button type="button" className="go" onClick={erase}>
                Erase {things(what.count)}
              </button>
              <button type="button" className="doing" onClick={() => setWhat(undefined)}>
                keep them in the trash
              </button>
            </div>
          </>
        )}
      </Dialog>
    </>
  );
}
