import { isDeepStrictEqual } from "node:util";
import type { SmallFile } from "@/core/ledger/shapes";
import type { WriteStep } from "@/core/ledger/steps/write";
import { folderOf, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { bytes } from "../../disk/disk";
import type { StepContext, StepKind } from "../step-kind";

const usualMode = 0o644;
/** The note of a step that had nothing to do. */
const stays = "stays";

/** Whether a file is the one that is meant: its bytes, and its rights where they are known. */
function isSame(a: SmallFile | null, b: SmallFile | null): boolean {
  if (a === null || b === null) return a === b;
  if (a.content !== b.content) return false;
  return a.mode === undefined || b.mode === undefined || (a.mode === b.mode && isDeepStrictEqual(a.xattrs, b.xattrs));
}

/** Writes a file that is not there yet, with its rights and attributes. */
function make(path: Raw, file: SmallFile, context: StepContext): void {
  const { disk } = context;
  disk.createSmall(path, bytes(file.content), 0o600);
  disk.writing(path, (inside, name) => {
    for (const [key, value] of file.xattrs ?? []) inside.calls.setXattr(inside.at(name), bytes(key), bytes(value));
    inside.calls.chmod(inside.at(name), file.mode ?? usualMode);
  });
}

/** Puts one small file in the place of another; what is swapped out is looked at before it goes, so nobody's edit is lost. */
async function swap(file: Raw, before: SmallFile | null, after: SmallFile | null, context: StepContext): Promise<void> {
  const { disk } = context;
  const taken = () => new Problem("changed", { name: shownName(nameOf(file)) });
  if (!isSame(disk.readFile(file), before)) throw taken();
  if (before === null && after === null) return;
  const temporary = context.temporary(after === null ? "aside" : "copy", folderOf(file));
  if (after !== null) make(temporary, after, context);
  if (before === null) {
    try {
      disk.rename(temporary, file);
    } catch (error) {
      await context.clear();
      throw error;
    }
  } else if (after === null) {
    disk.rename(file, temporary);
    if (!isSame(disk.readFile(temporary), before)) {
      disk.rename(temporary, file);
      throw taken();
    }
    disk.unlink(temporary);
  } else {
    const exchange = () => disk.writing(file, (inside, name) => inside.exchange(nameOf(temporary), name));
    exchange();
    const isIt = isSame(disk.readFile(temporary), before);
    if (!isIt) exchange();
    disk.unlink(temporary);
    if (!isIt) throw taken();
  }
  context.wrote(folderOf(file));
  context.changed(folderOf(file));
}

/** Writes, replaces or takes away a small file of Vuoto's own. */
export const write: StepKind<WriteStep> = {
  check(step, context) {
    if (!isSame(context.disk.readFile(step.file), step.before))
      throw new Problem("changed", { name: shownName(nameOf(step.file)) });
  },
  async do(step, context) {
    if (step.ifAlone && (context.disk.list(folderOf(step.file))?.length ?? 0) > 1) return stays;
    await swap(step.file, step.before, step.after, context);
    return null;
  },
  async undo(step, note, context) {
    if (note !== stays) await swap(step.file, step.after, step.before, context);
  },
  settle(step, _note, context, direction) {
    const { disk } = context;
    const { before, after } = step;
    for (const role of ["copy", "aside"] as const) {
      const temporary = context.known(role)?.path;
      const aside = temporary && disk.readFile(temporary);
      if (!aside) continue;
      const there = disk.readFile(step.file);
      // Only Vuoto's two texts may go, and a torn one of them; a third one that was swapped out is given its name back.
      const ours = [before, after].some((own) => own?.content.startsWith(aside.content));
      if (ours) disk.unlink(temporary);
      else if (there === null) disk.rename(temporary, step.file);
      else {
        disk.writing(step.file, (inside, name) => inside.exchange(nameOf(temporary), name));
        disk.unlink(temporary);
      }
    }
    context.wrote(folderOf(step.file));
    context.changed(folderOf(step.file));
    const now = disk.readFile(step.file);
    if (isSame(now, after)) return "done";
    // What is somebody else's is left alone: neither was it written over nor taken back.
    return isSame(now, before) || direction === "do" ? "undone" : "done";
  },
};
