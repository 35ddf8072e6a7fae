"use client";
import { useState } from "react";
import type { LeaveAnswer } from "@/contract/settings";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";

/** Everything back as it was without Vuoto: what that is, shown first. */
export function Leaving() {
  const live = useLive();
  const words = useWords();
  const [trial, setTrial] = useState<LeaveAnswer>();
  const [busy, setBusy] = useState(false);
  const look = () => {
    if (busy) return;
    setBusy(true);
    ask("settings/leave", { dryRun: true })
      .then(setTrial)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const leave = () => {
    setTrial(undefined);
    ask("settings/leave", {})
      .then(({ reports }) => {
        const left = reports.flatMap(({ refused }) => refused.map(({ why }) => why));
        if (left.length > 0) live.tell("Some of it could not be done:", left);
        else
          live.tell(
            "This was done, and each can be undone:",
            reports.map(({ words: act }) => act),
          );
      })
      .catch(live.say);
  };
  const nothing = trial?.reports.length === 0;
  return (
    <>
      <p className="mb-3 text-ink-2">
        Everything comes back in sight, what is under way ends, and what Vuoto put among your programs and at log-in goes. What
        you decided stays in its record, and each can be undone.
      </p>
      <button type="button" className="doing" aria-disabled={busy} onClick={look}>
        leave everything as it was without Vuoto
      </button>
      <Dialog open={trial !== undefined} onClose={() => setTrial(undefined)} title="Leave everything as it was without Vuoto">
        {trial && (
          <>
            {nothing && (
              <p className="mb-4">
                It is so already: nothing is out of sight, and nothing of Vuoto's is left among your programs.
              </p>
            )}
            {!nothing && (
              <ul className="mb-4 border-y border-line">
                {trial.reports.map(({ words: act }, n) => (
                  <li key={n} className="border-b border-line py-1 last:border-0">
                    <bdi>{act}</bdi>
                  </li>
                ))}
              </ul>
            )}
            {trial.begins.map(({ title, at }) => (
              <p key={title} className="mb-3 text-ink-2">
                “{title}” begins again {words.dateTime(Date.parse(at))}, if Vuoto runs then.
              </p>
            ))}
            <div className="flex items-center gap-6">
              {!nothing && (
                <button type="button" className="go" onClick={leave}>
                  Do it
                </button>
              )}
              <button type="button" className="doing" onClick={() => setTrial(undefined)}>
                {nothing ? "close this" : "keep it as it is"}
              </button>
            </div>
          </>
        )}
      </Dialog>
    </>
  );
}
