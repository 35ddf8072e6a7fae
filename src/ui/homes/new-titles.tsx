"use client";
import { useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import { titleWords } from "@/core/homes/titles";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { useTrial } from "../kit/trial";

const patterns = ["{short}", "{date} {name}", "{date} {short}", "{kind} {number}"];

/** New titles by a pattern, tried beside the old ones: while putting things into a home, or where they lie. */
export function NewTitles({
  items,
  home,
  onClose,
}: {
  items: string[];
  home?: { ref: HomeRef; title: string };
  onClose: (report?: ReportJson) => void;
}) {
  const live = useLive();
  const [pattern, setPattern] = useState(patterns[0]!);
  // The parent makes these anew with each of its renderings.
  const [asked] = useState({ items, ref: home?.ref });
  const { trial, problem } = useTrial(
    pattern,
    () => ask("homes/titles", { items: asked.items, title: pattern, home: asked.ref }),
    pattern.trim() !== "",
  );
  const changed = trial?.filter(({ name, title }) => name !== title).length ?? 0;
  const numbered = trial?.filter((one) => one.numbered).length ?? 0;
  const give = () => {
    const work = asked.ref
      ? ask("homes/put", { home: asked.ref, items: asked.items, title: pattern })
      : ask("homes/retitle", { items: asked.items, title: pattern });
    void live.act(work).then((report) => onClose(report));
  };
  const last = home?.title.split(" / ").at(-1);
  const suggested = last ? [...patterns, `${last} {number}`] : patterns;
  return (
    <Dialog open onClose={() => onClose()} title={`New titles for ${things(items.length)}`} wide>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (trial) give();
        }}
      >
        <label className="mb-2 block text-small text-ink-2">
          a pattern: words, and in braces {titleWords.join(", ")}; each keeps its ending
          <input className="field mt-1" value={pattern} data-first onChange={(event) => setPattern(event.target.value)} />
        </label>
        <p className="mb-3 flex flex-wrap gap-x-4 gap-y-1 text-small">
          {suggested.map((one) => (
            <button key={one} type="button" className="doing" aria-pressed={one === pattern} onClick={() => setPattern(one)}>
              {one}
            </button>
          ))}
        </p>
        <div role="status" className="mb-2 text-small text-ink-2">
          {problem ? (
            <p className="text-let-go">{problem}</p>
          ) : trial ? (
            <p>
              {changed === trial.length ? "All get a new title" : `${changed} of ${trial.length} get a new title`}
              {numbered > 0 && `; ${numbered} would be called like another and ${numbered === 1 ? "gets" : "get"} a number`}.
            </p>
          ) : (
            <p>{pattern.trim() === "" ? "Type a pattern." : "Trying."}</p>
          )}
        </div>
        <ul
          tabIndex={0}
          aria-label="old and new titles"
          className="mb-4 max-h-[32vh] overflow-auto border-y border-line text-small"
        >
          {trial?.map(({ id, name, title, numbered: isNumbered }) => (
            <li key={id} className="grid grid-cols-[1fr_16px_1fr] items-baseline gap-2 border-b border-line py-1 last:border-0">
              <Name className="text-ink-2">{name}</Name>
              <span aria-hidden="true" className="text-ink-3">
                →
              </span>
              <Name
                className={`${title === name ? "text-ink-2" : "font-semibold"} ${isNumbered ? "underline decoration-let-go decoration-2" : ""}`}
              >
                {title === name ? "as it is" : title}
              </Name>
            </li>
          ))}
        </ul>
        <div className="flex items-center gap-6">
          <button type="submit" className="go" disabled={!trial || (changed === 0 && !home)}>
            {home ? `Put ${items.length} into ${last} under these names` : "Give them these names"}
          </button>
          <button type="button" className="doing" onClick={() => onClose()}>
            leave them
          </button>
        </div>
      </form>
    </Dialog>
  );
}
