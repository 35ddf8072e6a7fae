import { type Timed, timeLeft } from "@/core/sitting/pace";
import type { Kind } from "@/core/survey/kinds";
import { Chance } from "@/demo/chance";

/** How long persons take over things of a kind, in milliseconds in the middle, and how much it scatters (of a logarithm). */
const kinds: [kind: Kind, middle: number, scatter: number, share: number][] = [
  ["picture", 1100, 0.5, 30],
  ["screenshot", 900, 0.45, 15],
  ["text", 3200, 0.75, 20],
  ["table", 2600, 0.7, 12],
  ["shortcut", 1500, 0.5, 8],
  ["archive", 4200, 0.8, 5],
  ["folder", 5200, 0.9, 4],
  ["sound", 6000, 0.6, 4],
  ["other", 2000, 0.8, 2],
];

const normal = (c: Chance) => Math.sqrt(-2 * Math.log(1 - c.next())) * Math.cos(2 * Math.PI * c.next());

/** One person's sitting: things in the order of a pile, likes beside likes, each with what it took; the longest are interruptions. */
function sittingOf(seed: number): Timed[] {
  const c = new Chance(seed);
  const [speed, steadiness, interrupted] = [Math.exp(0.35 * normal(c)), 0.7 + 0.6 * c.next(), 0.01 + 0.02 * c.next()];
  const count = c.whole(60, 240);
  const things: Timed[] = [];
  const weights = kinds.map(([, , , share]) => share * Math.exp(0.5 * normal(c)));
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  // Persons differ in what they find hard, too.
  const own = kinds.map(([, middle]) => middle * Math.exp(0.35 * normal(c)));
  const left = kinds.flatMap(([kind, , scatter], n) =>
    Array.from({ length: Math.round((count * weights[n]!) / all) }, () => ({ kind, middle: own[n]!, scatter })),
  );
  // Families come in runs of a few, runs in any order.
  const runs: (typeof left)[] = [];
  while (left.length > 0) runs.push(left.splice(c.whole(0, left.length - 1), c.whole(2, 7)));
  for (const { kind, middle, scatter } of runs.sort(() => c.next() - 0.5).flat()) {
    const took = middle * speed * Math.exp(scatter * steadiness * normal(c));
    things.push({ kind, ms: Math.min(115_000, c.next() < interrupted ? took + c.between(8000, 60_000) : took) });
  }
  return things;
}

const mean = (list: number[]) => list.reduce((sum, one) => sum + one, 0) / list.length;
const median = (list: number[]) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;
const countKinds = (things: Timed[]) => {
  const counts = new Map<Kind, number>();
  for (const { kind } of things) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  return counts;
};

/** Estimators of what the rest of a sitting takes, from its verdicts until then. */
const estimators: Record<string, (given: Timed[], rest: Timed[]) => number> = {
  "a mean": (given, rest) => mean(given.map(({ ms }) => ms)) * rest.length,
  "the middle": (given, rest) => median(given.map(({ ms }) => ms)) * rest.length,
  "the mean of the last ten": (given, rest) => mean(given.slice(-10).map(({ ms }) => ms)) * rest.length,
  ours: (given, rest) => timeLeft(given, countKinds(rest))!.ms,
};

export interface PaceJudged {
  estimator: string;
  after: number;
  /** The share of sittings in which it is within a quarter of what it takes, and the middle of its errors. */
  within: number;
  error: number;
}

/** J6: minutes to clear after ten verdicts and more, in a thousand sittings of made-up persons; how often ours says the span too narrow. */
export function judgePace(): { table: PaceJudged[]; covered: number } {
  const sittings = Array.from({ length: 1000 }, (_, n) => sittingOf(n + 1));
  const table: PaceJudged[] = [];
  let [inside, asked] = [0, 0];
  for (const after of [10, 20, 40])
    for (const [estimator, estimate] of Object.entries(estimators)) {
      const errors: number[] = [];
      for (const sitting of sittings) {
        const [given, rest] = [sitting.slice(0, after), sitting.slice(after)];
        if (rest.length < 20) continue;
        const takes = rest.reduce((sum, { ms }) => sum + ms, 0);
        errors.push(Math.abs(estimate(given, rest) / takes - 1));
        if (estimator !== "ours") continue;
        const { low, high } = timeLeft(given, countKinds(rest))!;
        asked++;
        if (takes >= low && takes <= high) inside++;
      }
      table.push({
        estimator,
        after,
        within: errors.filter((error) => error <= 0.25).length / errors.length,
        error: median(errors),
      });
    }
  return { table, covered: inside / asked };
}
