import { z } from "zod";
import { folderOf, nameOf, shownName } from "../../names/raw";
import { identity, raw } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

const schema = z.object({
  type: z.literal("move"),
  item: z.string().optional(),
  from: raw,
  to: raw,
  identity,
  /** Also while a program has it open, as the person said: within its file system alone, where the program goes on with it. */
  evenInUse: z.literal(true).optional(),
  /**
   * It goes out of sight, or comes back in sight. What was taken comes back whatever stands in its way: also while a program has it
   * open, and under another name where its own is taken.
   */
  sight: z.enum(["out", "back"]).optional(),
});
export type MoveStep = z.infer<typeof schema>;

/** One thing goes to another folder, or gets another name. */
export const move: StepType<MoveStep> = {
  schema,
  role: "thing",
  subject: (step) => shownName(nameOf(step.from)),
  sentence(step, { root }) {
    const [from, to] = [shownPlace(folderOf(step.from), root), shownPlace(folderOf(step.to), root)];
    if (from === to) return `${shownName(nameOf(step.from))} in ${from} called ${shownName(nameOf(step.to))}`;
    const as = nameOf(step.from) === nameOf(step.to) ? "" : ` as ${shownName(nameOf(step.to))}`;
    return `${shownName(nameOf(step.from))} from ${from} to ${to}${as}`;
  },
  touches(step, touch) {
    touch.leave(step.from);
    touch.fill(step.to);
    touch.item(step.item);
  },
  takes: ({ from, identity, evenInUse, sight }) => (evenInUse || sight === "back" ? undefined : { from, identity }),
};
