import { z } from "zod";
import { trial } from "./items";

export const quietInput = z.object({
  /** "toggle": bare where everything is shown, else everything. */
  level: z.enum(["everything", "what stays", "bare", "toggle"]),
  ...trial,
});
export type QuietInput = z.infer<typeof quietInput>;
