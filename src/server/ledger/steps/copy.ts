import type { CopyStep, Identity, Json } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { copyTree, hashFromDevice, removeTemporary, treeState, verifyTree } from "../../disk/tree";
import { forget, relocate } from "../relocate";
import type { StepContext, StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";

/** The copy's identity, and its state as {@link treeState} tells it. */
type CopyNote = { identity: Identity; state: string };

const temporaryFor = (step: CopyStep, context: StepContext) => joinRaw(folderOf(step.to), context.temporary);

/** Makes a durable, verified copy under a free name; what it is made from stays. */
export const copy: StepKind<CopyStep> = {
  check(step, context) {
    expectFree(step.to, context);
  },
  async do(step, context) {
    const { disk, pace } = context;
    expectFree(step.to, context);
    const temporary = temporaryFor(step, context);
    removeTemporary(disk, temporary);
    try {
      const sums = await copyTree(disk, step.tree, temporary, pace);
      await verifyTree(disk, temporary, sums, pace);
      const note: CopyNote = { identity: disk.identity(temporary) as Identity, state: treeState(disk, temporary) };
      context.keep(note as unknown as Json);
      disk.rename(temporary, step.to);
      context.changed(folderOf(step.to));
      relocate(step.item, step.to, context);
      return note as unknown as Json;
    } catch (error) {
      removeTemporary(disk, temporary);
      throw error;
    }
  },
  /** Takes the copy away, but only if it is untouched and what it was made from still has the same content. */
  async undo(step, note, context) {
    const { disk, pace } = context;
    const { identity, state } = note as unknown as CopyNote;
    const name = shownName(nameOf(step.to));
    expectThing(step.to, identity, context);
    for (const entry of step.tree) {
      if (entry.type === "file" && (await hashFromDevice(disk, entry.source!, pace)) !== entry.sha256)
        throw new Problem("not-verified", { name });
    }
    const temporary = temporaryFor(step, context);
    if (treeState(disk, step.to) !== state) throw new Problem("changed", { name });
    disk.rename(step.to, temporary);
    // Looking at the parcel took its time, and a save through a new file takes none.
    if (treeState(disk, temporary) !== state) {
      disk.rename(temporary, step.to);
      throw new Problem("changed", { name });
    }
    removeTemporary(disk, temporary);
    context.changed(folderOf(step.to));
    forget(step.item, context);
  },
  settle(step, note, context, direction) {
    const { disk } = context;
    removeTemporary(disk, temporaryFor(step, context));
    context.changed(folderOf(step.to));
    const there = disk.identity(step.to);
    const made = (note as unknown as CopyNote | null)?.identity.ino;
    // What has taken the copy's place is not taken away by an undo, so that did not come to its end.
    const undone = direction === "undo" ? !there : !there || there.ino !== made;
    if (undone) forget(step.item, context);
    else relocate(step.item, step.to, context);
    return undone ? "undone" : "done";
  },
};
