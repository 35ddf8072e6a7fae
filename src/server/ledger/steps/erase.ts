import type { EraseStep, Json } from "@/core/ledger/step";
import { joinRaw, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { copyTree, removeTemporary, verifyTree } from "../../disk/tree";
import { forget, relocate } from "../relocate";
import type { StepContext, StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";
import { filesPath, mendInfo, removeInfo } from "./trash";

/** Beside `files` and `info`, where nothing is listed. */
const asideOf = (step: EraseStep, context: StepContext) => joinRaw(step.trash, context.temporary);

/**
 * Destroys a thing in the trash: the only step that does. First it is renamed aside, and from then on it counts as
 * erased; what a crash leaves of it is taken away when settling.
 */
export const erase: StepKind<EraseStep> = {
  check(step, context) {
    expectThing(filesPath(step.trash, step.name), step.identity, context);
  },
  do(step, context) {
    const { disk } = context;
    const files = filesPath(step.trash, step.name);
    const aside = asideOf(step, context);
    this.check(step, context);
    disk.rename(files, aside);
    const found = disk.identity(aside);
    if (found?.ino !== step.identity.ino) {
      disk.rename(aside, files);
      throw new Problem("changed", { name: shownName(nameOf(files)), detail: "another thing took its name" });
    }
    removeTemporary(disk, aside);
    removeInfo(step, context);
    context.changed(joinRaw(step.trash, "files"));
    context.changed(step.trash);
    forget(step.item, context);
    return null;
  },
  /** What a parcel holds is fetched back into the trash, checksums compared; the parcel stays. */
  async undo(step, _note, context) {
    const { disk, pace } = context;
    const files = filesPath(step.trash, step.name);
    if (!step.copy) throw new Problem("erased", { name: shownName(step.name) });
    expectFree(files, context);
    const aside = asideOf(step, context);
    removeTemporary(disk, aside);
    try {
      const sums = await copyTree(disk, step.copy, aside, pace);
      await verifyTree(disk, aside, sums, pace);
      const identity = disk.identity(aside);
      context.keep({ identity } as unknown as Json);
      mendInfo(step, context);
      disk.rename(aside, files);
    } catch (error) {
      removeTemporary(disk, aside);
      if (!disk.stat(files)) removeInfo(step, context);
      throw error;
    }
    context.changed(joinRaw(step.trash, "files"));
    relocate(step.item, files, context);
  },
  settle(step, note, context, direction) {
    const { disk } = context;
    const aside = asideOf(step, context);
    const wasAside = disk.stat(aside) !== undefined;
    removeTemporary(disk, aside);
    context.changed(step.trash);
    context.changed(joinRaw(step.trash, "files"));
    const ino = direction === "do" ? step.identity.ino : (note as { identity?: { ino: string } } | null)?.identity?.ino;
    const there = disk.identity(filesPath(step.trash, step.name));
    if (there && there.ino === ino) {
      mendInfo(step, context);
      relocate(step.item, filesPath(step.trash, step.name), context);
      return "undone";
    }
    // Another thing has taken the name: only what stood aside was erased.
    if (there && !wasAside && direction === "do") return "undone";
    if (!there) removeInfo(step, context);
    forget(step.item, context);
    return "done";
  },
};
