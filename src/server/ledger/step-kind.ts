import type { Json, Proof, Step } from "@/core/ledger/step";
import type { Raw } from "@/core/names/raw";
import type { Account } from "../account";
import type { Db } from "../db/db";
import type { Disk } from "../disk/disk";
import type { InUse } from "../disk/in-use";
import type { Pace } from "../disk/tree";

/** What a step works with. */
export interface StepContext {
  account: Account;
  disk: Disk;
  db: Db;
  now(): number;
  pace: Pace;
  /** Files that are open for writing elsewhere, as seen at the start of the act. */
  inUse: InUse;
  /** A temporary name for this step, the same again after a crash. */
  temporary: Raw;
  /** Throws unless a proof for letting a thing go still holds, looked at anew. */
  prove(path: Raw, proof: Proof): Promise<void>;
  /** What an earlier step of the same entry found out. */
  noteOf(n: number): Json;
  /** Keeps a fact that settling will need, durably and at once. */
  keep(note: Json): void;
  /** This folder's entries are to be made durable before the entry counts as done. */
  changed(folder: Raw): void;
  /** A small file was written on this folder's file system, likewise. */
  wrote(folder: Raw): void;
  /** Changes to Vuoto's record, made in the same transaction that marks the entry. */
  atCommit(write: () => void): void;
}

export type Direction = "do" | "undo";

/**
 * The four functions of a step type. `check` throws a Problem where the facts no longer hold; `do` and `undo` change or
 * throw, and where they throw nothing is left half done; `settle` reads the facts after a crash, clears up what was half
 * done, and answers on which side the step stands. Settling may be cut short and is then repeated.
 */
export interface StepKind<S extends Step> {
  check(step: S, context: StepContext): void;
  do(step: S, context: StepContext): Promise<Json> | Json;
  undo(step: S, note: Json, context: StepContext): Promise<void> | void;
  settle(step: S, note: Json, context: StepContext, direction: Direction): Promise<"done" | "undone"> | "done" | "undone";
}
