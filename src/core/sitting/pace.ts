import type { Kind } from "../survey/kinds";
import type { Words } from "../words/words";

/** A verdict that was given, and how long it took, in milliseconds. */
export interface Timed {
  kind: Kind;
  ms: number;
}

/** Milliseconds that deciding takes, and between which it lies in four of five cases. */
export interface TimeLeft {
  ms: number;
  low: number;
  high: number;
}

/** Before so many verdicts there is no pace. */
export const fewestVerdicts = 10;
/** As much as so many verdicts of all kinds weigh against those of one kind. */
const pull = 6;
/** Standard deviations within which four of five cases lie. */
const fourOfFive = 1.2816;

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;

/** The same times, the longest tenth of them no longer than the next: one interruption does not make the pace (winsorising, Tukey 1962). */
function held(times: readonly number[]): number[] {
  const sorted = times.toSorted((a, b) => a - b);
  const cap = sorted[sorted.length - 1 - Math.floor(sorted.length / 10)]!;
  return sorted.map((ms) => Math.min(ms, cap));
}

/**
 * How long it takes to decide about things of these kinds, from verdicts given before: an estimator of the sum, so a mean for
 * each kind and no median, drawn towards the mean of all kinds where few of that kind were decided (James and Stein 1961, with a
 * fixed weight). How sure it is follows from the spread of single verdicts and of the mean itself. Undefined before ten.
 */
export function timeLeft(given: readonly Timed[], left: ReadonlyMap<Kind, number>): TimeLeft | undefined {
  if (given.length < fewestVerdicts) return undefined;
  const all = held(given.map(({ ms }) => ms));
  const cap = all[all.length - 1]!;
  const ofAll = mean(all);
  const byKind = new Map<Kind, number[]>();
  for (const { kind, ms } of given) byKind.set(kind, [...(byKind.get(kind) ?? []), Math.min(ms, cap)]);
  const spread = all.reduce((sum, ms) => sum + (ms - ofAll) ** 2, 0) / (all.length - 1);
  let [ms, things] = [0, 0];
  for (const [kind, count] of left) {
    const times = byKind.get(kind) ?? [];
    const own = (times.reduce((sum, time) => sum + time, 0) + pull * ofAll) / (times.length + pull);
    ms += own * count;
    things += count;
  }
  const wide = fourOfFive * Math.sqrt(spread * (things + things ** 2 / all.length));
  return { ms, low: Math.max(0, ms - wide), high: ms + wide };
}

const minute = 60_000;

/** A time that is not sure, as a person says it: "5 to 8 minutes", "about 6 minutes", "under a minute". */
export function inWords({ ms, low, high }: TimeLeft, words: Words): string {
  if (high < minute) return "under a minute";
  const [from, to] = [Math.max(1, Math.round(low / minute)), Math.round(high / minute)];
  if (to > 120 || from >= to) return `about ${words.duration(Math.max(ms, minute))}`;
  return `${words.count(from)} to ${words.counted(to, "minute")}`;
}
