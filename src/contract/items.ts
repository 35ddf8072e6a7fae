import { z } from "zod";
import { stepTypeNames } from "@/core/ledger/step";

/** A thing, by the opaque id of the interface, or by its path's bytes in base64, as the command line knows it. */
export const itemRef = z.union([z.string().min(1).max(64), z.object({ path: z.base64().max(8192) })]);
export type ItemRef = z.infer<typeof itemRef>;

export const itemRefs = z.array(itemRef).min(1, "no thing was named").max(100_000);

/** Every act takes this; with it nothing is changed, and the report says what would be. */
export const trial = { dryRun: z.boolean().optional() };

/** A verdict given in a sitting, the id under which it was given, and how long it took. */
export const ofSitting = {
  sitting: z.string().max(64).optional(),
  given: z.string().max(64).optional(),
  tookMs: z.number().min(0).optional(),
};

/** One step of a trial: what it would do with what, in words too. */
export const trialStep = z.object({
  type: z.enum(stepTypeNames),
  /** The name of what it concerns, and the id of the thing, where it is one. */
  subject: z.string(),
  item: z.string().optional(),
  words: z.string(),
});
export type TrialStep = z.infer<typeof trialStep>;

/** What an act answers. */
export const report = z.object({
  entry: z.number().nullable(),
  act: z.string(),
  words: z.string(),
  done: z.number(),
  /** `item`: the id of the thing, where it is one. */
  refused: z.array(z.object({ name: z.string(), item: z.string().optional(), code: z.string(), why: z.string() })),
  /** Of a trial: what would be done. */
  steps: z.array(trialStep).optional(),
  /** Of the trial of undoing several: these acts, in this order. */
  acts: z.array(z.string()).optional(),
  /** Of the trial of undoing a sitting: later acts that are not of it, and stand in the way; `withLater` undoes them too. */
  inTheWay: z.array(z.string()).optional(),
});
export type ReportJson = z.infer<typeof report>;

/** Whether something was done, if only in the record: what was refused as a whole begins with "Not". */
export const isNoted = ({ entry, words }: Pick<ReportJson, "entry" | "words">): boolean =>
  entry !== null && !/^Not (?:done|undone)/.test(words);

/** A problem as it crosses HTTP (RFC 9457). */
export const problemDetails = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  detail: z.string(),
  code: z.string(),
  remedy: z.string(),
});
export type ProblemDetails = z.infer<typeof problemDetails>;
