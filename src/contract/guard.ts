import { z } from "zod";

/** A browser that was let in, as it is listed. */
export interface SessionLine {
  id: string;
  /** Which browser, on what, as it said itself. */
  browser: string;
  made: string;
  used: string;
  /** The one that asks. */
  own: boolean;
}

/** One session by its id, or all. */
export const endSessionsInput = z.object({ session: z.string().min(1).max(64).optional() });

export interface GuardAnswers {
  "guard/sessions": SessionLine[];
  "guard/end": { ended: number };
}
