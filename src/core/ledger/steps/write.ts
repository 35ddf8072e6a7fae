import { z } from "zod";
import { folderOf, nameOf, shownName } from "../../names/raw";
import { raw, smallFile } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({
  type: z.literal("write"),
  file: raw,
  before: smallFile.nullable(),
  after: smallFile.nullable(),
  /** It goes once nothing else lies in its folder: what it tells of is still to be told while something does. */
  ifAlone: z.literal(true).optional(),
});
export type WriteStep = z.infer<typeof schema>;

/** A small file of Vuoto's own, such as a launcher or a page, is written or taken away. */
export const write: StepType<WriteStep> = {
  schema,
  role: "preparation",
  subject: (step) => shownName(nameOf(step.file)),
  sentence: (step, { root }) =>
    `${step.after === null ? "took away" : "wrote"} ${shownName(nameOf(step.file))} in ${shownPlace(folderOf(step.file), root)}`,
  touches(step, touch) {
    touch.record(`written:${step.file}`);
    touch.use(step.file);
  },
};
