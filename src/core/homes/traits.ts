import { endingOf } from "../names/raw";
import type { Kind } from "../survey/kinds";

/** What is known of a thing when a home is looked for it. */
export interface Thing {
  name: string;
  kind: Kind;
  /** Milliseconds since 1970. */
  mtimeMs: number;
  /** The words at the beginning of its text, and the heads of its columns with a colon in front. */
  words?: readonly string[];
  /** The host it was downloaded from, where that is recorded. */
  sender?: string;
}

/**
 * One trait of a thing, as a letter for what sort it is and its value: `k` kind, `e` ending, `w` a word of the name, `b` how the
 * name begins, `s` its shape, `y` a year in it, `m` the year of the last change, `t` a word of the text, `h` the head of a
 * column, `z` the sender.
 */
export type Trait = `${TraitSort}${string}`;
export type TraitSort = "k" | "e" | "w" | "b" | "s" | "y" | "m" | "t" | "h" | "z";

/** How much a sort counts: those that mostly say the same again, as the words of one text do, count less. */
export const weights: Record<TraitSort, number> = { k: 0.5, e: 1.2, w: 1, b: 0.5, s: 0.9, y: 0.7, m: 0.5, t: 0.35, h: 0.6, z: 1 };

export const sortOf = (trait: Trait) => trait[0] as TraitSort;
export const traitWord = (trait: Trait) => trait.slice(1);

const longestShape = 24;

/** The words of a text, so many at most: letters only, at least two, each once, parted where a capital follows a small letter. */
export function wordsIn(text: string, most = Number.POSITIVE_INFINITY): string[] {
  // Letters of all scripts take five times as long to look for.
  const plain = isPlain.test(text);
  const parted = text.replace(plain ? /([a-z])([A-Z])/g : /(\p{Ll})(\p{Lu})/gu, "$1 $2").toLowerCase();
  const words = new Set<string>();
  for (const [word] of plain ? parted.matchAll(/[a-z]{2,}/g) : parted.normalize("NFC").matchAll(/\p{L}{2,}/gu)) {
    words.add(word);
    if (words.size >= most) break;
  }
  return [...words];
}

/** All of ASCII. */
const isPlain = /^[\x00-\x7f]*$/;

export function stemOf(name: string): string {
  const ending = endingOf(name);
  return ending ? name.slice(0, -ending.length - 1) : name;
}

/** The traits of a thing, each once. */
export function traitsOf({ name, kind, mtimeMs, words, sender }: Thing): Trait[] {
  const stem = stemOf(name);
  const named = wordsIn(stem);
  const traits: Trait[] = [`k${kind}`, `e${endingOf(name)}`, ...named.map((word): Trait => `w${word}`)];
  if (named.length > 0) traits.push(`b${named.slice(0, 2).join(" ")}`);
  // Letters and digits by their runs: "ring-list-week-12" has the shape "a-a-a-0".
  traits.push(
    `s${stem
      .replace(/\p{L}+/gu, "a")
      .replace(/\d+/g, "0")
      .slice(0, longestShape)}`,
  );
  for (const year of new Set(stem.match(/(?<!\d)(?:19|20)\d\d(?!\d)/g) ?? [])) traits.push(`y${year}`);
  traits.push(`m${new Date(mtimeMs).getUTCFullYear()}`);
  for (const word of words ?? []) traits.push(word.startsWith(":") ? `h${word.slice(1)}` : `t${word}`);
  if (sender) traits.push(`z${sender}`);
  return [...new Set(traits)];
}
