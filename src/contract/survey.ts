import { z } from "zod";
import { type SettlingKind, settlingKinds } from "@/core/survey/findings";
import { kinds } from "@/core/survey/kinds";
import { itemRefs, ofSitting, trial } from "./items";

/** Marks a folder, by its bytes in base64, as protected; null takes the mark away. */
export const protectInput = z.object({
  folder: z.base64().max(8192),
  protection: z.enum(["backed up", "synchronised"]).nullable(),
  ...trial,
});
export type ProtectInput = z.infer<typeof protectInput>;

/** Leaves a folder, by its bytes in base64, or all folders of a name out of the walk; `out` false looks into it again. */
export const leaveOutInput = z.union([
  z.object({ folder: z.base64().max(8192), out: z.boolean(), ...trial }),
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

/** Things that can be settled together. */
export interface FamilyAnswer {
  /** What joins them, in words. */
  why: string;
  /** The finding that proves that they can be let go, where one does. */
  settles: SettlingKind | null;
  each: { id: string; name: string; proof: string; size: string; worktop: string }[];
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
      kind: z.string(),
      items: z.array(z.string()),
      proof: z.string(),
      /** The proof for each thing, in the same order. */
      proofs: z.array(z.string()),
      wins: z.object({ items: z.number(), bytes: z.number() }),
    }),
  ),
});
export type SurveyAnswer = z.infer<typeof surveyAnswer>;
