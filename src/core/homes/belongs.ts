import { sortOf, type Thing, type Trait, type TraitSort, traitsOf, traitWord, weights, wordsIn } from "./traits";

/** A file that lies in a home, or, with `against`, a thing of which the person said that it does not belong there. */
export interface FiledThing extends Thing {
  home: string;
  against?: boolean;
}

/** In how many files a trait occurs: in `files[n]` of the home with the number `homes[n]`, and in all together. */
interface Counted {
  homes: Int32Array;
  files: Int32Array;
  all: number;
  /** What the trait says for each of these homes; for a thing that was counted itself, too. Made when first asked for. */
  says?: Float64Array;
  saysWithout?: Float64Array;
}

/** What is known of the homes from what lies in them. */
export interface Learned {
  /** The homes by their number; `files` counts what lies there, and the folder's own name as one. */
  homes: { id: string; files: number }[];
  counts: Map<Trait, Counted>;
  total: number;
  /** How a home's lead, its evidence and what of the thing is known there make it likely: for `likely`. */
  calibration: number[];
}

/** How likely a thing belongs in a home, from 0 to 1, and why, in words. */
export interface Fit {
  home: string;
  score: number;
  why: string;
}

/** At and above this a thing is said to belong. */
export const sure = 0.85;
/** Below this a home is not proposed at all. */
export const possible = 0.3;

/** Among the few homes below an area this much is enough for a proposal. */
export const finest = 0.2;

/** How many files' worth the expectation weighs against what was counted in a home. */
const smoothing = 1;
/** A home's size counts for less than it would, as a small home is as wanted as a large one. */
const priorWeight = 0.5;
/** Where nothing was learned from, no score is likely. */
const unknown = [-4, 0, 0, 0];
/** How many of the things that a home is looked for belong in none, as the calibration takes it. */
export const strangers = 0.2;
/** At most this many files are asked about to calibrate; more change nothing. */
const asked = 1500;

/** How often `tell` is called, in files. */
const tellEvery = 100;

/**
 * Learns from what lies in the homes. `titles` names every home by its id, those without files too. `tell` hears how far it
 * is, counted in files and the asks that follow, and stops it by throwing.
 */
export function learn(
  files: readonly FiledThing[],
  titles: ReadonlyMap<string, string>,
  tell: (done: number, of: number) => void = () => {},
): Learned {
  const whole = files.length + Math.min(files.length, asked);
  const homes: Learned["homes"] = [];
  const numbers = new Map<string, number>();
  const counting = new Map<Trait, Map<number, number>>();
  const count = (trait: Trait, home: number, by: number) => {
    let counted = counting.get(trait);
    if (!counted) {
      counted = new Map();
      counting.set(trait, counted);
    }
    counted.set(home, Math.max(0, (counted.get(home) ?? 0) + by));
  };
  for (const [id, title] of titles) {
    numbers.set(id, homes.length);
    // The folder's own name speaks like one file in it.
    for (const word of wordsIn(title.split(" / ").slice(-2).join(" "))) count(`w${word}`, homes.length, 1);
    homes.push({ id, files: 1 });
  }
  const traits = files.map(traitsOf);
  let total = homes.length;
  for (const [n, file] of files.entries()) {
    if (n % tellEvery === 0) tell(n, whole);
    const home = numbers.get(file.home);
    if (home === undefined || file.against) continue;
    homes[home]!.files++;
    total++;
    for (const trait of traits[n]!) count(trait, home, 1);
  }
  for (const [n, file] of files.entries()) {
    const home = numbers.get(file.home);
    if (home !== undefined && file.against) for (const trait of traits[n]!) count(trait, home, -1);
  }
  const counts: Learned["counts"] = new Map();
  for (const [trait, of] of counting) {
    const known = [...of].filter(([, n]) => n > 0);
    if (known.length === 0) continue;
    counts.set(trait, {
      homes: Int32Array.from(known, ([home]) => home),
      files: Int32Array.from(known, ([, n]) => n),
      all: known.reduce((sum, [, n]) => sum + n, 0),
    });
  }
  const learned: Learned = { homes, counts, total, calibration: unknown };
  learned.calibration = calibrate(
    learned,
    files.flatMap((file, n) => {
      const home = numbers.get(file.home);
      return home === undefined || file.against ? [] : [{ home, traits: traits[n]! }];
    }),
    (done) => tell(Math.min(files.length + done, whole), whole),
  );
  return learned;
}

