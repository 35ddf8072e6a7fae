import { z } from "zod";
import { iconSizes } from "@/core/screen/state";
import { type Bed, orders } from "@/core/straighten/arrange";
import { mostMargin, mostSpacing } from "@/core/straighten/grid";
import { type ReportJson, trial } from "./items";

export const straightenings = [...orders, "beds", "near"] as const;
export type Straightening = (typeof straightenings)[number];

/** The icons onto a grid: in an order, in beds, or each kept near its place. Sizes are in pixels. */
export const straightenInput = z.object({
  by: z.enum(straightenings),
  /** How large the icons are then; without it as they are. */
  icon: z
    .number()
    .refine((size) => (iconSizes as readonly number[]).includes(size), `icons are drawn in ${iconSizes.join(", ")} pixels`)
    .optional(),
  spacing: z.int().min(0).max(mostSpacing).optional(),
  margin: z.int().min(0).max(mostMargin).optional(),
  ...trial,
});
export type StraightenInput = z.infer<typeof straightenInput>;

/** An icon and where it would lie. */
export interface SpotJson {
  item: string;
  x: number;
  y: number;
}

/** How a straightening comes out. */
export interface Straight {
  /** How many icons are in sight, and how many cells there are for them. */
  icons: number;
  fits: number;
  /** How many would fit by the size of the icons. */
  room: { icon: number; fits: number }[];
  /** Where they do not fit: with these all of them do, or else the most. */
  best?: { icon: number; spacing: number; margin: number; fits: number };
  /** Where each icon would lie that lies elsewhere now. */
  spots: SpotJson[];
  /** How far all of them move together, in pixels; and how far they would if they were sorted by name. */
  way: number;
  sortedWay: number;
  beds: Bed[];
  /** Of what is out of sight: how many had to make room. */
  aside: number;
}

export type StraightenAnswer = ReportJson & { straight: Straight };
