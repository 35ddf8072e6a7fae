import { z } from "zod";
import { screenParts } from "../../screen/state";
import type { Words } from "../../words/words";
import { ofRecord, type StepType } from "../step-type";

const { shown, size } = screenParts;
const schema = z.discriminatedUnion("part", [
  z.object({ type: z.literal("screen"), part: z.literal("shown"), from: shown, to: shown }),
  z.object({ type: z.literal("screen"), part: z.literal("size"), from: size, to: size }),
]);
export type ScreenStep = z.infer<typeof schema>;

/** One part of the screen's state becomes another. */
export const screen: StepType<ScreenStep> = {
  schema,
  role: "record",
  subject: ofRecord,
  sentence: (step, { words }) => sentenceOf(step, words),
  touches: (step, touch) => touch.record(`screen:${step.part}`),
};

function sentenceOf({ part, to }: ScreenStep, words: Words): string {
  switch (part) {
    case "shown":
      return to.level === "everything"
        ? "all icons shown"
        : `${words.counted(to.hidden.length, "icon")} out of sight, level ${to.level}`;
    case "size":
      return `the screen is ${to.width} by ${to.height} pixels, icons ${to.icon.width}`;
    default:
      return part satisfies never;
  }
}