/** What a trait that no file of a home has says against it, in natural logarithms. */
const absence = (files: number) => Math.log(smoothing / (files + smoothing));

interface Ranked {
  home: number;
  /** The logarithm of how much better the home explains the thing than homes at large do. */
  score: number;
}

const filesWith = (counted: Counted | undefined, home: number) => {
  const at = counted ? counted.homes.indexOf(home) : -1;
  return at < 0 ? 0 : counted!.files[at]!;
};

/** What a trait in so many files of a home says for it, beyond its absence there, where so many were expected. */
const presence = (here: number, expected: number) => Math.log((here + smoothing * expected) / (smoothing * expected));

/** The part of all files in which a trait is expected; `own`: 1 where one of these is the thing itself. */
const expectation = (all: number, total: number, own: number) => (all - own + 0.1) / (total - own + 1);

function saysOf(counted: Counted, total: number, own: 0 | 1): Float64Array {
  const kept = own ? counted.saysWithout : counted.says;
  if (kept) return kept;
  const expected = expectation(counted.all, total, own);
  const says = Float64Array.from(counted.files, (here) => presence(here, expected));
  if (own) counted.saysWithout = says;
  else counted.says = says;
  return says;
}

/**
 * The homes by how well they explain a thing, best first: naive Bayes over the traits that it has (Maron 1961; Lewis 1998),
 * each home's counts smoothed towards those over all homes (Jelinek & Mercer 1980), sorts of traits weighted. `without`
 * leaves one file of that home out of the counts: the thing itself; `unless` leaves a home out altogether. The best two are
 * always there; of the others so many of those that `wanted` names.
 */
function explain(
  traits: readonly Trait[],
  learned: Learned,
  { without = -1, unless = -1, most = 0, wanted = () => true }: ExplainOptions = {},
): Ranked[] {
  const { homes, counts } = learned;
  const own = without >= 0 ? 1 : 0;
  const total = learned.total - own;
  const filesOf = (home: number) => homes[home]!.files - (home === without ? 1 : 0);
  const scores = new Float64Array(homes.length);
  let weighed = 0;
  for (const trait of traits) {
    const counted = counts.get(trait);
    if (!counted || counted.all - own <= 0) continue;
    const weight = weights[sortOf(trait)];
    weighed += weight;
    const says = saysOf(counted, learned.total, own);
    const of = counted.homes;
    for (let n = 0; n < of.length; n++) scores[of[n]!]! += weight * says[n]!;
    if (own) {
      const at = of.indexOf(without);
      const here = at < 0 ? 0 : counted.files[at]! - 1;
      if (at >= 0)
        scores[without]! += weight * ((here > 0 ? presence(here, expectation(counted.all, learned.total, own)) : 0) - says[at]!);
    }
  }
  if (weighed === 0) return [];
  for (let home = 0; home < homes.length; home++) {
    const files = filesOf(home);
    scores[home]! +=
      home === unless ? Number.NEGATIVE_INFINITY : weighed * absence(files) + priorWeight * Math.log((files + 0.5) / total);
  }
  const best = bestOf(scores, 2, () => true);
  if (most === 0) return best;
  const known = new Set(best.map(({ home }) => home));
  return [...best, ...bestOf(scores, most, wanted).filter(({ home }) => !known.has(home))];
}

