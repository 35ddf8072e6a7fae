import { z } from "zod";
import { itemRefs, ofSitting, type ReportJson, trial } from "./items";
import type { SittingEnd, ThingView } from "./views";

/** Milliseconds since 1970. */
const until = z.number().positive().max(8.64e15);

export const stayInput = z.object({ items: itemRefs, until: until.optional(), ...ofSitting, ...trial });
export type StayInput = z.infer<typeof stayInput>;

export const waitInput = z.object({ items: itemRefs, until: until.optional(), ...ofSitting, ...trial });
export type WaitInput = z.infer<typeof waitInput>;

export const archiveInput = z.object({
  items: itemRefs,
  /** The parcel's title; without it the one being collected, or a new one named after the year. */
  parcel: z.string().trim().min(1).max(120).optional(),
  ...ofSitting,
  ...trial,
});
export type ArchiveInput = z.infer<typeof archiveInput>;

export const letGoInput = z.object({ items: itemRefs, ...ofSitting, ...trial });
export type LetGoInput = z.infer<typeof letGoInput>;

export const thingInput = z.object({ item: z.string().min(1).max(64) });
/** `wait`: however long it takes to look at it. */
export const lookedInput = thingInput.extend({ wait: z.boolean().optional() });
export const sittingInput = z.object({ sitting: z.string().min(1).max(64) });

/** The acts by which a verdict is given in a sitting, and by which one is taken back. */
export const verdictActs = [
  "homes/put",
  "sitting/stay",
  "sitting/wait",
  "sitting/archive",
  "sitting/let-go",
  "survey/settle",
  "ledger/undo",
] as const;
export type VerdictAct = (typeof verdictActs)[number];

const givenId = z.string().min(8).max(64);

/**
 * Verdicts as they are given, each with an id of its own: given twice it is done once. Answered as soon as they are written
 * down; they are done from there, one after the other.
 */
export const giveInput = z.object({
  verdicts: z
    .array(z.object({ id: givenId, act: z.enum(verdictActs), input: z.record(z.string(), z.unknown()) }))
    .min(1)
    .max(1000),
});
export type GiveInput = z.infer<typeof giveInput>;

/** What verdicts that were given came to: answered once the first of them is done, with all of them that are. */
export const givenInput = z.object({ ids: z.array(givenId).min(1).max(1000) });
export type GivenInput = z.infer<typeof givenInput>;

export interface GivenAnswer {
  id: string;
  report?: ReportJson;
  /** Where it could not be done at all. */
  problem?: { code: string; title: string; remedy: string };
}

export interface SittingAnswers {
  "sitting/stay": ReportJson;
  "sitting/wait": ReportJson;
  "sitting/archive": ReportJson;
  "sitting/let-go": ReportJson;
  "sitting/give": { given: string[] };
  "sitting/given": GivenAnswer[];
  "sitting/thing": ThingView;
  "sitting/end": SittingEnd;
}
