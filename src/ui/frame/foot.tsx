"use client";
import { useEffect, useState } from "react";
import type { JobLine } from "@/contract/views";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { give } from "../kit/keys";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";
import { awayWords } from "../quiet/away-words";

/** The last act with its undo, running jobs, and whether things are out of sight. */
export function Foot({ onKeys }: { onKeys: () => void }) {
  const live = useLive();
  const words = useWords();
  const { last, waiting, outOfSight, believed, level, arrived, endsSoon, recovered } = live.frame;
  const [toldOf, setToldOf] = useState(false);
  return (
    <footer className="border-t border-line text-[13px] text-ink-2">
      <div aria-live="polite" role="status">
        {live.notice && (
          <div className="flex items-start gap-5 border-b border-line bg-sheet px-7 py-2.5 text-ink">
            <div className="flex-1">
              <b className="font-semibold">{live.notice.title}</b>
              {live.notice.lines.map((line) => (
                <p key={line} className="text-ink-2">
                  {line}
                </p>
              ))}
            </div>
            <button type="button" className="doing" onClick={live.dismiss}>
              close
            </button>
          </div>
        )}
        {recovered.length > 0 && !toldOf && (
          <div className="flex items-start gap-5 border-b border-line bg-sheet px-7 py-2.5 text-ink">
            <div className="flex-1">
              {recovered.map((words) => (
                <p key={words}>{words}</p>
              ))}
            </div>
            <button type="button" className="doing" onClick={() => setToldOf(true)}>
              close
            </button>
          </div>
        )}
      </div>
      <div className="flex h-9 items-center gap-[18px] px-7">
        {last ? (
          <span className="min-w-[12ch] shrink truncate">
            <span className="text-ink">{last.words}</span>, {last.when}
          </span>
        ) : (
          <span>What you do here can be undone, but for what you erase for good.</span>
        )}
        {last?.again && (
          <button type="button" className="doing whitespace-nowrap" onClick={() => give("again")}>
            do it again <KeyOf command="again" />
          </button>
        )}
        {last?.undo && (
          <button
            type="button"
            className="doing flex min-w-[70px] shrink-[2] items-center gap-1 overflow-hidden whitespace-nowrap"
            onClick={() => give("undo")}
          >
            undo {last.undo.part}
            {last.undo.other && <bdi className="max-w-[36ch] min-w-0 truncate">{last.undo.other}</bdi>} <KeyOf command="undo" />
          </button>
        )}
        <span className="ml-auto flex shrink-0 items-center gap-[18px] whitespace-nowrap">
          {live.jobs.map((job) => (
            <Running key={job.id} job={job} />
          ))}
          {waiting > 0 && (
            <Link href="/depots" className="doing">
              {words.counted(waiting, "thing waits", "things wait")} to be sent
            </Link>
          )}
          {endsSoon && (
            <span>
              {endsSoon.title ? `“${endsSoon.title}” ends` : "everything comes back"} {endsSoon.at}{" "}
              <button type="button" className="doing" onClick={() => void live.act(ask("quiet/longer", {}))}>
                half an hour longer
              </button>
            </span>
          )}
          {outOfSight > 0 || level !== "everything" ? (
            <>
              <Link href="/quiet" className="doing">
                {awayWords(outOfSight, believed)}
                {arrived > 0 ? `, ${words.count(arrived)} arrived since` : ""}
              </Link>
              <button type="button" className="doing" onClick={() => void live.act(ask("quiet/show", { level: "everything" }))}>
                bring back
              </button>
            </>
          ) : (
            <span>icons shown</span>
          )}
          <button type="button" onClick={onKeys} aria-label="the keys">
            <KeyOf command="keys" />
          </button>
        </span>
      </div>
    </footer>
  );
}

/** One job: how far, how fast, how long still, and its cancel. Shown once it takes longer than a moment. */
function Running({ job }: { job: JobLine }) {
  const words = useWords();
  const [, setTick] = useState(0);
  useEffect(() => {
    const timer = setTimeout(() => setTick((n) => n + 1), 700);
    return () => clearTimeout(timer);
  }, []);
  if (job.took < 500) return null;
  const share = job.of > 0 ? Math.min(1, job.done / job.of) : undefined;
  const rate = job.unit === "bytes" && job.took > 0 ? (1000 * job.done) / job.took : undefined;
  const left = share && share > 0.02 && share < 1 ? (job.took * (1 - share)) / share : undefined;
  const said = [
    share === undefined ? words.count(job.done) : `${Math.floor(share * 100)} %`,
    rate && `${words.bytes(rate)} a second`,
    left && `${words.duration(left)} left`,
  ];
  return (
    <span className="flex items-center gap-2">
      <span className="max-w-[34ch] truncate">{job.words}</span>
      <span
        role="progressbar"
        aria-label={job.words}
        aria-valuenow={share === undefined ? undefined : Math.floor(share * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="inline-block h-[5px] w-24 border border-ink-2"
      >
        <span className="block h-full bg-ink" style={{ width: `${(share ?? 0.1) * 100}%` }} />
      </span>
      <span>{said.filter(Boolean).join(" · ")}</span>
      <button
        type="button"
        className="doing"
        disabled={job.state === "cancelling"}
        onClick={() => void ask("jobs/cancel", { job: job.id }).catch(() => {})}
      >
        {job.state === "cancelling" ? "stopping" : job.pauses ? "pause" : "cancel"}
      </button>
    </span>
  );
}
