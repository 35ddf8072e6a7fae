import { z } from "zod";
import type { QuietLevel } from "@/core/screen/state";
import { kinds } from "@/core/survey/kinds";
import { itemRefs, type ReportJson, trial } from "./items";

/** What programs have open may be taken along, where the person said so. */
const taking = { evenInUse: z.literal(true).optional(), ...trial };

export const quietInput = z.object({
  /** "toggle": bare where everything is shown, else everything; things taken out of sight one by one stay so. */
  level: z.enum(["everything", "some kinds", "what stays", "bare", "toggle"]),
  /** With "some kinds": these go out of sight. */
  kinds: z.array(z.enum(kinds)).optional(),
  /** What arrives meanwhile goes out of sight too. */
  along: z.boolean().optional(),
  /** When everything comes back by itself, in milliseconds since 1970. */
  until: z.number().optional(),
  ...taking,
});
export type QuietInput = z.infer<typeof quietInput>;

export const hideInput = z.object({ items: itemRefs, ...taking });
export type HideInput = z.infer<typeof hideInput>;

/** How quiet it is. */
export interface QuietAnswer {
  /** Whether anything is out of sight, or would be if it were there. */
  hidden: boolean;
  level: QuietLevel;
  /** Since when, and until when, in ISO 8601; null where it is not quiet, or has no end. */
  since: string | null;
  until: string | null;
  outOfSight: { name: string; path: string }[];
  /** How many things arrived since. */
  arrived: number;
  /** How many things are in sight still as a program has them open. */
  inUse: number;
}

export interface QuietAnswers {
  "quiet/show": ReportJson;
  "quiet/hide": ReportJson;
  "quiet/bring-back": ReportJson;
  "quiet/status": QuietAnswer;
}
