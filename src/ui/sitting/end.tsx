"use client";
import Link from "next/link";
import { type ReactNode, useEffect, useState } from "react";
import type { SittingEnd, Verdict } from "@/contract/views";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { VerdictShape } from "../kit/shapes";
import { UndoMany } from "../ledger/undo-many";

/** The end of a sitting: before and after, what was won, and the way to the trash. */
export function End({ sitting, settled, onUndo }: { sitting: string; settled: number; onUndo: () => void }) {
  const live = useLive();
  const [end, setEnd] = useState<SittingEnd>();
  useEffect(() => {
    if (settled === 0) return;
    // The last verdict may still be on its way.
    const timer = setTimeout(() => ask("sitting/end", { sitting }).then(setEnd).catch(live.say), 300);
    return () => clearTimeout(timer);
  }, [sitting, settled, live.say]);
  if (settled === 0)
    return (
      <div className="grid h-full place-content-center justify-items-center gap-4 text-center">
        <h1 className="text-[30px] font-medium">Nothing waits for a verdict.</h1>
        <p className="text-ink-2">What stays on purpose or waits for its date comes up again when it is due.</p>
        <Link className="doing" href="/survey">
          back to the survey
        </Link>
      </div>
    );
  return (
    <div className="grid h-full place-content-center justify-items-center gap-6 text-center">
      <h1 className="text-[30px] font-medium">Everything has a verdict.</h1>
      {end && (
        <>
          <div className="flex items-end gap-14" aria-label={`before ${end.before} things, after ${end.after}`} role="img">
            <Heap n={end.before} words="before" />
            <Heap n={end.after} words="after" />
          </div>
          <p className="text-ink-2">
            <b className="font-semibold text-ink">{end.settled}</b> settled in this sitting,{" "}
            <b className="font-semibold text-ink">{end.freed}</b> moved off the worktops.
          </p>
          <ul className="grid justify-items-start gap-2 text-left" aria-label="where everything went">
            {end.went.stay > 0 && (
              <Went
                verdict="stay"
                words={`${things(end.went.stay)} ${end.went.stay === 1 ? "stays where it lies" : "stay where they lie"}.`}
              />
            )}
            {end.went.wait > 0 && (
              <Went
                verdict="wait"
                words={`${things(end.went.wait)} ${end.went.wait === 1 ? "waits, and comes" : "wait, and come"} up again when it is time.`}
              />
            )}
            {end.went["put away"] > 0 && (
              <Went
                verdict="put away"
                words={`${things(end.went["put away"])} ${end.went["put away"] === 1 ? "lies in its home" : "lie in their homes"}.`}
              />
            )}
            {end.went.archive > 0 && (
              <Went
                verdict="archive"
                words={
                  end.parcel
                    ? `${things(end.went.archive)} ${end.went.archive === 1 ? "is" : "are"} collected in “${end.parcel}”, not sent yet, and still here.`
                    : `${things(end.went.archive)} ${end.went.archive === 1 ? "was" : "were"} sent to a depot.`
                }
              >
                {end.parcel && (
                  <Link className="doing" href="/depots">
                    send them
                  </Link>
                )}
              </Went>
            )}
            {end.went["let go"] > 0 && (
              <Went
                verdict="let go"
                words={`${things(end.went["let go"])} ${end.went["let go"] === 1 ? "lies in the trash, and comes" : "lie in the trash, and come"} back from there.`}
              >
                <Link className="doing" href="/ledger?sheet=trash">
                  see or empty it
                </Link>
              </Went>
            )}
          </ul>
        </>
      )}
      <p className="flex gap-6">
        <button type="button" className="doing" onClick={onUndo}>
          undo the last <KeyOf command="undo" />
        </button>
        <UndoMany
          which={{ sitting }}
          words="undo the whole sitting"
          title="Undo the whole sitting"
          onUndone={() => window.location.reload()}
        />
      </p>
    </div>
  );
}

function Went({ verdict, words, children }: { verdict: Verdict; words: string; children?: ReactNode }) {
  return (
    <li className="flex items-center gap-3">
      <VerdictShape verdict={verdict} size={15} />
      <span>{words}</span>
      {children}
    </li>
  );
}

const columns = 16;

function Heap({ n, words }: { n: number; words: string }) {
  const rows = Math.ceil(Math.min(n, 400) / columns);
  return (
    <div>
      <svg aria-hidden="true" width={Math.min(columns, n) * 9} height={Math.max(9, rows * 10)} className="mx-auto block">
        {Array.from({ length: Math.min(n, 400) }, (_, i) => (
          <rect
            key={i}
            x={(i % columns) * 9}
            y={Math.max(0, rows - 1 - Math.floor(i / columns)) * 10}
            width={7}
            height={8}
            fill="var(--ink)"
          />
        ))}
      </svg>
      <b className="mt-2 block text-[30px] leading-none font-medium">{n}</b>
      <span className="text-small text-ink-2">{words}</span>
    </div>
  );
}
