"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, useState } from "react";
import type { ReportJson } from "@/contract/items";
import { deepest, type PlannedHome, type Split, splits, widest } from "@/core/homes/filing-plan";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";

const rowHeight = 30;
/** The width of a bar that reaches the limit, in pixels; what is beyond is drawn up to as much again. */
const limitWidth = 220;

/** The tree of homes to one scale: a bar for what lies in each, the limit as a rule through all of them. */
export function FilingPlan({ homes }: { homes: PlannedHome[] }) {
  const scroll = useRef<HTMLDivElement>(null);
  const [splitting, setSplitting] = useState<PlannedHome>();
  const wide = homes.filter((home) => home.tooWide).length;
  const deep = homes.filter((home) => home.tooDeep).length;
  const virtual = useVirtualizer({
    count: homes.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  const said = [
    wide > 0 ? `${wide === 1 ? "one is" : `${wide} are`} too wide` : "",
    deep > 0 ? `${deep === 1 ? "one is" : `${deep} are`} too deep` : "",
  ].filter(Boolean);
  return (
    <>
      <div className="mt-4 mb-2 flex items-baseline gap-4">
        <h1 className="text-[24px] leading-tight font-medium">
          <b className="border-b-2 border-verdigris font-bold">{homes.length === 1 ? "1 home" : `${homes.length} homes`}</b>
          {said.length > 0 ? `; ${said.join(" and ")}.` : "; none is too wide or too deep."}
        </h1>
        <span className="ml-auto text-[13px] text-ink-2">
          more than {widest} files are called too wide, more than {deepest} folders down too deep
        </span>
      </div>
      <div ref={scroll} className="min-h-0 flex-1 overflow-auto border-t border-ink">
        <ul aria-label="the filing plan" className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((row) => {
            const home = homes[row.index]!;
            return <Row key={home.id} home={home} top={row.start} onSplit={() => setSplitting(home)} />;
          })}
        </ul>
      </div>
      {splitting && <SplitTrial home={splitting} onClose={() => setSplitting(undefined)} />}
    </>
  );
}

function Row({ home, top, onSplit }: { home: PlannedHome; top: number; onSplit: () => void }) {
  const within = Math.min(home.files, widest) / widest;
  const beyond = Math.min(1, Math.max(0, (home.files - widest) / (9 * widest)));
  return (
    <li className="absolute inset-x-0 flex items-center border-b border-line" style={{ top, height: rowHeight }}>
      <span className="w-[42%] min-w-0 truncate" style={{ paddingLeft: home.depth * 20 }}>
        {home.depth > 0 && (
          <span aria-hidden="true" className="mr-2 inline-block h-2.5 w-2.5 -translate-y-1 border-b border-l border-ink-3" />
        )}
        <bdi className={home.depth === 0 ? "font-[650]" : ""}>{home.name}</bdi>
        {home.tooDeep && <b className="ml-3 text-small font-semibold text-let-go">{home.depth + 1} deep</b>}
      </span>
      <span aria-hidden="true" className="relative h-full shrink-0 border-l border-line" style={{ width: 2 * limitWidth + 8 }}>
        <span className="absolute top-2 bottom-2 left-0 bg-ink-3" style={{ width: within * limitWidth }} />
        <span
          className="absolute top-2 bottom-2 bg-let-go"
          style={{ left: limitWidth, width: home.tooWide ? 3 + beyond * limitWidth : 0 }}
        />
        <span className="absolute inset-y-0 border-l border-ink" style={{ left: limitWidth }} />
      </span>
      <span className="ml-3 text-small text-ink-2">
        {home.files === 1 ? "1 file" : `${home.files} files`}
        {home.within > home.files && `, ${home.within} with what is below`}
      </span>
      {home.tooWide && (
        <button type="button" className="doing ml-auto text-small" onClick={onSplit}>
          too wide: split it<span className="sr-only"> {home.name}</span>
        </button>
      )}
    </li>
  );
}

const ofSplit: Record<Split, string> = {
  year: "by year, as last changed",
  kind: "by kind",
  project: "by what the names begin with",
};

/** What a split would come to, by each way, before it is done. */
function SplitTrial({ home, onClose }: { home: PlannedHome; onClose: () => void }) {
  const live = useLive();
  const [by, setBy] = useState<Split>("year");
  const [trials, setTrials] = useState<Partial<Record<Split, ReportJson>>>({});
  useEffect(() => {
    for (const way of splits)
      ask("homes/split", { home: { id: home.id }, by: way, dryRun: true })
        .then((report) => setTrials((before) => ({ ...before, [way]: report })))
        .catch((problem: unknown) => {
          live.say(problem);
          onClose();
        });
  }, [home.id, live.say, onClose]);
  const trial = trials[by];
  const folders = (trial?.steps ?? []).filter((step) => step.type === "make-folder");
  return (
    <Dialog open onClose={onClose} title={`Split ${home.name}, ${home.files} files`} wide>
      <fieldset className="mb-4 grid gap-1.5">
        <legend className="mb-2 text-ink-2">
          Into folders below it; what has fewer than three of its like stays where it is.
        </legend>
        {splits.map((way) => {
          const moved = trials[way]?.done;
          return (
            <label key={way} className="flex items-baseline gap-2">
              <input
                type="radio"
                name="by"
                className="self-center accent-verdigris"
                checked={by === way}
                onChange={() => setBy(way)}
              />
              {ofSplit[way]}
              <span className="ml-auto text-small text-ink-2">
                {moved === undefined
                  ? "trying"
                  : moved === 0
                    ? "would split nothing"
                    : `${moved} move, ${home.files - moved} stay`}
              </span>
            </label>
          );
        })}
      </fieldset>
      <ul className="mb-4 max-h-[30vh] overflow-auto border-y border-line py-1 text-small text-ink-2">
        {folders.map((step) => (
          <li key={step.words}>{step.subject}</li>
        ))}
        {trial && folders.length === 0 && <li>No new folder.</li>}
      </ul>
      <div className="flex items-center gap-6">
        <button
          type="button"
          className="go"
          disabled={!trial || trial.done === 0}
          onClick={() => {
            onClose();
            void live.act(ask("homes/split", { home: { id: home.id }, by }));
          }}
        >
          Split it
        </button>
        <button type="button" className="doing" onClick={onClose}>
          leave it
        </button>
      </div>
    </Dialog>
  );
}
