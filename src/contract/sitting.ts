import { z } from "zod";
import { itemRefs, ofSitting, trial } from "./items";

/** Milliseconds since 1970. */
const until = z.number().positive().max(8.64e15);

export const stayInput = z.object({ items: itemRefs, until: until.optional(), ...ofSitting, ...trial });
export type StayInput = z.infer<typeof stayInput>;

export const waitInput = z.object({ items: itemRefs, until: until.optional(), ...ofSitting, ...trial });
export type WaitInput = z.infer<typeof waitInput>;

export const archiveInput = z.object({
  items: itemRefs,
  /** The parcel's title; without it the one being collected, or a new one named after the year. */
  parcel: z.string().trim().min(1).max(120).optional(),
  ...ofSitting,
  ...trial,
});
export type ArchiveInput = z.infer<typeof archiveInput>;

export const letGoInput = z.object({ items: itemRefs, ...ofSitting, ...trial });
export type LetGoInput = z.infer<typeof letGoInput>;

export const thingInput = z.object({ item: z.string().min(1).max(64) });
export const sittingInput = z.object({ sitting: z.string().min(1).max(64) });
