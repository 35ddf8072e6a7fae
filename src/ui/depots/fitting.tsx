"use client";
import { useState } from "react";
import type { FitAnswer } from "@/contract/depots";
import { ask } from "../kit/ask";
import { useAsked } from "../kit/asked";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";

type Fitted = FitAnswer["parcels"][number];

const nothing = {};

/** Where each of several parcels has room beside the others; sent as they are shown. */
export function Fitting({ onClose }: { onClose: () => void }) {
  const live = useLive();
  const words = useWords();
  const answer = useAsked("depots/fit", nothing);
  const [cutting, setCutting] = useState<Fitted>();
  if (cutting) return <Cut cut={cutting} onClose={onClose} />;
  const fitting = answer?.parcels.filter(({ depotId }) => depotId !== null) ?? [];
  const send = async () => {
    onClose();
    for (const { id, depotId } of fitting)
      if (depotId !== null) await live.act(ask("depots/send", { parcel: id, depot: depotId, wait: false }));
  };
  return (
    <Dialog open onClose={onClose} title="Where they have room">
      {!answer && <p className="text-ink-2">The depots are being asked.</p>}
      {answer?.parcels.length === 0 && <p className="text-ink-2">No parcel waits to be sent.</p>}
      <ul className="mb-4">
        {answer?.parcels.map((parcel) => (
          <li key={parcel.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-line py-1.5">
            <b className="font-semibold">{parcel.title}</b>
            <span className="text-ink-2">{words.bytes(parcel.bytes)}</span>
            <span className="ml-auto">{parcel.depot ? `to ${parcel.depot}` : "has room nowhere as a whole"}</span>
            {!parcel.depot && (
              <button type="button" className="doing" onClick={() => setCutting(parcel)}>
                see how it could be cut
              </button>
            )}
          </li>
        ))}
      </ul>
      {fitting.length > 0 && (
        <button type="button" className="go" onClick={() => void send()}>
          {fitting.length === 1 ? "Send that one" : `Send these ${words.count(fitting.length)}`}
        </button>
      )}
    </Dialog>
  );
}

/** How a parcel could be cut between its things, so that each part has room. */
export function Cut({ cut, onClose }: { cut: Fitted; onClose: () => void }) {
  const live = useLive();
  const words = useWords();
  const [first, ...rest] = cut.parts;
  const doIt = async () => {
    onClose();
    for (const [n, part] of rest.entries())
      await live.act(ask("depots/move", { items: part.items, parcel: `${cut.title}, part ${n + 2}` }));
  };
  return (
    <Dialog open onClose={onClose} title={`Room for “${cut.title}”`}>
      {cut.depot && <p className="mb-3">As a whole it has room in {cut.depot}.</p>}
      {!cut.depot && cut.parts.length === 0 && <p className="mb-3">No depot in reach has room for any of it.</p>}
      {!cut.depot && cut.parts.length > 0 && (
        <>
          <p className="mb-3 text-ink-2">
            It can be cut between its things, never within one. Each part becomes a parcel that you send by itself.
          </p>
          <ul className="mb-3">
            {cut.parts.map((part) => (
              <li key={part.depot}>
                {words.counted(part.things, "thing")}, {words.bytes(part.bytes)}, for{" "}
                <b className="font-semibold">{part.depot}</b>
              </li>
            ))}
          </ul>
        </>
      )}
      {cut.tooLarge.length > 0 && (
        <p className="mb-3 text-ink-2">
          Too large for what is free anywhere:{" "}
          {cut.tooLarge.map(({ name, bytes }) => `${name} (${words.bytes(bytes)})`).join(", ")}.
          {first ? " It stays in the first part." : ""}
        </p>
      )}
      {rest.length > 0 && (
        <button type="button" className="go" onClick={() => void doIt()}>
          Cut it
        </button>
      )}
    </Dialog>
  );
}
