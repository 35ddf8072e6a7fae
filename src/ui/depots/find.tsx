"use client";
import { useState } from "react";
import type { FindAnswer } from "@/contract/depots";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useWords } from "../kit/words";
import { Browse } from "./browse";

/** Files by their names in all parcels, those in depots that are away too. */
export function FindInParcels() {
  const live = useLive();
  const words = useWords();
  const [typed, setTyped] = useState("");
  const [answer, setAnswer] = useState<FindAnswer>();
  const [open, setOpen] = useState<FindAnswer["found"][number]>();
  return (
    <section aria-label="find in parcels" className="border-t border-line py-3">
      <form
        className="flex items-end gap-5"
        onSubmit={(event) => {
          event.preventDefault();
          void ask("depots/find", { words: typed.trim() }).then(setAnswer).catch(live.say);
        }}
      >
        <label className="min-w-0 flex-1 text-small">
          Find a file in all parcels, also where the depot is away
          <input className="field mt-1" value={typed} maxLength={200} onChange={(event) => setTyped(event.target.value)} />
        </label>
        <button type="submit" className="doing" disabled={typed.trim() === ""}>
          find
        </button>
      </form>
      {answer && (
        <div role="status">
          {answer.found.length === 0 && <p className="mt-2 text-ink-2">No parcel holds anything of that name.</p>}
          <ul className="mt-2 text-small">
            {answer.found.map((one) => (
              <li key={`${one.parcel} ${one.path}`} className="flex items-baseline gap-4 border-b border-line py-1">
                <Name className="min-w-0 flex-1 truncate">{one.path}</Name>
                <span className="text-ink-2">{words.bytes(one.bytes)}</span>
                <button type="button" className="doing" onClick={() => setOpen(one)}>
                  {one.title}
                </button>
                <span className="text-ink-2">
                  {one.depot}
                  {one.near ? "" : ", away"}
                </span>
              </li>
            ))}
          </ul>
          {answer.more > 0 && (
            <p className="text-small text-ink-2">and {words.count(answer.more)} more; another word finds fewer</p>
          )}
        </div>
      )}
      {open && (
        <Browse
          parcel={{ id: open.parcel, title: open.title }}
          folder={open.path.includes("/") ? open.path.slice(0, open.path.lastIndexOf("/")) : ""}
          marked={open.path}
          near={open.near}
          onClose={() => setOpen(undefined)}
        />
      )}
    </section>
  );
}
