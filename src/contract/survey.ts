import { z } from "zod";
import { kinds } from "@/core/survey/kinds";

/** `survey --json`. Numbers of bytes are exact up to 2^53. What is not known is null, never a guess. */
export const surveyAnswer = z.object({
  account: z.string(),
  worktops: z.array(
    z.object({
      id: z.enum(["desktop", "downloads"]),
      path: z.string(),
      figures: z.object({
        items: z.number(),
        bytes: z.number(),
        coveredShare: z.number().nullable(),
        overlapping: z.number().nullable(),
        nowhereElse: z.number().nullable(),
        minutesToClear: z.number().nullable(),
      }),
      items: z.array(
        z.object({
          name: z.string(),
          path: z.string(),
          kind: z.enum(kinds),
          bytes: z.number(),
          modifiedAt: z.string(),
          position: z.object({ x: z.number(), y: z.number() }).optional(),
        }),
      ),
    }),
  ),
  findings: z.array(
    z.object({
      kind: z.string(),
      items: z.array(z.string()),
      proof: z.string(),
      wins: z.object({ items: z.number(), bytes: z.number() }),
    }),
  ),
});
export type SurveyAnswer = z.infer<typeof surveyAnswer>;
