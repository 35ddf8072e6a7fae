import { z } from "zod";
import { shownName } from "../../names/raw";
import { identity, parcelRef, raw, treeEntry } from "../shapes";
import type { StepType } from "../step-type";

const schema = z.object({
  type: z.literal("erase"),
  item: z.string().optional(),
  trash: raw,
  name: raw,
  info: z.string(),
  identity,
  /** What a parcel holds of it, from which an undo fetches it back. */
  copy: z.object({ parcel: parcelRef, tree: z.array(treeEntry) }).optional(),
  /** The state of all in it when it was counted. */
  state: z.string().optional(),
});
export type EraseStep = z.infer<typeof schema>;

/** A thing in the trash is destroyed. */
export const erase: StepType<EraseStep> = {
  schema,
  role: "thing",
  subject: (step) => shownName(step.name),
  sentence: (step) => `${shownName(step.name)} erased from the trash${step.copy ? "; a parcel holds it" : ""}`,
  touches(step, touch) {
    touch.record(`trash:${step.trash}/${step.name}`);
    touch.item(step.item);
  },
};
