"use client";
import { useEffect, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { ClashAnswer } from "@/contract/sitting";
import type { PileItem, ThingView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Look } from "./look";

/** Something of its name lies in the home already: both side by side, and three ways out. */
export function Clash({
  item,
  home,
  onClose,
  onBoth,
  onTitle,
  onLetGo,
}: {
  item: PileItem;
  home: HomeRef;
  onClose: () => void;
  onBoth: () => void;
  onTitle: (title: string) => void;
  onLetGo: () => void;
}) {
  const live = useLive();
  const [found, setFound] = useState<ClashAnswer>();
  const [title, setTitle] = useState("");
  useEffect(() => {
    let wanted = true;
    ask("sitting/clash", { item: item.id, home }).then(
      (answer) => wanted && setFound(answer),
      (problem: unknown) => {
        if (!wanted) return;
        live.say(problem);
        onClose();
      },
    );
    return () => {
      wanted = false;
    };
  }, [item.id, home, live.say, onClose]);
  return (
    <Dialog open onClose={onClose} title={`${item.name} is there twice`} wide>
      {!found && <p role="status">Looking at both.</p>}
      {found && (
        <>
          <p className="mb-3 text-ink-2">
            {found.same
              ? "They are identical, byte by byte: one of them is enough."
              : "They have the same name, but are not the same."}
          </p>
          <div className="grid grid-cols-2 gap-5">
            <Side thing={found.here} words="this one" />
            <Side thing={found.there} words={`in ${found.home}`} />
          </div>
          <div className="mt-5 flex flex-wrap items-end gap-x-6 gap-y-3">
            <button type="button" className="go" onClick={onBoth}>
              Keep both: this one gets a number
            </button>
            <button type="button" className="doing" onClick={onLetGo}>
              let this one go
            </button>
          </div>
          <form
            className="mt-4 flex items-end gap-4"
            onSubmit={(event) => {
              event.preventDefault();
              if (title.trim()) onTitle(title.trim());
            }}
          >
            <label className="flex-1">
              or give this one a title of its own
              <input
                className="field mt-1"
                value={title}
                maxLength={200}
                placeholder="its ending stays"
                onChange={(event) => setTitle(event.target.value)}
              />
            </label>
            <button type="submit" className="go" disabled={title.trim() === ""}>
              Put it there under that name
            </button>
          </form>
        </>
      )}
    </Dialog>
  );
}

function Side({ thing, words }: { thing: ThingView; words: string }) {
  return (
    <section aria-label={words} className="min-w-0">
      <h3 className="mb-1 text-small font-semibold">{words}</h3>
      <div className="h-[28vh] border border-line">
        <Look thing={thing} />
      </div>
      <p className="mt-1 text-small text-ink-2">{thing.facts.join(" · ")}</p>
    </section>
  );
}