interface ExplainOptions {
  without?: number;
  unless?: number;
  most?: number;
  wanted?: (home: number) => boolean;
}

/** The best few, best first; those that are left out altogether are none of them. */
function bestOf(scores: Float64Array, most: number, wanted: (home: number) => boolean): Ranked[] {
  const best: Ranked[] = [];
  for (let home = 0; home < scores.length; home++) {
    const score = scores[home]!;
    if (score === Number.NEGATIVE_INFINITY || !wanted(home)) continue;
    if (best.length === most && score <= best[most - 1]!.score) continue;
    let at = best.length;
    while (at > 0 && best[at - 1]!.score < score) at--;
    best.splice(at, 0, { home, score });
    if (best.length > most) best.pop();
  }
  return best;
}

/** What tells how far the first of a ranking can be trusted: its lead, its evidence, and how much of the thing is known there. */
function signs(traits: readonly Trait[], learned: Learned, ranked: Ranked[], at = 0, without = -1): number[] {
  const { home, score } = ranked[at]!;
  const other = ranked[at === 0 ? 1 : 0];
  const lead = other ? score - other.score : 8;
  let known = 0;
  let weighed = 0;
  for (const trait of traits) {
    const weight = weights[sortOf(trait)];
    weighed += weight;
    const here = filesWith(learned.counts.get(trait), home) - (home === without ? 1 : 0);
    if (here > 0) known += weight;
  }
  const evidence = score / Math.sqrt(weighed);
  return [1, Math.sign(lead) * Math.log1p(Math.abs(lead)), evidence / 3, known / weighed];
}

const likely = (calibration: number[], x: number[]) =>
  1 / (1 + Math.exp(-x.reduce((sum, value, n) => sum + value * calibration[n]!, 0)));

/**
 * Fits how often the first home is right to the signs of its ranking: logistic regression (Platt 1999) by Newton's method.
 * Each file is asked about twice: as though it did not lie there yet, and as though its home did not exist, when any
 * answer is wrong; so that what belongs nowhere is not called sure.
 */
function calibrate(learned: Learned, files: { home: number; traits: Trait[] }[], tell: (done: number) => void): number[] {
  if (files.length < 8) return unknown;
  const asks: Ask[] = [];
  const step = Math.max(1, files.length / asked);
  for (let at = 0; at < files.length; at += step) {
    const { home, traits } = files[Math.floor(at)]!;
    if (asks.length % tellEvery < 2) tell(asks.length / 2);
    const there = explain(traits, learned, { without: home });
    if (there.length > 0) {
      asks.push({ signs: signs(traits, learned, there, 0, home), right: there[0]!.home === home ? 1 : 0, weight: 1 });
    }
    const elsewhere = explain(traits, learned, { without: home, unless: home });
    if (elsewhere.length > 0) {
      asks.push({ signs: signs(traits, learned, elsewhere), right: 0, weight: strangers / (1 - strangers) });
    }
  }
  return fitLogistic(asks);
}

interface Ask {
  signs: number[];
  right: number;
  weight: number;
}

/** The coefficients of a logistic regression, held a little towards none (ridge), by Newton's method. */
function fitLogistic(asks: Ask[]): number[] {
  const size = 4;
  let b = [0, 0, 0, 0];
  for (let round = 0; round < 25; round++) {
    const gradient = b.map((value) => -0.5 * value);
    const hessian = b.map((_, r) => b.map((__, c) => (r === c ? 0.5 : 0)));
    for (const { signs: x, right, weight } of asks) {
      const p = likely(b, x);
      for (let r = 0; r < size; r++) {
        gradient[r]! += weight * x[r]! * (right - p);
        for (let c = 0; c < size; c++) hessian[r]![c]! += weight * x[r]! * x[c]! * p * (1 - p);
      }
    }
    const change = solve(hessian, gradient);
    b = b.map((value, n) => value + change[n]!);
    if (Math.max(...change.map(Math.abs)) < 1e-6) break;
  }
  return b;
}

