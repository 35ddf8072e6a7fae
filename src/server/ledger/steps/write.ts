import type { WriteStep } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { removeTemporary } from "../../disk/tree";
import type { StepContext, StepKind } from "../step-kind";

function read(file: Raw, context: StepContext): string | null {
  return context.disk.readSmall(file)?.toString("utf8") ?? null;
}

/** Puts one small text in the place of another; what is swapped out is looked at before it goes, so nobody's edit is lost. */
function swap(file: Raw, before: string | null, after: string | null, context: StepContext): void {
  const { disk } = context;
  const taken = () => new Problem("changed", { name: shownName(nameOf(file)) });
  if (read(file, context) !== before) throw taken();
  const temporary = joinRaw(folderOf(file), context.temporary);
  removeTemporary(disk, temporary);
  if (after !== null) disk.createSmall(temporary, Buffer.from(after), 0o644);
  if (before === null) {
    if (after === null) return;
    try {
      disk.rename(temporary, file);
    } catch (error) {
      removeTemporary(disk, temporary);
      throw error;
    }
  } else if (after === null) {
    disk.rename(file, temporary);
    if (read(temporary, context) !== before) {
      disk.rename(temporary, file);
      throw taken();
    }
    disk.unlink(temporary);
  } else {
    const exchange = () => disk.writing(file, (inside, name) => inside.exchange(context.temporary as Raw, name));
    exchange();
    if (read(temporary, context) !== before) {
      exchange();
      disk.unlink(temporary);
      throw taken();
    }
    disk.unlink(temporary);
  }
  context.wrote(folderOf(file));
  context.changed(folderOf(file));
}

/** Writes, replaces or takes away a small text of Vuoto's own. */
export const write: StepKind<WriteStep> = {
  check(step, context) {
    if (read(step.file, context) !== step.before) throw new Problem("changed", { name: shownName(nameOf(step.file)) });
  },
  do(step, context) {
    swap(step.file, step.before, step.after, context);
    return null;
  },
  undo(step, _note, context) {
    swap(step.file, step.after, step.before, context);
  },
  settle(step, _note, context, direction) {
    const { disk } = context;
    const temporary = joinRaw(folderOf(step.file), context.temporary);
    const [there, aside] = [read(step.file, context), read(temporary, context)];
    // Only Vuoto's two texts may go; a third one that was swapped out is given its name back.
    if (aside !== null && aside !== step.before && aside !== step.after && !isTorn(aside, step)) {
      if (there === null) disk.rename(temporary, step.file);
      else disk.writing(step.file, (inside, name) => inside.exchange(context.temporary as Raw, name));
    } else if (there === null && aside !== null && aside === step.before && step.after === null) {
      disk.unlink(temporary);
    }
    removeTemporary(disk, temporary);
    context.wrote(folderOf(step.file));
    context.changed(folderOf(step.file));
    const text = read(step.file, context);
    if (text === step.after) return "done";
    // A text of somebody else's is left alone: neither was it written over nor taken back.
    return text === step.before || direction === "do" ? "undone" : "done";
  },
};

function isTorn(aside: string, step: WriteStep): boolean {
  return [step.before, step.after].some((text) => text !== null && rawFromText(text).startsWith(rawFromText(aside)));
}
