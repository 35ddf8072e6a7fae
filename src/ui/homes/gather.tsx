"use client";
import { useCallback, useEffect, useState } from "react";
import type { GatherInput, GatheringAnswer } from "@/contract/homes";
import type { SweepView } from "@/contract/views";
import { ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { useTrial } from "../kit/trial";

const shownSteps = 8;

/** Everything into one folder, exceptions aside, tried first; and what is gathered set out again exactly. */
export function Gather({ worktops }: { worktops: SweepView["worktops"] }) {
  const live = useLive();
  const [worktop, setWorktop] = useState(worktops[0]?.id ?? "desktop");
  const [title, setTitle] = useState("Gathered");
  const [except, setExcept] = useState("");
  const [evenInUse, setEvenInUse] = useState(false);
  const [list, setList] = useState<GatheringAnswer[]>();
  const exceptions = except
    .split(",")
    .map((word) => word.trim())
    .filter((word) => word !== "");
  const input: GatherInput = {
    worktop,
    title: title.trim() || undefined,
    except: exceptions.length > 0 ? exceptions : undefined,
    evenInUse: evenInUse || undefined,
  };
  const count = worktops.find(({ id }) => id === worktop)?.count ?? 0;
  // Tried again when the number of things changes.
  const { trial, problem } = useTrial(JSON.stringify([input, count]), () => ask("homes/gather", { ...input, dryRun: true }));
  const load = useCallback(() => {
    ask("homes/gatherings", {}).then(setList).catch(live.say);
  }, [live.say]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: read again when the number of things changes
  useEffect(load, [load, worktops.map((one) => one.count).join()]);
  const moves = (trial?.steps ?? []).filter((step) => step.type === "move");
  const inUse = trial?.refused.filter(({ code }) => code === "in-use") ?? [];
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-10 overflow-auto pt-4">
      <section aria-label="gather">
        <h1 className="mb-3 text-[24px] leading-tight font-medium">Everything into one folder, at once.</h1>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void live.act(ask("homes/gather", input)).then(() => setEvenInUse(false));
          }}
        >
          <fieldset className="mb-3 flex gap-5 text-small">
            <legend className="sr-only">which worktop</legend>
            {worktops.map(({ id, count: n }) => (
              <label key={id} className="flex items-center gap-1.5">
                <input
                  type="radio"
                  name="worktop"
                  className="accent-verdigris"
                  checked={worktop === id}
                  onChange={() => setWorktop(id)}
                />
                {id}, {things(n)}
              </label>
            ))}
          </fieldset>
          <label className="mb-3 block text-small text-ink-2">
            into a folder that lies there, called
            <input className="field mt-1" value={title} onChange={(event) => setTitle(event.target.value)} />
          </label>
          <label className="mb-3 block text-small text-ink-2">
            but not these: names, or patterns such as *.pdf, with commas
            <input
              className="field mt-1"
              value={except}
              placeholder="nothing stays"
              onChange={(event) => setExcept(event.target.value)}
            />
          </label>
          {(inUse.length > 0 || evenInUse) && (
            <label className="mb-3 flex items-start gap-2 text-small">
              <input
                type="checkbox"
                className="mt-0.5 accent-verdigris"
                checked={evenInUse}
                onChange={(event) => setEvenInUse(event.target.checked)}
              />
              <span>
                {evenInUse ? "What is in use is taken along too." : `Take the ${things(inUse.length)} in use along too.`}{" "}
                <span className="text-ink-2">
                  A program goes on with what it has open; one that saves by the old name makes it anew where it lay.
                </span>
              </span>
            </label>
          )}
          <button type="submit" className="go" disabled={!trial || trial.done === 0}>
            Gather {trial?.done ?? 0}
          </button>
        </form>
        <div role="status" className="mt-3 text-small text-ink-2">
          {problem && <p className="text-let-go">{problem}</p>}
          {trial && (
            <>
              <p>
                {count - trial.done > 0 ? `${things(count - trial.done)} of ${count} stay. ` : "Nothing stays. "}
                Each comes back to where it lay.
              </p>
              <ul className="mt-1">
                {moves.slice(0, shownSteps).map((step) => (
                  <li key={step.words} className="truncate">
                    {step.words}
                  </li>
                ))}
              </ul>
              {moves.length > shownSteps && <p>and {moves.length - shownSteps} more</p>}
              {trial.refused.map(({ name, why }) => (
                <p key={name}>{why}</p>
              ))}
            </>
          )}
        </div>
      </section>
      <section aria-label="what is gathered" className="flex flex-col">
        <h2 className="mb-3 text-[24px] leading-tight font-medium">What is gathered</h2>
        {list?.length === 0 && (
          <p className="text-ink-2">
            Nothing. A gathering stands here until all of it is set out, also when its folder is renamed or moved.
          </p>
        )}
        <ul className="mb-6">
          {list?.map((gathering) => (
            <li key={gathering.id} className="border-t border-ink py-2">
              <div className="flex items-baseline gap-4">
                <b className="min-w-0 truncate font-[650]">{gathering.place}</b>
                <span className="text-small text-ink-2">
                  {things(gathering.things.length)}, {gathering.when}
                </span>
                <button
                  type="button"
                  className="doing ml-auto"
                  onClick={() => void live.act(ask("homes/set-out", { gathering: gathering.id })).then(load)}
                >
                  set all out<span className="sr-only"> of {gathering.place}</span>
                </button>
              </div>
              <details className="text-small">
                <summary className="doing">just one of them</summary>
                <ul className="mt-1 max-h-[30vh] overflow-auto">
                  {gathering.things.map((thing) => (
                    <li key={thing.id} className="flex items-baseline gap-3 py-px">
                      <Name>{thing.name}</Name>
                      <button
                        type="button"
                        className="doing ml-auto"
                        onClick={() =>
                          void live.act(ask("homes/set-out", { gathering: gathering.id, things: [thing.id] })).then(load)
                        }
                      >
                        set out<span className="sr-only"> {thing.name}</span>
                      </button>
                    </li>
                  ))}
                </ul>
              </details>
            </li>
          ))}
        </ul>
        <p className="mt-auto border-t border-line pt-2 text-small text-ink-2">
          Without this page: a launcher among your programs gathers the desktop at a click, and sets it out again.{" "}
          <button type="button" className="doing" onClick={() => void live.act(ask("settings/launcher", { which: "gather" }))}>
            make the launcher
          </button>{" "}
          <button
            type="button"
            className="doing ml-3"
            onClick={() => void live.act(ask("settings/launcher", { which: "gather", away: true }))}
          >
            take it away
          </button>
        </p>
      </section>
    </div>
  );
}
