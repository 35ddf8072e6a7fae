import { z } from "zod";
import { trial } from "./items";

export const quietInput = z.object({
  level: z.enum(["everything", "what stays", "bare"]),
  ...trial,
});
export type QuietInput = z.infer<typeof quietInput>;
