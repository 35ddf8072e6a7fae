"use client";
import { useEffect, useState } from "react";
import type { ProvenThing } from "@/contract/survey";
import type { FindingView } from "@/contract/views";
import type { SettlingKind } from "@/core/survey/findings";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLeftOut } from "../kit/left-out";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";

/** The trial of settling a finding: what would go, with the proof for each; single things are left out; one act, one undo. */
export function Settle({ finding, onClose }: { finding: FindingView; onClose: () => void }) {
  const live = useLive();
  const [leftOut, toggle] = useLeftOut();
  const [each, setEach] = useState<ProvenThing[]>();
  useEffect(() => {
    ask("survey/finding", { finding: finding.kind })
      .then(setEach)
      .catch((problem: unknown) => {
        live.say(problem);
        onClose();
      });
  }, [finding.kind, live.say, onClose]);
  const going = (each ?? []).filter(({ id }) => !leftOut.has(id));
  const settle = () => {
    onClose();
    void live.act(ask("survey/settle", { finding: finding.kind as SettlingKind, items: going.map(({ id }) => id) }));
  };
  return (
    <Dialog open onClose={onClose} title={finding.title} wide>
      <p className="mb-3 text-ink-2">
        They go to the trash, and come back from there to their exact place. Each is checked once more at the moment it goes.
      </p>
      {!each && <p role="status">Looking at each of them.</p>}
      <ul className="mb-4 max-h-[38vh] overflow-auto border-y border-line">
        {each?.map(({ id, name, proof, size, worktop }) => (
          <li key={id} className="border-b border-line last:border-0">
            <label className="flex items-start gap-3 py-1.5">
              <input
                type="checkbox"
                className="mt-1 size-4 shrink-0 accent-verdigris"
                checked={!leftOut.has(id)}
                onChange={() => toggle(id)}
              />
              <span className="min-w-0 flex-1">
                <span className="flex items-baseline gap-3">
                  <Name className="font-[650]">{name}</Name>
                  <span className="ml-auto shrink-0 text-small text-ink-2">
                    {size}
                    {worktop === "downloads" ? ", in downloads" : ""}
                  </span>
                </span>
                <span className="block text-small text-ink-2">{proof}</span>
              </span>
            </label>
          </li>
        ))}
      </ul>
      {finding.wins && leftOut.size === 0 && <p className="mb-4">What it wins: {finding.wins}.</p>}
      <div className="flex items-center gap-6">
        <button type="button" className="go" disabled={going.length === 0} onClick={settle}>
          Let go of {things(going.length)}
        </button>
        <button type="button" className="doing" onClick={onClose}>
          leave them all
        </button>
      </div>
    </Dialog>
  );
}
