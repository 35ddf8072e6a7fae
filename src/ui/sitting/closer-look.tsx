"use client";
import { useEffect, useState } from "react";
import type { ThingView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Look } from "./look";

/** One thing looked at closely, from wherever it is drawn. */
export function CloserLook({ item, onClose }: { item?: string; onClose: () => void }) {
  const live = useLive();
  const [thing, setThing] = useState<ThingView>();
  useEffect(() => {
    let wanted = true;
    setThing(undefined);
    if (item)
      ask("sitting/thing", { item })
        .then((found) => wanted && setThing(found))
        .catch((problem: unknown) => {
          if (!wanted) return;
          live.say(problem);
          onClose();
        });
    return () => {
      wanted = false;
    };
  }, [item, live.say, onClose]);
  return (
    <Dialog open={item !== undefined} onClose={onClose} title={thing?.name ?? "Looking"} wide>
      {thing && (
        <>
          <div className="h-[40vh] border border-line">
            <Look thing={thing} />
          </div>
          <p className="mt-3 text-ink-2">{thing.facts.join(" · ")}</p>
          <Proofs thing={thing} />
        </>
      )}
    </Dialog>
  );
}

/** What is known about a thing, and how. */
export function Proofs({ thing }: { thing: ThingView }) {
  return (
    <ul className="mt-2 flex flex-wrap gap-x-6 gap-y-1 border-t border-line pt-2 text-small text-ink-2">
      {thing.proofs.map((proof) => (
        <li key={proof.title} className="min-w-0">
          <b className="block font-semibold text-ink">{proof.title}</b>
          <span className="break-words">{proof.text}</span>
        </li>
      ))}
    </ul>
  );
}
