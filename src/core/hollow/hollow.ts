import { z } from "zod";
import { raw } from "../ledger/shapes";
import { type Raw, rawFromText, textOfRaw } from "../names/raw";

/** Characters that are drawn as nothing in a font that has them, with what Unicode calls them; tried in this order. */
export const blanks = {
  "\u00a0": "no-break space",
  "\u2003": "em space",
  "\u3000": "ideographic space",
  "\u2800": "braille pattern blank",
  "\u3164": "hangul filler",
} as const;

/** A name that is drawn as nothing, which no other has. */
export function blankName(isTaken: (name: Raw) => boolean): Raw | undefined {
  for (let length = 1; length <= 40; length++)
    for (const blank of Object.keys(blanks)) {
      const name = rawFromText(blank.repeat(length));
      if (!isTaken(name)) return name;
    }
  return undefined;
}

/** Whether nothing but blanks is in a name. */
export const isBlankName = (name: Raw): boolean => {
  const text = textOfRaw(name);
  return text !== undefined && text !== "" && [...text].every((letter) => Object.hasOwn(blanks, letter));
};

/** A name of blanks in words: "2 times no-break space (U+00A0)". */
export function blankInWords(name: Raw): string {
  const letters = [...(textOfRaw(name) ?? "")];
  const [first] = letters;
  const called = Object.entries(blanks).find(([blank]) => blank === first)?.[1];
  if (first === undefined || called === undefined) return "an ordinary name";
  const code = `U+${first.codePointAt(0)!.toString(16).toUpperCase().padStart(4, "0")}`;
  return `${letters.length === 1 ? "one" : `${letters.length} times`} ${called} (${code})`;
}

/** What a hollow is remembered by. */
export const hollow = z.object({
  /** Where it lay when it was made, or was put in order last. */
  folder: raw,
  /** Where on the screen; null where that is not known. */
  x: z.number().nullable(),
  y: z.number().nullable(),
  note: z.string(),
  /** Milliseconds since 1970. */
  at: z.number(),
  /** What the person saw in its place. */
  seen: z.enum(["nothing", "a box", "a label"]).nullable(),
});
export type Hollow = z.infer<typeof hollow>;

export const metadataFile = rawFromText(".directory");
export const pictureFile = rawFromText(".clear.png");

/** The folder's own metadata (Desktop Entry Specification, Type=Directory): its picture, and by what it is known again. */
export const metadataText = (id: string): Raw =>
  rawFromText(`[Desktop Entry]\nType=Directory\nIcon=./.clear.png\nX-Vuoto-Hollow=${id}\n`);

/** The id that a folder's metadata names; undefined where it is no hollow's. */
export const hollowIn = (metadata: Raw): string | undefined => /^X-Vuoto-Hollow=([0-9a-f-]{36})\s*$/m.exec(metadata)?.[1];

/** 64 by 64 pixels of nothing, as PNG. */
export const clearPicture = atob(
  "iVBORw0KGgoAAAANSUhEUgAAAEAAAABACAMAAACdt4HsAAAAA1BMVEVMaXFNx9g6AAAAAXRSTlMAQObYZgAAAAlwSFlzAAAD6AAAA+gBtXtSawAAABtJREFUWMPtwYEAAAAAw6D5U9/gBFUBAAAAfAMQQAABGbMxdgAAAABJRU5ErkJggg==",
) as Raw;
