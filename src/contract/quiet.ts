import { z } from "zod";
import { type Doubt, weekdays } from "@/core/quiet/occasions";
import type { QuietLevel } from "@/core/screen/state";
import { kinds } from "@/core/survey/kinds";
import { type HollowLine, hollowInput, makeHollowInput, openHollowInput, seenHollowInput } from "./hollow";
import { itemRef, itemRefs, type ReportJson, trial } from "./items";
import {
  type BroughtAnswer,
  type Compared,
  importLayoutInput,
  keepLayoutInput,
  type LayoutDocument,
  type LayoutLine,
  layoutActInput,
  layoutInput,
} from "./layouts";
import { type StraightenAnswer, straightenInput } from "./straighten";
import type { QuietView, ViewSince } from "./views";

/** What programs have open may be taken along, where the person said so. */
const taking = { evenInUse: z.literal(true).optional(), ...trial };

const quietInput = z.object({
  /** "toggle": bare where everything is shown, else everything; things taken out of sight one by one stay so. */
  level: z.enum(["everything", "some kinds", "what stays", "bare", "toggle"]),
  /** With "some kinds": these go out of sight. */
  kinds: z.array(z.enum(kinds)).optional(),
  /** What arrives meanwhile goes out of sight too. */
  along: z.boolean().optional(),
  /** When everything comes back by itself, in milliseconds since 1970. */
  until: z.number().optional(),
  ...taking,
});
export type QuietInput = z.infer<typeof quietInput>;

const hideInput = z.object({ items: itemRefs, ...taking });
export type HideInput = z.infer<typeof hideInput>;

const hour = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/, "an hour is written as 17:30");

/** A new occasion, or one that becomes another: begun by hand, or on days of the week from an hour to another. */
const addOccasionInput = z
  .object({
    /** The id of the one that is changed. */
    occasion: z.string().min(1).max(100).optional(),
    title: z
      .string()
      .trim()
      .min(1)
      .max(60)
      .regex(/^\P{Cc}*$/u, "a title is one line"),
    level: z.enum(["some kinds", "what stays", "bare"]),
    kinds: z.array(z.enum(kinds)).optional(),
    days: z.array(z.enum(weekdays)).min(1, "no day was named").optional(),
    from: hour.optional(),
    to: hour.optional(),
    /** While it is under way no names of things are sent to Vuoto's own pages. */
    unnamed: z.boolean().optional(),
    /** The layout that it brings when it begins, by its id or its title. */
    layout: z.string().trim().min(1).max(100).optional(),
    ...trial,
  })
  .refine(({ days, from, to }) => (days === undefined) === (from === undefined) && (days === undefined) === (to === undefined), {
    message: "a timetable needs days, an hour to begin and an hour to end",
  });
export type AddOccasionInput = z.infer<typeof addOccasionInput>;

const occasionInput = z.object({
  /** Its id, or its title. */
  occasion: z.string().min(1).max(100),
  does: z.enum(["start", "end", "longer", "remove"]),
  /** With "start": when it ends by itself; with "longer": to when. In milliseconds since 1970. */
  until: z.number().optional(),
  ...trial,
});
export type OccasionInput = z.infer<typeof occasionInput>;

/** Lets what ends next go on: to a time, in milliseconds since 1970, else for half an hour more. */
const longerInput = z.object({ until: z.number().optional(), ...trial });
export type LongerInput = z.infer<typeof longerInput>;

const pixel = z.number().min(-100_000).max(100_000);
/** Icons get other places, each by the pixel of its upper left corner. */
const placeInput = z.object({
  spots: z
    .array(z.object({ item: itemRef, x: pixel, y: pixel }))
    .min(1, "no thing was named")
    .max(100_000),
  ...trial,
});
export type PlaceInput = z.infer<typeof placeInput>;

