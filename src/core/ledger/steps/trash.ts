import { z } from "zod";
import { folderOf, nameOf, shownName } from "../../names/raw";
import { identity, raw } from "../shapes";
import { type StepType, shownPlace } from "../step-type";

/**
 * Why a thing may be let go: proven again at the moment it is. `other`: the file that stays, whose SHA-256 must be the same;
 * `folder`: where an archive lies unpacked.
 */
const proof = z.discriminatedUnion("kind", [
  z.object({ kind: z.literal("twins"), other: raw, sha256: z.string() }),
  z.object({ kind: z.literal("spent archive"), folder: raw }),
  z.object({ kind: z.literal("dead shortcut") }),
  z.object({ kind: z.literal("empty") }),
  z.object({ kind: z.literal("half download") }),
]);
export type Proof = z.infer<typeof proof>;

const schema = z.object({
  type: z.literal("trash"),
  item: z.string().optional(),
  from: raw,
  /** The trash folder (holding `files` and `info`), and the name in it. */
  trash: raw,
  name: raw,
  /** The whole info file. */
  info: z.string(),
  identity,
  /** Only once this step of the same act, a sending, has proven the copy. */
  sentBy: z.number().optional(),
  /** Only while this still holds. */
  proof: proof.optional(),
});
export type TrashStep = z.infer<typeof schema>;

/** One thing is let go. */
export const trash: StepType<TrashStep> = {
  schema,
  role: "thing",
  subject: (step) => shownName(nameOf(step.from)),
  sentence: (step, { root }) => `${shownName(nameOf(step.from))} from ${shownPlace(folderOf(step.from), root)} to the trash`,
  touches(step, touch) {
    touch.leave(step.from);
    touch.record(`trash:${step.trash}/${step.name}`);
    touch.item(step.item);
  },
  takes: ({ from, identity }) => ({ from, identity }),
  restsOnEarlier: (step) => step.sentBy !== undefined,
};