/** Solves a small linear system by elimination with pivots. */
function solve(matrix: number[][], right: number[]): number[] {
  const rows = matrix.map((row, n) => [...row, right[n]!]);
  const size = rows.length;
  for (let at = 0; at < size; at++) {
    const pivot = rows.slice(at).reduce((best, row) => (Math.abs(row[at]!) > Math.abs(best[at]!) ? row : best));
    rows.splice(rows.indexOf(pivot), 1);
    rows.splice(at, 0, pivot);
    for (let other = 0; other < size; other++) {
      if (other === at) continue;
      const factor = rows[other]![at]! / pivot[at]!;
      for (let c = at; c <= size; c++) rows[other]![c]! -= factor * pivot[c]!;
    }
  }
  return rows.map((row, n) => row[size]! / row[n]!);
}

export interface RankOptions {
  most?: number;
  least?: number;
  among?: ReadonlySet<string>;
  lyingIn?: string;
}

/**
 * Ranks the homes for a thing, best first, at most so many. Those that are less likely than `least` are left out, and
 * with `among` all but those. `lyingIn` is the home in which the thing itself lies: it was learned from, and is left out.
 */
export function rank(thing: Thing, learned: Learned, { most = 5, least = possible, among, lyingIn }: RankOptions = {}): Fit[] {
  const traits = traitsOf(thing);
  const without = lyingIn === undefined ? -1 : learned.homes.findIndex(({ id }) => id === lyingIn);
  const wanted = (home: number) => among === undefined || among.has(learned.homes[home]!.id);
  const ranked = explain(traits, learned, { without, most, wanted });
  return ranked
    .flatMap(({ home }, at) => (wanted(home) ? [at] : []))
    .slice(0, most)
    .map((at): Fit => {
      const { home } = ranked[at]!;
      const score = likely(learned.calibration, signs(traits, learned, ranked, at, without));
      return { home: learned.homes[home]!.id, score, why: score < least ? "" : reasons(traits, learned, home) };
    })
    .filter(({ score }) => score >= least);
}

const saidOfSort: Record<TraitSort, (value: string) => string> = {
  k: (kind) => `of the kind ${kind}`,
  e: (ending) => (ending ? `.${ending}` : "without an ending"),
  w: (word) => `“${word}” in names`,
  b: (beginning) => `names that begin “${beginning}”`,
  s: () => "names made like this one",
  y: (year) => `${year} in names`,
  m: (year) => `changed in ${year}`,
  t: (word) => `“${word}” in texts`,
  h: (head) => `the column “${head}”`,
  z: (sender) => `from ${sender}`,
};

const mostReasons = 2;

/** What speaks most for a home, in words, with how many of its files have it too. */
function reasons(traits: readonly Trait[], learned: Learned, home: number): string {
  const { files } = learned.homes[home]!;
  const spoken = traits
    .flatMap((trait) => {
      const counted = learned.counts.get(trait);
      const here = filesWith(counted, home);
      if (!counted || here === 0) return [];
      const expected = (counted.all + 0.1) / (learned.total + 1);
      const weight = weights[sortOf(trait)];
      return [{ trait, here, speaks: weight * Math.log((here + smoothing * expected) / ((files + smoothing) * expected)) }];
    })
    .sort((a, b) => b.speaks - a.speaks);
  const said: string[] = [];
  const sorts = new Set<TraitSort>();
  for (const { trait, here } of spoken) {
    const sort = sortOf(trait);
    // How a name begins says its words again.
    if (sorts.has(sort) || (sort === "b" && sorts.has("w")) || (sort === "w" && sorts.has("b"))) continue;
    sorts.add(sort);
    said.push(`${saidOfSort[sort](traitWord(trait))}, like ${here} in it`);
    if (said.length === mostReasons) break;
  }
  return said.join("; ");
}
