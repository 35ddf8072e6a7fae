import { z } from "zod";
import { trial } from "./items";

const pixel = z.number().min(-100_000).max(100_000);
const named = z.string().min(1).max(200);

/** A hollow on the desktop, at a place where the screen can be told one. */
export const makeHollowInput = z
  .object({ x: pixel.optional(), y: pixel.optional(), note: z.string().trim().max(200).optional(), ...trial })
  .refine(({ x, y }) => (x === undefined) === (y === undefined), "a place is two numbers");
export type MakeHollowInput = z.infer<typeof makeHollowInput>;

/** A hollow by its id, its note, or its number in the list. */
export const hollowInput = z.object({ hollow: named, ...trial });
export type HollowInput = z.infer<typeof hollowInput>;

/** It becomes an ordinary folder of a name. */
export const openHollowInput = z.object({ hollow: named, name: z.string().trim().min(1).max(200), ...trial });
export type OpenHollowInput = z.infer<typeof openHollowInput>;

export const seenHollowInput = z.object({ hollow: named, seen: z.enum(["nothing", "a box", "a label"]), ...trial });
export type SeenHollowInput = z.infer<typeof seenHollowInput>;

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
  /** By what its name and its picture say it should not be drawn. */
  undrawn: boolean;
  /** What is not as it should be, a sentence each. */
  wrong: string[];
  seen: "nothing" | "a box" | "a label" | null;
  /** How many things lie in it, and their bytes. */
  things: number;
}
