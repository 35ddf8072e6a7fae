import { endingOf } from "../names/raw";
import type { Kind } from "../survey/kinds";

/** A file that lies in a home. */
export interface FiledFile {
  home: string;
  name: string;
  kind: Kind;
}

/** What is known of a home from what lies in it. */
interface Learned {
  files: number;
  kinds: Map<string, number>;
  endings: Map<string, number>;
  words: Map<string, number>;
}

export interface Homes {
  homes: Map<string, Learned>;
  /** In how many homes a word occurs. */
  spread: Map<string, number>;
}

/** How well a thing fits a home, from 0 to 1, and why, in words. */
export interface Fit {
  home: string;
  score: number;
  why: string;
}

/** At and above this a thing is said to belong. */
export const sure = 0.5;
/** Below this a home is not proposed at all. */
export const possible = 0.3;

/** The words of a name: letters only, at least two, without the ending, each once. */
export function wordsOf(name: string): string[] {
  const ending = endingOf(name);
  const stem = ending ? name.slice(0, -ending.length - 1) : name;
  const words = stem
    .replace(/(\p{Ll})(\p{Lu})/gu, "$1 $2")
    .toLowerCase()
    .normalize("NFC")
    .match(/\p{L}{2,}/gu);
  return [...new Set(words ?? [])];
}

const addOne = (counts: Map<string, number>, key: string) => counts.set(key, (counts.get(key) ?? 0) + 1);

/** Learns from what lies in the homes. `titles` names every home by its id, those without files too. */
export function learn(files: Iterable<FiledFile>, titles: Map<string, string>): Homes {
  const homes = new Map<string, Learned>();
  for (const [home, title] of titles) {
    const learned: Learned = { files: 0, kinds: new Map(), endings: new Map(), words: new Map() };
    // The folder's own name speaks like one file in it.
    for (const word of wordsOf(title.split(" / ").at(-1) ?? "")) addOne(learned.words, word);
    homes.set(home, learned);
  }
  for (const file of files) {
    const learned = homes.get(file.home);
    if (!learned) continue;
    learned.files++;
    addOne(learned.kinds, file.kind);
    addOne(learned.endings, endingOf(file.name));
    for (const word of wordsOf(file.name)) addOne(learned.words, word);
  }
  const spread = new Map<string, number>();
  for (const learned of homes.values()) for (const word of learned.words.keys()) addOne(spread, word);
  return { homes, spread };
}

/**
 * Ranks the homes for a thing, best first: a quarter for the share of its kind among what lies there, a quarter for its
 * ending, half for the share of its words found there, rare words weighing more (inverse document frequency, Spärck Jones
 * 1972), and less trust in a home that holds little. A home with no word in common is not ranked.
 */
export function rank(thing: { name: string; kind: Kind }, { homes, spread }: Homes, most = 5): Fit[] {
  const words = wordsOf(thing.name);
  const ending = endingOf(thing.name);
  const weight = (word: string) => Math.log(1 + homes.size / (1 + (spread.get(word) ?? 0)));
  const total = words.reduce((sum, word) => sum + weight(word), 0);
  const fits: Fit[] = [];
  for (const [home, learned] of homes) {
    const shared = words.filter((word) => learned.words.has(word));
    if (shared.length === 0 || learned.files === 0) continue;
    const kindShare = (learned.kinds.get(thing.kind) ?? 0) / learned.files;
    const endingShare = (learned.endings.get(ending) ?? 0) / learned.files;
    const wordShare =
      shared.reduce((sum, word) => sum + weight(word) * Math.min(1, ((learned.words.get(word) ?? 0) + 1) / 3), 0) / total;
    const score = (0.25 * kindShare + 0.25 * endingShare + 0.5 * wordShare) * (learned.files / (learned.files + 1));
    if (score < possible) continue;
    fits.push({ home, score, why: reason(thing.kind, learned, shared, spread) });
  }
  return fits.sort((a, b) => b.score - a.score || (a.home < b.home ? -1 : 1)).slice(0, most);
}

function reason(kind: Kind, learned: Learned, shared: string[], spread: Map<string, number>): string {
  const telling = shared
    .toSorted((a, b) => (spread.get(a) ?? 0) - (spread.get(b) ?? 0))
    .slice(0, 2)
    .map((word) => `“${word}”`)
    .join(" and ");
  const same = learned.kinds.get(kind) ?? 0;
  const alike = same > 0 ? `; ${same} of ${learned.files} there ${same === 1 ? "is" : "are"} of its kind` : "";
  return `${telling} in names there${alike}`;
}
