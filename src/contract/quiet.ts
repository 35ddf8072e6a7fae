import { z } from "zod";
import type { QuietLevel } from "@/core/screen/state";
import { type ReportJson, trial } from "./items";

export const quietInput = z.object({
  /** "toggle": bare where everything is shown, else everything. */
  level: z.enum(["everything", "what stays", "bare", "toggle"]),
  ...trial,
});
export type QuietInput = z.infer<typeof quietInput>;

/** How quiet it is: the level, the paths of what is out of sight, and how many things arrived since. */
export interface QuietAnswer {
  level: QuietLevel;
  outOfSight: string[];
  arrived: number;
}

export interface QuietAnswers {
  "quiet/show": ReportJson;
  "quiet/status": QuietAnswer;
}
