import { z } from "zod";
import { folderOf, nameOf, shownName } from "../../names/raw";
import { identity, raw } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({
  type: z.literal("restore"),
  item: z.string().optional(),
  trash: raw,
  name: raw,
  info: z.string(),
  to: raw,
  identity,
});
export type RestoreStep = z.infer<typeof schema>;

/** One thing comes back from the trash. */
export const restore: StepType<RestoreStep> = {
  schema,
  role: "thing",
  subject: (step) => shownName(nameOf(step.to)),
  sentence: (step, { root }) => `${shownName(nameOf(step.to))} from the trash to ${shownPlace(folderOf(step.to), root)}`,
  touches(step, touch) {
    touch.fill(step.to);
    touch.record(`trash:${step.trash}/${step.name}`);
    touch.item(step.item);
  },
};