/** The acts and questions about quiet, with what each takes. */
export const quietApi = {
  "quiet/show": quietInput,
  "quiet/hide": hideInput,
  "quiet/bring-back": hideInput,
  "quiet/status": z.object({}),
  "quiet/shown": z.object({}),
  "quiet/since": z.object({ mark: z.string().max(64) }),
  "quiet/occasions": z.object({}),
  "quiet/add-occasion": addOccasionInput,
  "quiet/occasion": occasionInput,
  "quiet/longer": longerInput,
  "quiet/place": placeInput,
  "quiet/straighten": straightenInput,
  "quiet/hollows": z.object({}),
  "quiet/make-hollow": makeHollowInput,
  "quiet/seen-hollow": seenHollowInput,
  "quiet/repair-hollow": hollowInput,
  "quiet/open-hollow": openHollowInput,
  "quiet/layouts": z.object({}),
  "quiet/keep-layout": keepLayoutInput,
  "quiet/compare-layout": layoutInput,
  "quiet/bring-layout": layoutActInput,
  "quiet/export-layout": layoutInput,
  "quiet/import-layout": importLayoutInput,
  "quiet/remove-layout": layoutActInput,
} as const;

export interface OccasionAnswer {
  id: string;
  title: string;
  level: QuietLevel;
  kinds: string[];
  /** No names of things are sent to Vuoto's own pages while it is under way. */
  unnamed: boolean;
  /** The title of the layout that it brings when it begins. */
  layout: string | null;
  /** Since when it is under way, and until when, in ISO 8601. */
  since: string | null;
  until: string | null;
  /** Its next times. */
  next: { from: string; to: string }[];
}

/** What the screen shows, for a page that draws it and has all else. */
export interface ShownAnswer {
  level: QuietLevel;
  /** The ids of what is out of sight; where that is all there is, or nothing, that alone is said. */
  outOfSight: string[] | "all" | "nothing";
}

/** How quiet it is. */
export interface QuietAnswer {
  /** Whether anything is out of sight, or would be if it were there; false where that is not known. */
  hidden: boolean;
  /** "asked": the screen was told to hide, and nobody said that it did; "otherwise": it says that it shows all the same. */
  believed: "known" | "asked" | "otherwise";
  level: QuietLevel;
  /** Since when, and until when, in ISO 8601; null where it is not quiet, or has no end. */
  since: string | null;
  until: string | null;
  outOfSight: { name: string; path: string }[];
  /** The occasions under way, and when each ends by itself, in ISO 8601; null where it does not. */
  underWay: { title: string; until: string | null }[];
  /** What ends within two minutes, by its title, or null where that is what was taken out of sight by hand. */
  endsSoon?: { title: string | null; at: string };
  /** When it ends cannot be told: the clock was set back, or the zone changed under an occasion. All stays out of sight. */
  doubt?: Doubt;
  /** How many things arrived since. */
  arrived: number;
  /** How many things are in sight still as a program has them open. */
  inUse: number;
  /** What was taken out of sight, and is no longer where it was put: somebody moved, renamed or deleted it. */
  gone: { name: string; path: string }[];
}

export interface QuietAnswers {
  "quiet/show": ReportJson;
  "quiet/hide": ReportJson;
  "quiet/bring-back": ReportJson;
  "quiet/status": QuietAnswer;
  "quiet/shown": ShownAnswer;
  "quiet/since": ViewSince<QuietView>;
  "quiet/occasions": OccasionAnswer[];
  "quiet/add-occasion": ReportJson;
  "quiet/occasion": ReportJson;
  "quiet/longer": ReportJson;
  "quiet/place": ReportJson;
  "quiet/straighten": StraightenAnswer;
  "quiet/hollows": HollowLine[];
  "quiet/make-hollow": ReportJson;
  "quiet/seen-hollow": ReportJson;
  "quiet/repair-hollow": ReportJson;
  "quiet/open-hollow": ReportJson;
  "quiet/layouts": LayoutLine[];
  "quiet/keep-layout": ReportJson;
  "quiet/compare-layout": Compared;
  "quiet/bring-layout": BroughtAnswer;
  "quiet/export-layout": LayoutDocument;
  "quiet/import-layout": ReportJson;
  "quiet/remove-layout": ReportJson;
}
