import { z } from "zod";
import { homeRef } from "./homes";
import { itemRefs, ofSitting, type ReportJson, trial } from "./items";
import type { PileItem, SittingEnd, SittingNow, ThingView } from "./views";

/** Milliseconds since 1970. */
const until = z.number().positive().max(8.64e15);

const title = z.string().trim().min(1).max(120);

export const stayInput = z.object({
  items: itemRefs,
  until: until.optional(),
  /** The project for which they stay, by its title; one that is not under way is begun. */
  project: title.optional(),
  ...ofSitting,
  ...trial,
});
export type StayInput = z.infer<typeof stayInput>;

export const waitInput = z.object({ items: itemRefs, until: until.optional(), ...ofSitting, ...trial });
export type WaitInput = z.infer<typeof waitInput>;

export const archiveInput = z.object({
  items: itemRefs,
  /** The parcel's title; without it the one being collected, or a new one named after the year. */
  parcel: title.optional(),
  ...ofSitting,
  ...trial,
});
export type ArchiveInput = z.infer<typeof archiveInput>;

export const letGoInput = z.object({ items: itemRefs, ...ofSitting, ...trial });
export type LetGoInput = z.infer<typeof letGoInput>;

/** A piece of a text that goes into a note, at most. */
const mostOfPiece = 100_000;

/**
 * Things become notes: a note each, or all in one, new or not, by its title. The first time the home is named in which notes
 * lie. `piece`: of a text, only this goes into the note.
 */
export const noteInput = z.object({
  items: itemRefs,
  into: title.optional(),
  piece: z.string().trim().min(1).max(mostOfPiece).optional(),
  home: homeRef.optional(),
  ...ofSitting,
  ...trial,
});
export type NoteInput = z.infer<typeof noteInput>;

export interface NotesAnswer {
  /** The home for notes, as shown; null before it was chosen. */
  home: string | null;
  /** The titles of those that lie there. */
  notes: string[];
}

/** A project that is under way, by its title; with `archive` its things are collected in a parcel of that title. */
export const endProjectInput = z.object({ project: title, archive: z.boolean().optional(), ...trial });
export type EndProjectInput = z.infer<typeof endProjectInput>;

export interface ProjectAnswer {
  title: string;
  /** ISO 8601. */
  since: string;
  things: { id: string; name: string; path: string; bytes: number }[];
}

/** What waits for a later verdict. */
export interface UndecidedAnswer {
  id: string;
  name: string;
  path: string;
  /** Until when, and since when it waits, in ISO 8601. */
  until: string;
  since: string;
  due: boolean;
  /** How it lies there now: as it was, changed since, or gone. */
  state: "as it was" | "changed" | "gone";
}

/** A thing, and the home in which something of its name lies. */
export const clashInput = z.object({ item: z.string().min(1).max(64), home: homeRef });
export type ClashInput = z.infer<typeof clashInput>;

/** Both, side by side. */
export interface ClashAnswer {
  here: ThingView;
  there: ThingView;
  home: string;
  /** They are the same, byte by byte. */
  same: boolean;
}

export const inUseInput = z.object({ items: z.array(z.string().min(1).max(64)).max(1000) });

/** `ahead`: the things that are drawn as lying ahead, the one that is looked at first. */
export const nowInput = z.object({ ahead: z.array(z.string().min(1).max(64)).max(64) });
export type NowInput = z.infer<typeof nowInput>;

/** What lies in a folder, to be decided thing by thing. */
export interface OpenedFolder {
  pile: PileItem[];
  /** What joins each family among them, in words. */
  families: string[];
  /** How many there are that are hidden by agreement, and do not come up. */
  hidden: number;
}

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
  "sitting/note",
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
  "sitting/note": ReportJson;
  "sitting/notes": NotesAnswer;
  "sitting/projects": ProjectAnswer[];
  "sitting/end-project": ReportJson;
  "sitting/undecided": UndecidedAnswer[];
  "sitting/now": SittingNow;
  "sitting/in-use": { id: string; why: string }[];
  "sitting/open": OpenedFolder;
  "sitting/clash": ClashAnswer;
  "sitting/give": { given: string[] };
  "sitting/given": GivenAnswer[];
  "sitting/thing": ThingView;
  "sitting/end": SittingEnd;
}
