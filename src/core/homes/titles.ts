import { cutBytes, freeName, splitEnding } from "../names/free-name";
import { type Raw, rawFromText, textOfRaw } from "../names/raw";
import type { Kind } from "../survey/kinds";

/** A thing that is to get a new title. */
export interface TitledThing {
  name: Raw;
  kind: Kind;
  /** A folder's name has no ending. */
  folder: boolean;
  /** When a picture was taken, or else when the thing was last changed: "2026-11-25", the person's own day. */
  date: string;
  /** Orders the numbers: milliseconds since 1970. */
  at: number;
}

/** What a pattern can say in braces: the name as it is, that name made short, the date, the kind, and a number by date. */
export const titleWords = ["name", "short", "date", "kind", "number"] as const;
type TitleWord = (typeof titleWords)[number];

type Part = { text: string } | { word: TitleWord };

/** A pattern such as "{date} {short}", taken apart; undefined where a word in braces is none, or nothing is left of it. */
export function readPattern(pattern: string): Part[] | undefined {
  const parts: Part[] = [];
  for (const piece of pattern
    .normalize("NFC")
    .trim()
    .split(/(\{[^{}]*\})/)) {
    const word = /^\{(.*)\}$/s.exec(piece)?.[1]?.trim().toLowerCase();
    if (word === undefined) {
      const text = piece.replace(/[\u0000-\u001f\u007f/]/g, " ").replace(/\s+/g, " ");
      if (text !== "") parts.push({ text });
    } else if ((titleWords as readonly string[]).includes(word)) parts.push({ word: word as TitleWord });
    else return undefined;
  }
  return parts.length > 0 ? parts : undefined;
}

const longest = 255;
/** A shorter label is at most so many characters, unless its first word is longer. */
const mostOfShort = 32;

/**
 * A long name made short: without what stands in brackets, the marks of a copy and an article in front, then its first
 * words. What is short already stays as it is. `whole`: with all its words, and what stands in brackets.
 */
export function shortened(text: string, { whole = false } = {}): string {
  const plain = (whole ? text : text.replace(/\s*[([{][^)\]}]*[)\]}]/g, " "))
    .replace(/\b(copy|copie|kopie)( of| de| von)?\b/gi, " ")
    .replace(/^\s*(the|a|an)\s+/i, "")
    .replace(/\s+/g, " ")
    .replace(/^[\s\-–—_,.;:]+|[\s\-–—_,.;:]+$/g, "");
  if (plain === "") return text;
  if (whole || [...plain].length <= mostOfShort) return plain;
  const words = plain.split(/(?<=[\s\-_])/);
  let short = "";
  for (const word of words) {
    if (short !== "" && [...(short + word).trimEnd()].length > mostOfShort) break;
    short += word;
  }
  const cut = [...short].length > mostOfShort * 2 ? [...short].slice(0, mostOfShort).join("") : short;
  // No little word is left hanging at the end.
  return cut.replace(/([\s\-_]+(that|which|of|for|the|a|an|and|in|at|to|with))*[\s\-_,.;:]*$/i, "");
}

/** Long names made short, but for those that would come to be called alike: these keep what tells them apart. */
export function shortTold(texts: readonly (string | undefined)[]): (text: string) => string {
  const alike = new Map<string, Set<string>>();
  for (const text of texts) {
    if (text === undefined) continue;
    const short = shortened(text).toLowerCase();
    alike.set(short, (alike.get(short) ?? new Set()).add(text));
  }
  return (text) => {
    const short = shortened(text);
    return (alike.get(short.toLowerCase())?.size ?? 1) > 1 ? shortened(text, { whole: true }) : short;
  };
}

export interface NewTitle {
  name: Raw;
  /** The pattern gave a title that is taken: it got a number. */
  numbered: boolean;
}

/**
 * The names that a pattern gives to things, in their order; each keeps its ending, and stays within 255 bytes. `taken`: what
 * lies there already. Numbers count by date, with as many figures as are needed.
 */
export function newTitles(things: readonly TitledThing[], parts: readonly Part[], taken: (name: Raw) => boolean): NewTitle[] {
  const byDate = things.map((_, n) => n).sort((a, b) => things[a]!.at - things[b]!.at || a - b);
  const numberOf = new Map(byDate.map((n, place) => [n, place + 1]));
  const figures = String(things.length).length;
  const shortOf = shortTold(things.map(({ name, folder }) => textOfRaw(folder ? name : splitEnding(name).stem)));
  const wanted = things.map((thing, n) => {
    const { stem, ending } = thing.folder ? { stem: thing.name, ending: "" as Raw } : splitEnding(thing.name);
    const text = textOfRaw(stem);
    const word = (which: TitleWord): Raw => {
      switch (which) {
        case "name":
          return stem;
        case "short":
          // What is no text cannot be read, and stays.
          return text === undefined ? stem : rawFromText(shortOf(text));
        case "date":
          return rawFromText(thing.date);
        case "kind":
          return rawFromText(thing.kind);
        case "number":
          return rawFromText(String(numberOf.get(n)).padStart(figures, "0"));
        default:
          return which satisfies never;
      }
    };
    const title = parts.map((part) => ("text" in part ? rawFromText(part.text) : word(part.word))).join("");
    // A dot in front would hide it. These are bytes: only the plain space is one.
    const clean = title.replace(/^[. ]+| +$/g, "") as Raw;
    return (cutBytes(clean === "" ? stem : clean, longest - ending.length) + ending) as Raw;
  });
  const given = new Set<Raw>();
  const names = new Map<number, NewTitle>();
  const give = (n: number) => {
    const name = freeName(wanted[n]!, (one) => given.has(one) || (one !== things[n]!.name && taken(one)));
    given.add(name);
    names.set(n, { name, numbered: name !== wanted[n] });
  };
  // What keeps its name has it before any other that would be called so.
  for (const [n, thing] of things.entries()) if (wanted[n] === thing.name) give(n);
  for (const n of things.keys()) if (!names.has(n)) give(n);
  return things.map((_, n) => names.get(n)!);
}
