import { z } from "zod";
import { folderOf, nameOf, shownName } from "../../names/raw";
import { parcelRef, raw, treeEntry } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({
  type: z.literal("copy"),
  item: z.string().optional(),
  to: raw,
  parcel: parcelRef,
  tree: z.array(treeEntry),
});
export type CopyStep = z.infer<typeof schema>;

/** A thing is written from what a parcel holds of it. */
export const copy: StepType<CopyStep> = {
  schema,
  role: "thing",
  subject: (step) => shownName(nameOf(step.to)),
  sentence: (step, { root }) =>
    `${shownName(nameOf(step.to))} copied to ${shownPlace(folderOf(step.to), root)}, checksums compared`,
  touches(step, touch) {
    touch.fill(step.to);
    touch.item(step.item);
  },
};
