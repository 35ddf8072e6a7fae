import { z } from "zod";
import { itemRefs, ofSitting, trial } from "./items";

/** A home by its id, by its folder's bytes in base64, or by a title such as "Station / Tides", made where it is new. */
export const homeRef = z.union([
  z.object({ id: z.string().min(1).max(64) }),
  z.object({ folder: z.base64().max(8192) }),
  z.object({ title: z.string().min(1).max(1000) }),
]);
export type HomeRef = z.infer<typeof homeRef>;

export const putInput = z.object({
  home: homeRef,
  items: itemRefs,
  ...ofSitting,
  ...trial,
});
export type PutInput = z.infer<typeof putInput>;

/** Takes the items named, or without any all that surely belong there. */
export const sweepInput = z.object({ home: homeRef, items: itemRefs.optional(), ...trial });
export type SweepInput = z.infer<typeof sweepInput>;

export const addHomeInput = z.object({ home: homeRef, ...trial });
export type AddHomeInput = z.infer<typeof addHomeInput>;
