import { type Raw, rawFromText, textOfRaw } from "../names/raw";

/** Characters that are drawn as nothing in a font that has them, with what Unicode calls them; tried in this order. */
export const blanks = {
  "\u00a0": "no-break space",
  "\u2003": "em space",
  "\u3000": "ideographic space",
  "\u2800": "braille pattern blank",
  "\u3164": "hangul filler",
} as const;

/** How one of them is drawn in the fonts that have it. */
export interface BlankMeasured {
  /** So many fonts have it. */
  had: number;
  /** The fonts in which it is drawn after all: as a box, a dot, a mark. */
  drawnIn: string[];
  /** The widest of it, in em. */
  widest: number;
}

/** How they are drawn in the fonts of a computer, by character. */
export interface BlanksMeasured {
  fonts: number;
  blanks: Record<string, BlankMeasured>;
}

/**
 * The blanks that no font draws and some font has, in their order; where there is none of these, those that the fewest draw.
 * All of them where nothing could be measured.
 */
export function bestBlanks(measured: BlanksMeasured | undefined): string[] {
  const all = Object.keys(blanks);
  const had = all.filter((blank) => (measured?.blanks[blank]?.had ?? 0) > 0);
  if (!measured || had.length === 0) return all;
  const drawn = (blank: string) => measured.blanks[blank]!.drawnIn.length;
  const least = Math.min(...had.map(drawn));
  return had.filter((blank) => drawn(blank) === least);
}

/** A name that is drawn as nothing, which no other has. */
export function blankName(isTaken: (name: Raw) => boolean, among: readonly string[] = Object.keys(blanks)): Raw | undefined {
  for (let length = 1; length <= 40; length++)
    for (const blank of among) {
      const name = rawFromText(blank.repeat(length));
      if (!isTaken(name)) return name;
    }
  return undefined;
}

const lettersOf = (name: Raw): string[] => [...(textOfRaw(name) ?? "")];

/** Whether nothing but blanks is in a name. */
export function isBlankName(name: Raw): boolean {
  const letters = lettersOf(name);
  return letters.length > 0 && letters.every((letter) => Object.hasOwn(blanks, letter));
}

/** The fonts in which a name of blanks is drawn after all; undefined where it could not be measured. */
export function fontsThatDraw(name: Raw, measured: BlanksMeasured | undefined): string[] | undefined {
  if (!measured || measured.fonts === 0 || !isBlankName(name)) return undefined;
  const of = lettersOf(name).map((letter) => measured.blanks[letter]);
  if (of.some((one) => !one || one.had === 0)) return undefined;
  return [...new Set(of.flatMap((one) => one!.drawnIn))];
}

/** A name of blanks in words: "2 times no-break space (U+00A0)". */
export function blankInWords(name: Raw): string {
  const letters = lettersOf(name);
  const [first] = letters;
  const called = Object.entries(blanks).find(([blank]) => blank === first)?.[1];
  if (first === undefined || called === undefined) return "an ordinary name";
  const code = `U+${first.codePointAt(0)!.toString(16).toUpperCase().padStart(4, "0")}`;
  return `${letters.length === 1 ? "one" : `${letters.length} times`} ${called} (${code})`;
}
