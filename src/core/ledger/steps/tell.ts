import { z } from "zod";
import { screenParts } from "../../screen/state";
import type { StepType } from "../step-type";

const { shown } = screenParts;
const schema = z.object({ type: z.literal("tell"), to: z.enum(["hide", "show"]), shown: z.object({ from: shown, to: shown }) });
export type TellStep = z.infer<typeof schema>;

/** The screen is told to hide its icons, or to show them: by a command that the person wrote down. */
export const tell: StepType<TellStep> = {
  schema,
  role: "screen",
  subject: () => "The screen",
  sentence: ({ to }) => `the screen is told to ${to} its icons`,
  touches: (_step, touch) => touch.record("screen:shown"),
};
