import { z } from "zod";
import { point } from "../shapes";
import { ofRecord, type StepType } from "../step-type";

const schema = z.object({ type: z.literal("place"), item: z.string(), from: point.nullable(), to: point.nullable() });
export type PlaceStep = z.infer<typeof schema>;

/** An icon gets a place on the screen. */
export const place: StepType<PlaceStep> = {
  schema,
  role: "record",
  subject: ofRecord,
  sentence: (step, { titleOf }) =>
    `${titleOf(step.item)} placed${step.to ? ` at ${Math.round(step.to.x)}, ${Math.round(step.to.y)}` : ""}`,
  touches: (step, touch) => touch.record(`place:${step.item}`),
  restsOnEarlier: () => true,
};
