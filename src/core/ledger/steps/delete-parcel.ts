import { z } from "zod";
import { raw } from "../shapes";
import type { StepType } from "../step-type";

const schema = z.object({
  type: z.literal("delete-parcel"),
  parcel: z.string(),
  title: z.string(),
  /** The depot's id, and its title. */
  depot: z.string(),
  depotTitle: z.string(),
  /** The name of the parcel's folder in it, and SHA-256 of its tag manifest. */
  bag: raw,
  tags: z.string().nullable(),
  /** The name that it has in the depot while it is taken away, which nobody else gives. */
  aside: raw,
  files: z.number(),
});
export type DeleteParcelStep = z.infer<typeof schema>;

/** A parcel is taken away in its depot, for good. */
export const deleteParcel: StepType<DeleteParcelStep> = {
  schema,
  role: "parcel",
  subject: (step) => step.title,
  sentence: (step, { words }) => `${step.title} deleted in ${step.depotTitle}, with ${words.counted(step.files, "file")}`,
  // The sending itself can still be undone: what it let go lies in the trash.
  touches: (step, touch) => touch.record(`set:parcel:${step.parcel}`),
};
