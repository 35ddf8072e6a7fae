import type { Json } from "@/core/ledger/shapes";
import type { Step } from "@/core/ledger/step";
import type { Proof } from "@/core/ledger/steps/trash";
import type { Raw } from "@/core/names/raw";
import type { Account } from "../account";
import type { Db } from "../db/db";
import type { Carry } from "../disk/carrier";
import type { Disk } from "../disk/disk";
import type { InUse } from "../disk/in-use";
import type { Temporary, TemporaryRole } from "./temporaries";

/** What a step works with. */
export interface StepContext {
  account: Account;
  disk: Disk;
  db: Db;
  now(): number;
  /** Cuts short what waits for another computer: the act is cancelled, or Vuoto ends. */
  stop(): AbortSignal;
  /** Files that are open for writing elsewhere, as seen at the start of the act. */
  inUse: InUse;
  /** Moves, reads or takes away bytes, in the turn. */
  carry: Carry;
  /** The same outside the turn, while other acts go on, save on these very things. The facts are to be looked at again after it. */
  apart: Carry;
  /** Work of many carriages outside the turn, likewise. */
  outside<T>(work: () => Promise<T>): Promise<T>;
  /**
   * A name in a folder that nobody else has, for this step: `copy` for what it makes, `aside` for what it puts out of the way.
   * Written down before it is used; the same again after a crash.
   */
  temporary(role: TemporaryRole, folder: Raw): Raw;
  /** Where a temporary of this step lies, if it has one of that role, and what is known of it. */
  known(role: TemporaryRole): Temporary | undefined;
  /** Says which very thing lies under the temporary name: only that one is ever removed. */
  made(role: TemporaryRole, ino: string): void;
  /** Takes away what this step made under its temporary name `copy`. */
  clear(): Promise<void>;
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
  check(step: S, context: StepContext): Promise<void> | void;
  do(step: S, context: StepContext): Promise<Json> | Json;
  undo(step: S, note: Json, context: StepContext): Promise<void> | void;
  settle(step: S, note: Json, context: StepContext, direction: Direction): Promise<Side> | Side;
  /** Throws where it is known, without looking, that it cannot be taken back any more. */
  expectUndoable?(step: S, known: Pick<StepContext, "account" | "db">): void;
}

/** On which side a step stands: "gone" where the thing lies on neither, so that it can be neither done nor undone. */
export type Side = "done" | "undone" | "gone";
