import { z } from "zod";
import { findingKinds, type SettlingKind, settlingKinds } from "@/core/survey/findings";
import { kinds } from "@/core/survey/kinds";
import { folderRef } from "./folders";
import { itemRefs, ofSitting, type ReportJson, trial } from "./items";
import type { PlaceView, SurveyView, ViewSince } from "./views";

/** Marks a folder as protected; null takes the mark away. */
export const protectInput = z.object({
  folder: folderRef,
  protection: z.enum(["backed up", "synchronised"]).nullable(),
  ...trial,
});
export type ProtectInput = z.infer<typeof protectInput>;

/** Leaves a folder, or all folders of a name out of the walk; `out` false looks into it again. */
export const leaveOutInput = z.union([
  z.object({ folder: folderRef, out: z.boolean(), ...trial }),
  z.object({
    name: z
      .string()
      .trim()
      .min(1)
      .max(255)
      .refine((name) => !name.includes("/"), "a name holds no /"),
    out: z.boolean(),
    ...trial,
  }),
]);
export type LeaveOutInput = z.infer<typeof leaveOutInput>;

/** What the walk of homes and protected places does not look into. */
export interface LeftOutAnswer {
  always: { title: string; why: string }[];
  names: string[];
  folders: { folder: string; title: string }[];
  unreadable: { folder: string; title: string }[];
  /** Folders that hold very many files, and how many. */
  enormous: { title: string; files: number }[];
}

/** Lets go of what a finding is about: all of it, or only the things named. */
export const settleInput = z.object({
  finding: z.enum(settlingKinds),
  items: itemRefs.optional(),
  ...ofSitting,
  ...trial,
});
export type SettleInput = z.infer<typeof settleInput>;

/** Things that belong together, and why. */
export interface FamilyOnSheet {
  why: string;
  items: string[];
}

/** A thing in a list of such, with how it is known. */
export interface ProvenThing {
  id: string;
  name: string;
  proof: string;
  size: string;
  worktop: string;
}

/** The things that a finding is about, each with its own proof. */
export const findingInput = z.object({ finding: z.enum(findingKinds) });

/** Things that can be settled together. */
export interface FamilyAnswer {
  /** What joins them, in words. */
  why: string;
  /** The finding that proves that they can be let go, where one does. */
  settles: SettlingKind | null;
  each: ProvenThing[];
}

/** `survey --json`. Numbers of bytes are exact up to 2^53. What is not known is null, never a guess. */
export const surveyAnswer = z.object({
  account: z.string(),
  worktops: z.array(
    z.object({
      id: z.enum(["desktop", "downloads"]),
      path: z.string(),
      figures: z.object({
        items: z.number(),
        bytes: z.number(),
        coveredShare: z.number().nullable(),
        overlapping: z.number().nullable(),
        nowhereElse: z.number().nullable(),
        minutesToClear: z.number().nullable(),
        /** Things and bytes of each kind, the largest first. */
        kinds: z.array(z.object({ kind: z.enum(kinds), items: z.number(), bytes: z.number() })),
        /** Things with a dot in front of their names: no icons, and none of the items. */
        hidden: z.number(),
      }),
      items: z.array(
        z.object({
          id: z.string(),
          name: z.string(),
          path: z.string(),
          kind: z.enum(kinds),
          bytes: z.number(),
          modifiedAt: z.string(),
          position: z.object({ x: z.number(), y: z.number() }).optional(),
        }),
      ),
    }),
  ),
  findings: z.array(
    z.object({
      kind: z.enum(findingKinds),
      items: z.array(z.string()),
      proof: z.string(),
      /** The proof for each thing, in the same order. */
      proofs: z.array(z.string()),
      /** Of twins, in the same order, the file that stays for each; null where it is no twin. */
      stays: z.array(z.string().nullable()),
      wins: z.object({ items: z.number(), bytes: z.number() }),
    }),
  ),
});
export type SurveyAnswer = z.infer<typeof surveyAnswer>;

export interface SurveyAnswers {
  "survey/survey": SurveyAnswer;
  "survey/since": ViewSince<SurveyView>;
  /** Worktops that could not be read, and why the look failed, where it did. */
  "survey/refresh": { unreadable: ("desktop" | "downloads")[]; trouble?: string };
  "survey/settle": ReportJson;
  "survey/families": FamilyOnSheet[];
  "survey/family": FamilyAnswer | null;
  "survey/finding": ProvenThing[];
  "survey/protect": ReportJson;
  "survey/places": PlaceView[];
  "survey/left-out": LeftOutAnswer;
  "survey/leave-out": ReportJson;
}
