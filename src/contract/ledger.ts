import { z } from "zod";
import type { EntryState } from "@/core/ledger/step";
import { type ReportJson, trial } from "./items";

export const undoInput = z.object({
  /** An entry's number, "all", or missing for the last act. */
  entry: z.union([z.int().positive(), z.literal("all")]).optional(),
  /** What came after that entry and depends on it is undone too, and before it. */
  withLater: z.boolean().optional(),
  /** All entries of this sitting. */
  sitting: z.string().min(1).max(64).optional(),
  ...trial,
});
export type UndoInput = z.infer<typeof undoInput>;

export const againInput = z.object(trial);
export type AgainInput = z.infer<typeof againInput>;

/** Things in the trash by their id in the list. */
export const trashRestoreInput = z.object({ things: z.array(z.string().min(1).max(64)).min(1).max(100_000), ...trial });
export type TrashRestoreInput = z.infer<typeof trashRestoreInput>;

const shownThings = z.array(z.string().min(1).max(160)).max(1_000_000);

/**
 * Exactly the things that were shown, by their id in the list, or as they were counted, with the state of all in them. `lost`: those
 * of them of which the person was told that they lie nowhere else, or that it is not known; of the others a copy is read first.
 * `network`: from clouds, too.
 */
export const emptyInput = z.object({
  things: shownThings.min(1),
  lost: shownThings.optional(),
  network: z.boolean().optional(),
  ...trial,
});
export type EmptyInput = z.infer<typeof emptyInput>;

const saidOf = z.object({ name: z.string(), why: z.string().optional() });

/** What emptying the trash would destroy. */
export const emptyingAnswer = z.object({
  things: z.array(z.string()),
  count: z.number(),
  files: z.number(),
  bytes: z.number(),
  size: z.string(),
  /** Of the things, those of which all that is known is said below: they lie nowhere else, or that is not known. */
  lost: z.array(z.string()),
  /** No copy of them is known, or the one that is known is damaged; such come first. */
  nowhereElse: z.array(saidOf),
  /** A copy may lie there, and why that is not known. */
  notKnown: z.array(saidOf),
  /** Things with copies in clouds alone, which were whole when they were last read; about how long it takes to read them again. */
  far: z.object({ things: z.array(z.string()), files: z.number(), bytes: z.number(), seconds: z.number().nullable() }),
});
export type EmptyingAnswer = z.infer<typeof emptyingAnswer>;

export const cancelInput = z.object({ job: z.string().min(1).max(64) });

/** One entry, for what is asked about it. */
export const entryInput = z.object({ entry: z.int().positive() });

/** The latest entries, or the latest before one; with a word, those that have it in their words or in the names of their things. */
export const entriesInput = z.object({
  most: z.int().positive().max(100_000).optional(),
  before: z.int().positive().optional(),
  word: z.string().trim().min(1).max(200).optional(),
});
export type EntriesInput = z.infer<typeof entriesInput>;

/** What has to be undone before an entry can be, the latest first. */
export const laterAnswer = z.array(z.object({ id: z.number(), words: z.string() }));
export type LaterAnswer = z.infer<typeof laterAnswer>;

/** An entry of the ledger, as data. */
export interface EntryAnswer {
  id: number;
  act: string;
  words: string;
  /** Milliseconds since 1970. */
  at: number;
  state: EntryState;
  /** The entry that this one took back or did again. */
  of: number | null;
  sitting: string | null;
  /** Who gave it; null where it is not known. */
  by: "window" | "command" | "timetable" | null;
  refused: ReportJson["refused"];
}

/** A thing in the trash, as data. */
export interface TrashedAnswer {
  id: string;
  name: string;
  from: string | null;
  deletedAt: string | null;
  bytes: number;
}

/** A step of an entry in words, and how it stands. */
export interface StepAnswer {
  words: string;
  state: string;
}

export interface LedgerAnswers {
  "ledger/list": EntryAnswer[];
  "ledger/undo": ReportJson;
  "ledger/again": ReportJson;
  "ledger/steps": StepAnswer[];
  "ledger/later": LaterAnswer;
  "ledger/trash": TrashedAnswer[];
  "ledger/restore": ReportJson;
  "ledger/emptying": EmptyingAnswer;
  "ledger/empty": ReportJson;
  "ledger/recover": { recovered: string[] };
}
