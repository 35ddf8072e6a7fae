import { z } from "zod";
import { nameOf, shownName } from "../../names/raw";
import { raw } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({
  type: z.literal("make-folder"),
  folder: raw,
  mode: z.number().optional(),
  /** A folder that later acts rely on without being asked, such as the trash; undone only once it is empty. */
  shared: z.literal(true).optional(),
  /** One that the person named for this act, which may work in it wherever it lies. */
  named: z.literal(true).optional(),
});
export type MakeFolderStep = z.infer<typeof schema>;

/** A folder is made. */
export const makeFolder: StepType<MakeFolderStep> = {
  schema,
  role: "preparation",
  subject: (step) => shownName(nameOf(step.folder)),
  sentence: (step, { root }) => `made the folder ${shownPlace(step.folder, root)}`,
  touches(step, touch) {
    if (!step.shared) touch.fill(step.folder);
  },
  widens: (step) => (step.named ? step.folder : undefined),
};
