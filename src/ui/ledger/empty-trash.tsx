"use client";
import { useState } from "react";
import type { EmptyingAnswer } from "@/contract/ledger";
import { ask } from "../kit/ask";
import { Destroying, Lost, ReadFirst } from "../kit/destroying";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { useWords } from "../kit/words";

const named = 8;

/** The one act that destroys: asked once, with count, size and what exists nowhere else; only what was shown goes. */
export function EmptyTrash() {
  const live = useLive();
  const words = useWords();
  const [what, setWhat] = useState<EmptyingAnswer>();
  const [network, setNetwork] = useState(true);
  const [busy, setBusy] = useState(false);
  const look = () => {
    setBusy(true);
    setNetwork(true);
    ask("ledger/emptying", {})
      .then(setWhat)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const keep = () => setWhat(undefined);
  const erase = () => {
    if (!what) return;
    setWhat(undefined);
    setBusy(true);
    const lost = network ? what.lost : [...what.lost, ...what.far.things];
    void live.act(ask("ledger/empty", { things: what.things, lost, network })).finally(() => setBusy(false));
  };
  return (
    <>
      {/* It keeps the focus while it looks, so that closing leads back to it. */}
      <button
        type="button"
        className="doing ml-auto whitespace-nowrap"
        aria-disabled={busy}
        onClick={() => {
          if (!busy) look();
        }}
      >
        {busy ? "looking" : "empty the trash"}
      </button>
      <Dialog open={what !== undefined} onClose={keep} title="Empty the trash">
        {what && (
          <Destroying destroy={`Erase ${things(what.count)}`} keep="keep them in the trash" onDestroy={erase} onKeep={keep}>
            <p>
              <b className="font-semibold">{things(what.count)}</b>, {words.counted(what.files, "file")},{" "}
              <b className="font-semibold">{what.size}</b> are erased for good.
            </p>
            {what.nowhereElse.length > 0 && (
              <Lost
                title={
                  what.nowhereElse.length === what.count
                    ? "None of it is known to exist anywhere else."
                    : `Nowhere else: ${things(what.nowhereElse.length)} of these.`
                }
              >
                <Named list={what.nowhereElse} />
              </Lost>
            )}
            {what.notKnown.length > 0 && (
              <Lost title={`Not known whether a copy remains: ${things(what.notKnown.length)} of these.`}>
                <Named list={what.notKnown} />
              </Lost>
            )}
            {what.far.things.length > 0 && (
              <ReadFirst
                checked={network}
                onChange={setNetwork}
                words={`Of ${things(what.far.things.length)} the only copy lies in a cloud. Read it back from there first: ${words.bytes(what.far.bytes)}${what.far.seconds === null ? "" : `, about ${words.duration(1000 * what.far.seconds)}`}.`}
              />
            )}
            {what.count > what.lost.length + what.far.things.length && (
              <p className="text-ink-2">
                All else lies in a home, on a worktop or in a parcel too, and is read there, byte for byte, before it is erased
                here. With shortcuts, links and empty things nothing is lost.
              </p>
            )}
          </Destroying>
        )}
      </Dialog>
    </>
  );
}

function Named({ list }: { list: EmptyingAnswer["nowhereElse"] }) {
  return (
    <ul className="mt-1 text-small text-ink-2">
      {list.slice(0, named).map(({ name, why }, n) => (
        <li key={n} className="break-words">
          <bdi>{name}</bdi>
          {why && `: ${why}`}
        </li>
      ))}
      {list.length > named && <li>and {list.length - named} more</li>}
    </ul>
  );
}
