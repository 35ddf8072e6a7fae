import type { Step, StepTypeName } from "@/core/ledger/step";
import type { StepKind } from "../step-kind";
import { copy } from "./copy";
import { deleteParcel } from "./delete-parcel";
import { erase } from "./erase";
import { makeFolder } from "./make-folder";
import { move } from "./move";
import { place } from "./place";
import { removeEmptyFolder } from "./remove-empty-folder";
import { restore } from "./restore";
import { screen } from "./screen";
import { send } from "./send";
import { set } from "./set";
import { tell } from "./tell";
import { trash } from "./trash";
import { write } from "./write";

type Kinds = { [T in StepTypeName]: StepKind<Extract<Step, { type: T }>> };

const kinds: Kinds = {
  move,
  copy,
  trash,
  restore,
  "make-folder": makeFolder,
  "remove-empty-folder": removeEmptyFolder,
  write,
  place,
  screen,
  set,
  send,
  "delete-parcel": deleteParcel,
  erase,
  tell,
};

/** The four functions of a step's type. */
export function kindOf<S extends Step>(step: S): StepKind<S> {
  return kinds[step.type] as unknown as StepKind<S>;
}
