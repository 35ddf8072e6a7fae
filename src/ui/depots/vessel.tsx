"use client";
import { useId, useState } from "react";
import type { DepotView } from "@/contract/views";
import { type AskProblem, ask } from "../kit/ask";
import { useLive } from "../kit/live";
import { useWords } from "../kit/words";
import { Checks } from "./checks";
import type { Tried } from "./collected";
import { SignIn } from "./sign-in";

const states: Record<DepotView["state"], string> = {
  ready: "",
  full: "full",
  away: "away",
  "no sign-in": "not signed in",
  unreachable: "not in reach",
};

const kinds: Record<DepotView["kind"], string> = { folder: "folder", drive: "drive", cloud: "cloud" };

const width = 386;
const height = 74;
const floor = 73.25;

/** A depot drawn as what it holds and what is free; within a dashed outline what is on its way, or would be. */
export function Vessel({ depot, tried }: { depot: DepotView; tried?: Tried }) {
  const live = useLive();
  const words = useWords();
  const [signing, setSigning] = useState(false);
  const [checked, setChecked] = useState<string>();
  const [checking, setChecking] = useState(false);
  const isThere = depot.state === "ready" || depot.state === "full";
  const check = () => {
    setChecking(true);
    ask("depots/check-all", { depot: depot.id })
      .then((answers) => {
        const bad = answers.filter(({ whole }) => !whole).length;
        setChecked(
          answers.length === 0
            ? "There is nothing to check."
            : bad === 0
              ? `All of it is whole: ${words.counted(answers.length, "parcel")}, every checksum the same, just now.`
              : `${words.counted(bad, "parcel")} of ${answers.length} not whole. What is wrong stands beside each of them.`,
        );
      })
      .catch(live.say)
      .finally(() => setChecking(false));
  };
  const asksIn = depot.certificate ? "look at the certificate" : depot.kind === "cloud" ? "another sign-in" : undefined;
  return (
    <section aria-label={`depot ${depot.title}`} className="mb-6">
      <div className="flex items-baseline justify-between gap-3">
        <h3 className={`font-[650] ${isThere ? "" : "text-ink-2"}`}>{depot.title}</h3>
        <span className="text-small text-ink-2">
          {[kinds[depot.kind], depot.standIn && "a stand-in", states[depot.state]].filter(Boolean).join(", ")}
        </span>
      </div>
      <Drawing depot={depot} tried={tried} isThere={isThere} />
      <p className="text-small text-ink-2">{depot.words}</p>
      {depot.kind === "drive" && isThere && (
        <p className="text-small text-ink-2">
          {depot.coming
            ? "Something is on its way to it: leave it plugged in."
            : "Nothing is on its way to it: it can be pulled out."}
        </p>
      )}
      <p className="font-mono text-[11.5px] break-all text-ink-2">{depot.location}</p>
      {checked && (
        <p role="status" className="mt-1 border-l-4 border-put pl-3 text-small">
          {checked}
        </p>
      )}
      <div className="mt-1 flex flex-wrap gap-x-5 gap-y-1 text-small [&>button]:min-h-6">
        {asksIn && (
          <button type="button" className="doing" onClick={() => setSigning(true)}>
            {depot.state === "no sign-in" ? "sign in" : asksIn}
          </button>
        )}
        {isThere && depot.layers.length > 0 && (
          <button type="button" className="doing" disabled={checking} onClick={check}>
            {checking ? "reading" : "check all of it"}
          </button>
        )}
        <Checks depot={depot} />
        <button
          type="button"
          className="doing"
          onClick={() => void live.act(ask("depots/remove", { depot: depot.id }), (problem: AskProblem) => live.say(problem))}
        >
          take off the list
        </button>
      </div>
      {signing && <SignIn depot={depot} certificate={depot.certificate} onClose={() => setSigning(false)} />}
    </section>
  );
}

function Drawing({ depot, tried, isThere }: { depot: DepotView; tried?: Tried; isThere: boolean }) {
  const pattern = useId();
  const inner = width - 2;
  const whole = depot.total ?? (depot.free === undefined ? undefined : depot.free / Math.max(0.001, 1 - sum(depot)));
  let x = 1;
  const layers = depot.layers.map((layer, n) => {
    const wide = Math.max(layer.share > 0 ? 3 : 0, layer.share * inner);
    const rect = (
      <rect key={n} x={x} y={14} width={Math.max(1, wide - 1)} height={58} className={n % 2 ? "fill-line" : "fill-ink-3"} />
    );
    x += wide;
    return rect;
  });
  const other = depot.other * inner;
  const otherAt = x;
  x += other;
  const coming = depot.coming && { there: depot.coming.there * inner, whole: Math.max(4, depot.coming.whole * inner) };
  const would = !coming && tried && whole ? Math.max(4, (tried.bytes / whole) * inner) : 0;
  return (
    <svg aria-hidden="true" viewBox={`0 0 ${width} ${height}`} className="my-1 w-full">
      <g opacity={isThere ? 1 : 0.45}>
        {layers}
        {other > 0.5 && <rect x={otherAt} y={14} width={other} height={58} fill={`url(#${pattern})`} />}
      </g>
      {coming && (
        <>
          <rect x={x} y={14} width={Math.min(coming.there, width - x)} height={58} className="fill-archive" opacity={0.35} />
          <rect
            x={x + 0.5}
            y={14.5}
            width={Math.max(2, Math.min(coming.whole, width - x - 2))}
            height={57}
            className="fill-none stroke-archive"
            strokeDasharray="3 3"
          />
        </>
      )}
      {would > 0 && (
        <rect
          x={x + 0.5}
          y={x + would > inner + 1 ? 2 : 14.5}
          width={would > inner - x ? Math.max(8, width - x - 2) : would}
          height={x + would > inner + 1 ? 70 : 57}
          className={`fill-none ${x + would > inner + 1 ? "stroke-let-go" : "stroke-archive"}`}
          strokeDasharray="3 3"
        />
      )}
      <defs>
        <pattern id={pattern} width="5" height="5" patternUnits="userSpaceOnUse">
          <path d="M0 5 5 0" className="stroke-line" strokeWidth="1" />
        </pattern>
      </defs>
      <path
        d={`M.75 6V${floor}H${width - 0.75}V6`}
        className={isThere ? "fill-none stroke-ink" : "fill-none stroke-ink-2"}
        strokeWidth="1.5"
        strokeDasharray={isThere ? undefined : "4 4"}
      />
    </svg>
  );
}

const sum = ({ layers, other }: DepotView) => layers.reduce((all, { share }) => all + share, other);
