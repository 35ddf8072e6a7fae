import type { PileItem } from "@/contract/views";
import { fewestVerdicts, inWords, type Timed, timeLeft } from "@/core/sitting/pace";
import type { Kind } from "@/core/survey/kinds";
import { useWords } from "../kit/words";
import type { Settled } from "./settling";

/** A look that took longer was an interruption and says nothing about the pace. */
const longestLook = 120_000;
const latest = 200;

/** How long the rest takes at the person's pace, and how sure that is. */
export function Pace({
  pile,
  times,
  settled,
}: {
  pile: readonly PileItem[];
  /** Verdicts of earlier sittings, and of this one before the page was loaded. */
  times: readonly [Kind, number][];
  settled: readonly Settled[];
}) {
  const words = useWords();
  // A family's time is shared by all in it.
  const fresh = settled
    .filter(({ given }) => given !== undefined)
    .flatMap(({ items, tookMs }): Timed[] => items.map(({ kind }) => ({ kind, ms: tookMs / items.length })))
    .filter(({ ms }) => ms >= 1 && ms <= longestLook);
  const given = [...times.map(([kind, ms]): Timed => ({ kind, ms })), ...fresh].slice(-latest);
  const left = new Map<Kind, number>();
  for (const { kind } of pile) left.set(kind, (left.get(kind) ?? 0) + 1);
  const time = timeLeft(given, left);
  const moved = settled.filter(({ verdict }) => verdict === "let go" || verdict === "put away" || verdict === "note");
  return (
    <div className="mt-auto text-right text-small text-ink-2">
      {time ? (
        <>
          <b className="block text-[24px] leading-[1.15] font-medium tracking-[-0.02em] text-ink">{inWords(time, words)}</b>
          left at your pace
        </>
      ) : (
        `your pace is known after ${words.count(fewestVerdicts)} verdicts`
      )}
      <br />
      {settled.reduce((sum, { items }) => sum + items.length, 0)} settled,{" "}
      {words.bytes(moved.flatMap(({ items }) => items).reduce((sum, item) => sum + item.bytes, 0))} cleared away
    </div>
  );
}
