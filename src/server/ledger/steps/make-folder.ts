import type { MakeFolderStep } from "@/core/ledger/steps/make-folder";
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
    // Told apart from a folder that somebody else made meanwhile.
    context.keep({ making: true });
    context.disk.makeFolder(step.folder, step.mode);
    context.changed(folderOf(step.folder));
    return { making: true };
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
  settle(step, note, context) {
    context.changed(folderOf(step.folder));
    return note !== null && context.disk.identity(step.folder)?.type === "folder" ? "done" : "undone";
  },
};
