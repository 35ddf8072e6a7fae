"use client";
import { useState } from "react";
import type { ParcelView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";
import { SignIn } from "./sign-in";

const rows = [
  { key: "packed", said: "packed", tone: "fill-ink" },
  { key: "sent", said: "sent", tone: "fill-archive" },
  { key: "readBack", said: "read back", tone: "fill-put" },
  { key: "letGo", said: "let go", tone: "fill-put" },
] as const;

const mostTicks = 140;
/** Room for so many at least: one of few is not drawn as a bar. */
const fewestTicks = 60;

/** A parcel under way: its things as rows of ticks, so that proof is seen rather than claimed. */
export function OnItsWay({ parcel }: { parcel: ParcelView }) {
  const live = useLive();
  const words = useWords();
  const [cancelling, setCancelling] = useState(false);
  const [signing, setSigning] = useState(false);
  const { id, title, depot, ticks, state, problem, asks } = parcel;
  const orSay = (work: Promise<unknown>) => void work.catch(live.say);
  return (
    <section aria-label={`parcel ${title}`} className="mb-5 border border-ink bg-sheet px-5 pt-4 pb-3.5">
      <h2 className="text-head leading-tight font-semibold">{title}</h2>
      <p className="text-ink-2">
        to {depot?.title} · {parcel.words}
      </p>
      {ticks && (
        <div className="my-2">
          {rows.map(({ key, said, tone }) => (
            <div key={key} className="mt-1.5 grid grid-cols-[74px_minmax(0,1fr)_92px] items-center text-small">
              <b className="font-semibold">{said}</b>
              <Ticks done={ticks[key]} of={ticks.things} tone={tone} />
              <span className="text-right text-ink-2 tabular-nums">
                {words.count(ticks[key])} of {words.count(ticks.things)}
              </span>
            </div>
          ))}
        </div>
      )}
      {parcel.leftOut && parcel.leftOut.length > 0 && (
        <details className="my-2 text-small text-ink-2">
          <summary className="doing cursor-pointer">
            {parcel.leftOut.length === 1 ? "one is left out" : `${words.count(parcel.leftOut.length)} are left out`}
          </summary>
          <ul className="mt-1">
            {parcel.leftOut.map(({ name, why }) => (
              <li key={name}>{why}</li>
            ))}
          </ul>
        </details>
      )}
      {problem && <p className="my-2 border-l-4 border-let-go pl-3">{problem}</p>}
      <div className="mt-3 flex flex-wrap items-baseline gap-5">
        {asks && depot && (
          <button type="button" className="go" onClick={() => setSigning(true)}>
            {asks === "sign-in" ? "Sign in" : "Look at the certificate"}
          </button>
        )}
        {state === "sending" ? (
          <button type="button" className="doing" onClick={() => orSay(ask("depots/pause", { parcel: id }))}>
            pause
          </button>
        ) : (
          <button type="button" className="doing" onClick={() => orSay(ask("depots/send", { parcel: id, wait: false }))}>
            go on
          </button>
        )}
        {problem && state === "sending" && (
          <button type="button" className="doing" onClick={() => orSay(ask("depots/send", { parcel: id, wait: false }))}>
            try now
          </button>
        )}
        <button type="button" className="doing" onClick={() => setCancelling(true)}>
          cancel
        </button>
        <span className="text-small text-ink-2">Every original lies where it lay until all of it was read back.</span>
      </div>
      <Dialog open={cancelling} onClose={() => setCancelling(false)} title={`Do not send “${title}”`}>
        <p className="mb-4 text-ink-2">
          What was sent of it is taken out of {depot?.title} again. Everything still lies where it was, and stays in the parcel.
        </p>
        <div className="flex items-center gap-6">
          <button
            type="button"
            className="go"
            onClick={() => {
              setCancelling(false);
              orSay(ask("depots/cancel", { parcel: id }).then(({ words }) => live.tell(words, [])));
            }}
          >
            Take it back
          </button>
          <button type="button" className="doing" onClick={() => setCancelling(false)}>
            go on sending it
          </button>
        </div>
      </Dialog>
      {depot && signing && <SignIn depot={depot} onClose={() => setSigning(false)} />}
    </section>
  );
}

/** One tick a thing, or some things a tick where they are many. */
function Ticks({ done, of, tone }: { done: number; of: number; tone: string }) {
  const count = Math.max(1, Math.min(of, mostTicks));
  const full = of === 0 ? 0 : Math.floor((done / of) * count);
  return (
    <svg
      aria-hidden="true"
      viewBox={`0 0 ${Math.max(count, fewestTicks) * 4} 18`}
      preserveAspectRatio="none"
      className="h-[18px] w-full"
    >
      {Array.from({ length: count }, (_, n) => (
        <rect
          key={n}
          x={n * 4 + 0.5}
          y={1}
          width={2.6}
          height={16}
          vectorEffect="non-scaling-stroke"
          className={n < full ? tone : "fill-none stroke-line"}
        />
      ))}
    </svg>
  );
}
