import type { QuietLevel } from "../screen/state";
import { type Saying, type StepType, Touch } from "./step-type";
import { copy } from "./steps/copy";
import { deleteParcel } from "./steps/delete-parcel";
import { erase } from "./steps/erase";
import { makeFolder } from "./steps/make-folder";
import { move } from "./steps/move";
import { place } from "./steps/place";
import { removeEmptyFolder } from "./steps/remove-empty-folder";
import { restore } from "./steps/restore";
import { screen } from "./steps/screen";
import { send } from "./steps/send";
import { set } from "./steps/set";
import { tell } from "./steps/tell";
import { trash } from "./steps/trash";
import { write } from "./steps/write";

const stepTypes = {
  move,
  copy,
  trash,
  restore,
  erase,
  "make-folder": makeFolder,
  "remove-empty-folder": removeEmptyFolder,
  write,
  place,
  screen,
  set,
  send,
  "delete-parcel": deleteParcel,
  tell,
};

/** The types of steps, by name. */
export type StepTypeName = keyof typeof stepTypes;

/** The steps of a type. */
type StepOf<T extends StepTypeName> = (typeof stepTypes)[T] extends StepType<infer S> ? S : never;

/**
 * One change, as data. A step can be checked, done, undone and, after a crash, settled; `steps/` here says what each type is,
 * and src/server/ledger/steps does it.
 */
export type Step = { [T in StepTypeName]: StepOf<T> }[StepTypeName];

/** What is known of a step's type. */
export const typeOf = (step: Step): StepType<Step> => stepTypes[step.type] as unknown as StepType<Step>;

export const stepTypeNames = Object.keys(stepTypes) as [StepTypeName, ...StepTypeName[]];

/** A step from data of the present version. @throws ZodError, or an error, where it is none */
export function parseStep(data: unknown): Step {
  const type = (data as Partial<Step> | null)?.type;
  if (type === undefined || !Object.hasOwn(stepTypes, type)) throw new Error(`${String(type)} is no type of step`);
  return stepTypes[type].schema.parse(data);
}

/** What steps have to do with. */
export function touchesOf(steps: Step[]): Touch {
  const touch = new Touch();
  for (const step of steps) typeOf(step).touches(step, touch);
  return touch;
}

/** What a step does, in words: one line for the ledger and for a trial. */
export const stepSentence = (step: Step, saying: Saying): string => typeOf(step).sentence(step, saying);

/** The name of what a step concerns, as shown. */
export const subjectOf = (step: Step): string => typeOf(step).subject(step);

export const concernsThing = (step: Step): boolean => typeOf(step).role === "thing";

/** Written with the entry and not before: what was not committed needs no taking back. */
export const isRecordOnly = (step: Step): boolean => typeOf(step).role === "record";

/** Not merely made ready for another step: folders and records are there for the sake of what goes into them. */
export const isPurpose = (step: Step): boolean => ["thing", "parcel", "screen"].includes(typeOf(step).role);

export type StepState = "planned" | "done" | "undone" | "refused";
export type EntryState = "running" | "done" | "undone";

/** The acts, by the name under which the ledger keeps them. */
export type ActName =
  | "put"
  | "sweep"
  | "stay"
  | "wait"
  | "archive"
  | "let-go"
  | "note"
  | "end-project"
  | "settle"
  | "protect"
  | "leave-out"
  | "restore"
  | "empty"
  | "add-home"
  | "home-moved"
  | "gather"
  | "split"
  | "set-out"
  | "retitle"
  | "launcher"
  | "remove-home"
  | "add-depot"
  | "remove-depot"
  | "send"
  | "parcel-restore"
  | "parcel-rename"
  | "parcel-move"
  | "parcel-delete"
  | "depot-checks"
  | "quiet"
  | "place"
  | "straighten"
  | "layout"
  | "hollow"
  | "key"
  | "screen"
  | "occasion"
  | "undo"
  | "redo";

/** Whether an act is done as a whole or not at all: a note and its original go together. */
export const isWhole = (act: ActName): boolean => act === "note";

/** A plan: what an act would do. Not performed, it is the act's trial. */
export interface Plan {
  act: ActName;
  /** What happened, for the steps that were done: "Put tide.pdf into Station / Tides". */
  words: (done: Step[]) => string;
  steps: Step[];
  /** Things that cannot take part, and why; said, and not part of the steps. */
  left: { name: string; item?: string; code: string; why: string }[];
  /** A sitting that several acts belong to. */
  sitting?: string;
  /** The verdict that it does, as it was given in a sitting. */
  given?: string;
  /** How much is shown after it, where it changes that. */
  level?: QuietLevel;
}
