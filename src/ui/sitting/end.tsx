"use client";
import { type ReactNode, useEffect, useState } from "react";
import type { Outcome, SittingEnd } from "@/contract/views";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { VerdictShape } from "../kit/shapes";
import { UndoMany } from "../ledger/undo-many";

/** The end of a sitting: before and after, what was won, and the way to the trash. */
export function End({
  sitting,
  settled,
  waiting,
  onUndo,
}: {
  sitting: string;
  settled: number;
  /** How many things wait for a later date. */
  waiting: number;
  onUndo: () => void;
}) {
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
        <p className="flex gap-6">
          {waiting > 0 && (
            <Link className="doing" href="/sitting?sheet=undecided">
              what is undecided
            </Link>
          )}
          <Link className="doing" href="/survey">
            back to the survey
          </Link>
        </p>
      </div>
    );
  return (
    <div className="grid h-full place-content-center justify-items-center gap-6 text-center">
      <h1 className="text-[30px] font-medium">Everything has a verdict.</h1>
      {end && (
        <>
          <div className="flex items-end gap-10" aria-label={`before ${end.before} things, after ${end.after}`} role="img">
            {end.drawn ? (
              <>
                <Plan {...end.drawn} places={end.drawn.before} words={`${end.before} before`} />
                <Plan {...end.drawn} places={end.drawn.after} words={`${end.after} after`} />
              </>
            ) : (
              <>
                <Heap n={end.before} words="before" />
                <Heap n={end.after} words="after" />
              </>
            )}
          </div>
          <table className="text-left">
            <caption className="sr-only">what was won</caption>
            <thead className="text-small text-ink-2">
              <tr>
                <th scope="col">
                  <span className="sr-only">figure</span>
                </th>
                <th scope="col" className="px-6 text-right font-normal">
                  before
                </th>
                <th scope="col" className="text-right font-normal">
                  after
                </th>
              </tr>
            </thead>
            <tbody>
              {end.won.map(({ figure, before, after }) => (
                <tr key={figure}>
                  <th scope="row" className="font-normal text-ink-2">
                    {figure}
                  </th>
                  <td className="px-6 text-right tabular-nums">{before}</td>
                  <td className="text-right font-semibold tabular-nums">{after}</td>
                </tr>
              ))}
            </tbody>
          </table>
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
            {end.went.note > 0 && (
              <Went
                verdict="note"
                words={`${things(end.went.note)} ${end.went.note === 1 ? "is a note now" : "are notes now"}, in the home for notes.`}
              />
            )}
            {end.went.archive > 0 && (
              <Went
                verdict="archive"
                words={
                  end.parcel
                    ? `${things(end.went.archive)} ${end.went.archive === 1 ? "is" : "are"} in the parcel “${end.parcel}”, not sent yet, and still here.`
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
                words={`${things(end.went["let go"])} went to the trash, and ${end.went["let go"] === 1 ? "comes" : "come"} back from there.`}
              >
                <Link className="doing" href="/ledger?sheet=trash">
                  see or empty it
                </Link>
              </Went>
            )}
          </ul>
          {end.went["let go"] > 0 && (
            <p className="max-w-[560px] text-small text-ink-2">
              The trash is no backup: other programs empty it too. It can be emptied now, or later, from the ledger.
            </p>
          )}
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

type Drawn = NonNullable<SittingEnd["drawn"]>;

const tones: Partial<Record<Outcome, string>> = {
  stay: "var(--stay)",
  "put away": "var(--put)",
  note: "var(--put)",
  archive: "var(--archive)",
  wait: "var(--wait)",
  "let go": "var(--let-go)",
};
const drawnWidth = 300;

/** The desktop to scale: what left stands in the tone of its verdict, what lies there still in ink. */
function Plan({
  width,
  height,
  icon,
  places,
  words,
}: Pick<Drawn, "width" | "height" | "icon"> & { places: Drawn["before"]; words: string }) {
  const isGone = (verdict?: Outcome) => verdict === "put away" || verdict === "let go" || verdict === "note";
  return (
    <div>
      <svg
        aria-hidden="true"
        viewBox={`0 0 ${width} ${height}`}
        width={drawnWidth}
        height={(drawnWidth * height) / width}
        className="block border border-ink bg-sheet"
      >
        {places.map(({ x, y, verdict }, n) => (
          <rect
            key={n}
            x={x}
            y={y}
            width={icon.width}
            height={icon.height}
            fill={isGone(verdict) ? tones[verdict!] : "var(--ink)"}
            opacity={isGone(verdict) ? 0.6 : 1}
          />
        ))}
      </svg>
      <b className="mt-2 block font-medium">{words}</b>
    </div>
  );
}

function Went({ verdict, words, children }: { verdict: Outcome; words: string; children?: ReactNode }) {
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
