import { z } from "zod";
import { type PlannedHome, splits } from "@/core/homes/filing-plan";
import { itemRefs, ofSitting, type ReportJson, trial } from "./items";

/** A home by its id, by its folder's bytes in base64, or by a title such as "Station / Tides", made where it is new. */
export const homeRef = z.union([
  z.object({ id: z.string().min(1).max(64) }),
  z.object({ folder: z.base64().max(8192) }),
  z.object({ title: z.string().min(1).max(1000) }),
]);
export type HomeRef = z.infer<typeof homeRef>;

/** A pattern for new titles, such as "{date} {short}": see src/core/homes/titles.ts. */
const titlePattern = z.string().trim().min(1).max(255);

/** Puts things into a home, from the worktops or from another home; with `title` under new titles. */
export const putInput = z.object({
  home: homeRef,
  items: itemRefs,
  title: titlePattern.optional(),
  /** Where something of that name lies there: it gets a number, or is refused, so that the person can choose. */
  clash: z.enum(["number", "ask"]).optional(),
  ...ofSitting,
  ...trial,
});
export type PutInput = z.infer<typeof putInput>;

/** Takes the items named, or without any all that surely belong there; into one home, several or all by one act. */
export const sweepInput = z.union([
  z.object({ home: homeRef, items: itemRefs.optional(), title: titlePattern.optional(), ...trial }),
  z.object({
    homes: z
      .array(z.object({ home: homeRef, items: itemRefs.optional() }))
      .min(1)
      .max(1000),
    ...trial,
  }),
  z.object({ all: z.literal(true), ...trial }),
]);
export type SweepInput = z.infer<typeof sweepInput>;

/** A home, and the things that surely belong there. */
export interface ReadyHome {
  id: string;
  title: string;
  things: { id: string; name: string; why: string }[];
}

/** A new home that what lies there suggests, and what would go into it. */
export interface SuggestedHome {
  title: string;
  why: string;
  things: { id: string; name: string }[];
}

/** What a pattern would call things in a home, or where they lie. */
export const titlesInput = z.object({ items: itemRefs, title: titlePattern, home: homeRef.optional() });
export type TitlesInput = z.infer<typeof titlesInput>;

export interface NewTitleAnswer {
  id: string;
  name: string;
  title: string;
  /** The pattern gave a title that is taken: it got a number. */
  numbered: boolean;
}

export const retitleInput = z.object({ items: itemRefs, title: titlePattern, ...trial });
export type RetitleInput = z.infer<typeof retitleInput>;

/** Gathers what is in sight on a worktop, or the things named, into one folder: a home, or one on the worktop by its title. */
export const gatherInput = z.object({
  worktop: z.enum(["desktop", "downloads"]).optional(),
  title: z.string().trim().min(1).max(200).optional(),
  home: homeRef.optional(),
  items: itemRefs.optional(),
  /** Names, and patterns with `*` and `?`, of what stays. */
  except: z.array(z.string().min(1).max(255)).max(1000).optional(),
  /** What a program has open is taken along too. */
  evenInUse: z.boolean().optional(),
  ...trial,
});
export type GatherInput = z.infer<typeof gatherInput>;

/** What has neither a sure home nor a verdict, gathered by likeness, with a home that may fit or a new one. */
export interface OverlookedAnswer {
  why: string;
  home: string;
  isNew: boolean;
  items: string[];
}

/** Sets a gathering out, by its id or title, or the latest; all of it, or the things named. */
export const setOutInput = z.object({
  gathering: z.string().min(1).max(255).optional(),
  things: z.array(z.string().min(1).max(1024)).min(1).max(100_000).optional(),
  ...trial,
});
export type SetOutInput = z.infer<typeof setOutInput>;

/** A gathering of which something still lies in its folder. */
export interface GatheringAnswer {
  id: string;
  title: string;
  /** Where its folder is now, as shown. */
  place: string;
  when: string;
  things: { id: string; name: string; from: string }[];
}

/** Splits a home into folders below it. */
export const splitInput = z.object({ home: homeRef, by: z.enum(splits), ...trial });
export type SplitInput = z.infer<typeof splitInput>;

/** Makes homes, with nothing in them yet. */
export const addHomesInput = z.object({ homes: z.array(homeRef).min(1, "no home was named").max(100), ...trial });
export type AddHomesInput = z.infer<typeof addHomesInput>;

/** A home, as it is chosen from the list of them. */
export interface HomeChoice {
  id: string;
  title: string;
  files: number;
}

export interface HomesAnswers {
  "homes/list": HomeChoice[];
  "homes/put": ReportJson;
  "homes/sweep": ReportJson;
  "homes/titles": NewTitleAnswer[];
  "homes/retitle": ReportJson;
  "homes/add": ReportJson & { homes: { id: string }[] };
  "homes/split": ReportJson;
  "homes/plan": PlannedHome[];
  "homes/overlooked": OverlookedAnswer[];
  "homes/finer": OverlookedAnswer[];
  "homes/ready": ReadyHome[];
  "homes/suggested": SuggestedHome[];
  "homes/gather": ReportJson;
  "homes/gatherings": GatheringAnswer[];
  "homes/set-out": ReportJson;
}
