"use client";
import { useState } from "react";
import type { DepotView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";

const giga = 1e9;
const firstGigabytes = 5;

/** Whether a depot is read over in turn by itself; of a cloud, where reading may cost, how much of it a month. */
export function Checks({ depot }: { depot: DepotView }) {
  const live = useLive();
  const words = useWords();
  const [asking, setAsking] = useState(false);
  const [typed, setTyped] = useState(String((depot.checks.bytesAMonth ?? firstGigabytes * giga) / giga));
  const { on, bytesAMonth } = depot.checks;
  const set = (next: boolean, bytes?: number) =>
    void live.act(ask("depots/checks", { depot: depot.id, on: next, bytesAMonth: bytes }));
  const gigabytes = Number(typed.replace(",", "."));
  const isBound = Number.isFinite(gigabytes) && gigabytes > 0;
  const cloud = depot.kind === "cloud";
  return (
    <>
      <button type="button" className="doing" onClick={() => (cloud && !on ? setAsking(true) : set(!on))}>
        {on ? "stop checking it by itself" : "check it by itself, in turn"}
      </button>
      {cloud && on && bytesAMonth !== undefined && (
        <button type="button" className="doing" onClick={() => setAsking(true)}>
          reads {words.bytes(bytesAMonth)} a month at most
        </button>
      )}
      {asking && (
        <Dialog open onClose={() => setAsking(false)} title={`Check ${depot.title} by itself`}>
          <p className="mb-3 text-ink-2">
            Each parcel is read over every 90 days and compared. Reading may cost something there: say how much a month is fine. A
            parcel larger than that is read only when you ask for it.
          </p>
          <form
            onSubmit={(event) => {
              event.preventDefault();
              setAsking(false);
              set(true, Math.max(1, Math.round(gigabytes * giga)));
            }}
          >
            <label className="mb-4 block">
              Gigabytes a month at most
              <input
                className="field mt-1"
                inputMode="decimal"
                value={typed}
                aria-invalid={!isBound}
                onChange={(event) => setTyped(event.target.value)}
              />
            </label>
            <button type="submit" className="go" disabled={!isBound}>
              Check it in turn
            </button>
          </form>
        </Dialog>
      )}
    </>
  );
}
