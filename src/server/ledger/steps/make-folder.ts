import type { MakeFolderStep } from "@/core/ledger/step";
import { folderOf, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { StepKind } from "../step-kind";
import { expectFree } from "../transfer";

/** Makes a folder that is not there yet. */
export const makeFolder: StepKind<MakeFolderStep> = {
  check(step, context) {
    expectFree(step.folder, context);
  },
  do(step, context) {
    expectFree(step.folder, context);
    context.disk.makeFolder(step.folder, step.mode);
    context.changed(folderOf(step.folder));
    return null;
  },
  undo(step, _note, context) {
    if (!context.disk.stat(step.folder)) return;
    if (context.disk.list(step.folder)?.length) {
      if (step.shared) return;
      throw new Problem("not-empty", { name: shownName(nameOf(step.folder)) });
    }
    context.disk.removeEmptyFolder(step.folder);
    context.changed(folderOf(step.folder));
  },
  settle(step, _note, context) {
    context.changed(folderOf(step.folder));
    return context.disk.identity(step.folder)?.type === "folder" ? "done" : "undone";
  },
};
