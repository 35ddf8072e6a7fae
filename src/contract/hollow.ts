import { z } from "zod";
import { trial } from "./items";

const pixel = z.number().min(-100_000).max(100_000);
const named = z.string().min(1).max(200);

/** A hollow on the desktop: drawn as nothing, at a place where the screen can be told one; or marked hidden, which has no place. */
export const makeHollowInput = z
  .object({
    x: pixel.optional(),
    y: pixel.optional(),
    note: z.string().trim().max(200).optional(),
    hidden: z.literal(true).optional(),
    ...trial,
  })
  .refine(({ x, y }) => (x === undefined) === (y === undefined), "a place is two numbers")
  .refine(({ x, hidden }) => !hidden || x === undefined, "what is marked hidden lies at no place");
export type MakeHollowInput = z.infer<typeof makeHollowInput>;

/** A hollow by its id, its note, or its number in the list. */
export const hollowInput = z.object({ hollow: named, ...trial });
export type HollowInput = z.infer<typeof hollowInput>;

/** It becomes an ordinary folder of a name. */
export const openHollowInput = z.object({ hollow: named, name: z.string().trim().min(1).max(200), ...trial });
export type OpenHollowInput = z.infer<typeof openHollowInput>;

export const seenHollowInput = z.object({ hollow: named, seen: z.enum(["nothing", "a box", "a label"]), ...trial });
export type SeenHollowInput = z.infer<typeof seenHollowInput>;

/** By what one that is in order is not seen, in words: what was measured, and no more. */
export function undrawnInWords({ hidden, fonts }: Pick<HollowLine, "hidden" | "fonts">): string {
  if (hidden) return "Marked hidden: the desktop does not show it. A program that is told to show hidden files lists it.";
  if (!fonts) return "By what its name and its picture say it should not be drawn.";
  const all = fonts.measured === 1 ? "the one font" : `the ${fonts.measured} fonts`;
  return fonts.drawnIn.length === 0
    ? `None of ${all} of this computer draws its name, and its picture is clear.`
    : `Every blank name is drawn by some of ${all} of this computer; this one by the fewest: ${fonts.drawnIn.slice(0, 3).join(", ")}.`;
}

/** A hollow as it is now. */
export interface HollowLine {
  id: string;
  /** From one on; in no other list does it have this number. */
  number: number;
  note: string;
  /** Where it lies, to read: "on the desktop", "in ~/Papers"; null where it was not found. */
  place: string | null;
  /** Its item, where it lies on the desktop. */
  item: string | null;
  /** Where it was made, or last put in order. */
  x: number | null;
  y: number | null;
  /** In ISO 8601. */
  madeAt: string;
  /** What its name is made of, in words. */
  name: string;
  /** The name itself, as it would be drawn. */
  blank: string;
  /** It is marked hidden, with a dot in front of its name; else it is drawn as nothing. */
  hidden: boolean;
  /** By what its name and its picture say it should not be drawn. */
  undrawn: boolean;
  /** Of the fonts of this computer so many were measured, and these draw its name after all; null where that could not be. */
  fonts: { measured: number; drawnIn: string[] } | null;
  /** What is not as it should be, a sentence each. */
  wrong: string[];
  seen: "nothing" | "a box" | "a label" | null;
  /** How many things lie in it, and what the first are called. */
  things: number;
  inside: string[];
}
