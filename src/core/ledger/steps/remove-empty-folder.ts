import { z } from "zod";
import { nameOf, shownName } from "../../names/raw";
import { raw } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({ type: z.literal("remove-empty-folder"), folder: raw, mode: z.number(), mtimeNs: z.string() });
export type RemoveEmptyFolderStep = z.infer<typeof schema>;

/** A folder in which nothing lies any more is taken away. */
export const removeEmptyFolder: StepType<RemoveEmptyFolderStep> = {
  schema,
  role: "preparation",
  subject: (step) => shownName(nameOf(step.folder)),
  sentence: (step, { root }) => `removed the empty folder ${shownPlace(step.folder, root)}`,
  touches: (step, touch) => touch.leave(step.folder),
};
