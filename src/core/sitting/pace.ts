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
/** Of what holding the longest tenth takes from the mean, so much at most is given back to the sum. */
const mostHeldBack = 1.2;
/** How much a kind may differ from what is expected of it, as a share, as long as few of it were decided. */
const unknownKind = 1.3;

/** How long a look at a thing of a kind takes, against the quickest; what persons take differs, and is learned. */
const effort: Record<Kind, number> = {
  picture: 1,
  screenshot: 1,
  shortcut: 1,
  "web link": 1,
  temporary: 1,
  "half download": 1,
  other: 2,
  data: 2,
  drive: 2,
  installer: 2,
  text: 2.5,
  table: 2.5,
  talk: 2.5,
  archive: 3,
  video: 3,
  sound: 4,
  folder: 4,
};

const mean = (values: readonly number[]) => values.reduce((sum, value) => sum + value, 0) / values.length;

/** The same times, the longest tenth of them no longer than the next: one interruption does not make the pace (winsorising, Tukey 1962). */
function held(times: readonly number[]): number[] {
  const sorted = times.toSorted((a, b) => a - b);
  const cap = sorted[sorted.length - 1 - Math.floor(sorted.length / 10)]!;
  return times.map((time) => Math.min(time, cap));
}

/**
 * How long it takes to decide about things of these kinds, from verdicts given before: an estimator of the sum, so a mean for
 * each kind and no median, drawn towards what all kinds let expect where few of that kind were decided (James and Stein 1961,
 * with a fixed weight). How sure it is follows from the spread of single verdicts, of their mean, and from the kinds that are
 * not known yet. Undefined before ten.
 */
export function timeLeft(given: readonly Timed[], left: ReadonlyMap<Kind, number>): TimeLeft | undefined {
  if (given.length < fewestVerdicts) return undefined;
  // In units of effort all kinds can be compared.
  const took = given.map(({ kind, ms }) => ms / effort[kind]);
  const all = held(took);
  const ofAll = mean(all);
  const heldBack = Math.min(mostHeldBack, mean(took) / ofAll);
  const spread = all.reduce((sum, one) => sum + (one - ofAll) ** 2, 0) / (all.length - 1);
  const byKind = new Map<Kind, number[]>();
  for (const [n, { kind }] of given.entries()) byKind.set(kind, [...(byKind.get(kind) ?? []), all[n]!]);
  let [units, single, work, kinds] = [0, 0, 0, 0];
  for (const [kind, count] of left) {
    const times = byKind.get(kind) ?? [];
    const own = (times.reduce((sum, time) => sum + time, 0) + pull * ofAll) / (times.length + pull);
    units += effort[kind] * own * count;
    work += effort[kind] * count;
    single += effort[kind] ** 2 * count;
    kinds += ((effort[kind] * ofAll * count * unknownKind * pull) / (times.length + pull)) ** 2;
  }
  const ms = units * heldBack;
  // What is known of effort comes from the kinds that were decided.
  const known = (work * ofAll * unknownKind) ** 2 / (byKind.size * (1 + all.length / pull));
  const wide = heldBack * fourOfFive * Math.sqrt(spread * (single + work ** 2 / all.length) + kinds + known);
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
