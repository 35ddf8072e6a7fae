import type { RemoveEmptyFolderStep } from "@/core/ledger/steps/remove-empty-folder";
import { folderOf, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { StepContext, StepKind } from "../step-kind";

function make(step: RemoveEmptyFolderStep, context: StepContext): void {
  context.disk.makeFolder(step.folder, step.mode);
  context.disk.writing(step.folder, (inside, name) => {
    inside.calls.chmod(inside.at(name), step.mode);
    inside.calls.setMtime(inside.at(name), BigInt(step.mtimeNs));
  });
  context.changed(folderOf(step.folder));
}

/** Takes away a folder that holds nothing; the system itself refuses any other. */
export const removeEmptyFolder: StepKind<RemoveEmptyFolderStep> = {
  check(step, context) {
    const name = shownName(nameOf(step.folder));
    if (context.disk.identity(step.folder)?.type !== "folder") throw new Problem("vanished", { name });
  },
  do(step, context) {
    // Something came to lie in it meanwhile: it has a use still.
    if ((context.disk.list(step.folder)?.length ?? 0) > 0) return null;
    context.disk.removeEmptyFolder(step.folder);
    context.changed(folderOf(step.folder));
    return null;
  },
  undo(step, _note, context) {
    if (!context.disk.stat(step.folder)) make(step, context);
  },
  settle(step, _note, context) {
    context.changed(folderOf(step.folder));
    return context.disk.stat(step.folder) ? "undone" : "done";
  },
};
