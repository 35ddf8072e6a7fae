"use client";
import { useState } from "react";
import type { ProposalView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";

/** What could go to a depot, thing by thing: what shall not is left out before it is collected. */
export function Proposal({ proposal, onClose }: { proposal: ProposalView; onClose: () => void }) {
  const live = useLive();
  const words = useWords();
  const [out, setOut] = useState<ReadonlySet<string>>(new Set());
  const [title, setTitle] = useState(proposal.title);
  const going = proposal.things.filter(({ id }) => !out.has(id));
  const leave = (id: string) => {
    const next = new Set(out);
    if (!next.delete(id)) next.add(id);
    setOut(next);
  };
  const bytes = proposal.bytes - proposal.things.reduce((sum, thing) => sum + (out.has(thing.id) ? thing.bytes : 0), 0);
  return (
    <Dialog open wide onClose={onClose} title={proposal.title}>
      <p className="mb-3 text-ink-2">{proposal.words}. Leave out what is to stay; nothing happens to it.</p>
      <ul className="max-h-[40vh] overflow-auto border-y border-line" tabIndex={0} aria-label="things that would go">
        {proposal.things.map((thing) => (
          <li key={thing.id} className="border-b border-line">
            <label className="flex items-baseline gap-3 py-1">
              <input
                type="checkbox"
                className="size-6 shrink-0 self-center accent-verdigris"
                checked={!out.has(thing.id)}
                onChange={() => leave(thing.id)}
              />
              <Name className={`min-w-0 flex-1 truncate ${out.has(thing.id) ? "text-ink-2 line-through" : ""}`}>
                {thing.name}
              </Name>
              <span className="whitespace-nowrap text-ink-2">{thing.size}</span>
            </label>
          </li>
        ))}
        {proposal.more > 0 && (
          <li className="py-1 text-ink-2">
            and {words.count(proposal.more)} more, which go too; in the parcel each can be taken out again
          </li>
        )}
      </ul>
      <form
        className="mt-4 flex items-end gap-5"
        onSubmit={(event) => {
          event.preventDefault();
          const input = { proposal: proposal.id, except: [...out], title: title.trim() };
          void live.act(ask("depots/propose", input)).then((report) => report && onClose());
        }}
      >
        <label className="min-w-0 flex-1">
          The parcel is called
          <input className="field mt-1" value={title} maxLength={120} onChange={(event) => setTitle(event.target.value)} />
        </label>
        <button type="submit" className="go" disabled={going.length + proposal.more === 0 || title.trim() === ""}>
          Collect {words.counted(going.length + proposal.more, "thing")}, {words.bytes(bytes)}
        </button>
      </form>
    </Dialog>
  );
}
