import { z } from "zod";
import { shownName } from "../../names/raw";
import { identity, point, raw } from "../shapes";
import type { StepType } from "../step-type";

/** A thing that goes into a parcel. `payload` is its name inside the parcel's payload. */
const parcelThing = z.object({ item: z.string(), from: raw, payload: z.string(), identity, position: point.nullable() });

const schema = z.object({
  type: z.literal("send"),
  parcel: z.string(),
  title: z.string(),
  /** The depot's id, and its title. */
  depot: z.string(),
  depotTitle: z.string(),
  /** The name of the parcel's folder in it. */
  bag: raw,
  madeAt: z.string(),
  things: z.array(parcelThing),
});
export type SendStep = z.infer<typeof schema>;

/** A parcel goes to a depot. */
export const send: StepType<SendStep> = {
  schema,
  role: "parcel",
  subject: (step) => step.title,
  sentence: (step, { words }) =>
    `${words.counted(step.things.length, "thing")} sent to ${step.depotTitle} as ${shownName(step.bag)}, read back, checksums compared`,
  touches: (step, touch) => touch.record(`sent:${step.parcel}`),
};
