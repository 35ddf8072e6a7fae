"use client";
import { useState } from "react";
import type { SuggestedHome } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import { ask } from "../kit/ask";
import { useLeftOut } from "../kit/left-out";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";

const shownNames = 6;

/** A small set of new homes, suggested by what lies there and changed by hand: made empty, or made and filled, as one act. */
export function Prepare({ suggested }: { suggested: SuggestedHome[] }) {
  const live = useLive();
  const [leftOut, toggle] = useLeftOut();
  const [titles, setTitles] = useState<Record<string, string>>({});
  const [trial, setTrial] = useState<ReportJson>();
  const [busy, setBusy] = useState(false);
  const wanted = suggested
    .filter(({ title }) => !leftOut.has(title))
    .map((home) => ({ ...home, as: (titles[home.title] ?? home.title).trim() }))
    .filter((home) => home.as !== "");
  const going = wanted.reduce((sum, home) => sum + home.things.length, 0);
  const filling = () => ({ homes: wanted.map(({ as, things: of }) => ({ home: { title: as }, items: of.map(({ id }) => id) })) });
  const run = (work: Promise<ReportJson>) => {
    setBusy(true);
    setTrial(undefined);
    void live.act(work).finally(() => setBusy(false));
  };
  const tryIt = () => {
    setBusy(true);
    ask("homes/sweep", { ...filling(), dryRun: true })
      .then(setTrial)
      .catch(live.say)
      .finally(() => setBusy(false));
  };
  const changed = () => setTrial(undefined);
  if (suggested.length === 0)
    return (
      <div className="grid flex-1 place-content-center gap-3 text-center">
        <h1 className="text-say font-medium">No new home is needed.</h1>
        <p className="text-ink-2">All that lies there fits a home, has a verdict, or is on its way.</p>
      </div>
    );
  return (
    <>
      <h1 className="mt-4 mb-1 text-[24px] leading-tight font-medium">
        <b className="border-b-2 border-verdigris font-bold">{suggested.length} new homes</b> would take what fits nowhere yet.
      </h1>
      <p className="mb-3 text-small text-ink-2">
        Change their names, a slash goes deeper; leave out what you do not want. New ones lie in the documents, those that begin
        with Desktop on the desktop itself, where they stay.
      </p>
      <ul className="min-h-0 flex-1 overflow-auto border-t border-ink">
        {suggested.map(({ title, why, things: of }) => {
          const out = leftOut.has(title);
          return (
            <li
              key={title}
              className={`grid grid-cols-[20px_minmax(0,280px)_90px_minmax(0,1fr)] items-baseline gap-4 border-b border-line py-2 ${out ? "text-ink-2" : ""}`}
            >
              <input
                type="checkbox"
                className="size-4 self-center accent-verdigris"
                aria-label={`make ${title}`}
                checked={!out}
                onChange={() => {
                  toggle(title);
                  changed();
                }}
              />
              <input
                className="field font-[650]"
                aria-label={`the name of the home suggested as ${title}`}
                value={titles[title] ?? title}
                disabled={out}
                onChange={(event) => {
                  setTitles((before) => ({ ...before, [title]: event.target.value }));
                  changed();
                }}
              />
              <span className="text-small text-ink-2">{things(of.length)}</span>
              <span className="min-w-0 text-small text-ink-2">
                <span className="block truncate">{why}</span>
                <span className="block truncate">
                  {of.slice(0, shownNames).map(({ id, name }, n) => (
                    <span key={id}>
                      {n > 0 && " · "}
                      <bdi>{name}</bdi>
                    </span>
                  ))}
                  {of.length > shownNames && ` · and ${of.length - shownNames} more`}
                </span>
              </span>
            </li>
          );
        })}
      </ul>
      <div className="flex items-center gap-6 border-t-2 border-ink pt-3">
        <button type="button" className="go" disabled={busy || going === 0} onClick={() => run(ask("homes/sweep", filling()))}>
          Make {wanted.length} and fill {wanted.length === 1 ? "it" : "them"}
        </button>
        <button
          type="button"
          className="doing"
          disabled={busy || wanted.length === 0}
          onClick={() => run(ask("homes/add", { homes: wanted.map(({ as }) => ({ title: as })) }))}
        >
          make them without filling them
        </button>
        <button type="button" className="doing" disabled={busy || going === 0} onClick={tryIt}>
          try it first
        </button>
        <p role="status" className="min-w-0 text-small text-ink-2">
          {trial &&
            `${things(trial.done)} would move; ${
              trial.refused.length === 0 ? "nothing stands in the way" : trial.refused.map(({ why }) => why).join(" ")
            }. One undo takes all of it back.`}
        </p>
      </div>
    </>
  );
}
