import type { Identity, Json } from "@/core/ledger/shapes";
import type { CopyStep } from "@/core/ledger/steps/copy";
import { folderOf, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { parcelPlace } from "../../depots/address";
import { forget, relocate } from "../relocate";
import type { StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";

/** The copy's identity. */
type CopyNote = { identity: Identity };

/** Makes a durable, verified copy under a free name; what it is made from stays. */
export const copy: StepKind<CopyStep> = {
  check(step, context) {
    expectFree(step.to, context);
  },
  async do(step, context) {
    const { disk } = context;
    expectFree(step.to, context);
    const parcel = parcelPlace(context, step.parcel);
    const temporary = context.temporary("copy", folderOf(step.to));
    try {
      const identity = await context.apart("copyTree", { tree: step.tree, to: temporary, parcel });
      context.made("copy", identity.ino);
      const note: CopyNote = { identity };
      context.keep(note as unknown as Json);
      disk.rename(temporary, step.to);
      context.changed(folderOf(step.to));
      relocate(step.item, step.to, context);
      return note as unknown as Json;
    } catch (error) {
      await context.clear();
      throw error;
    }
  },
  /** Takes the copy away, but only if it holds, byte for byte, what it was made from, and that is still there. */
  async undo(step, note, context) {
    const { disk } = context;
    const { identity } = note as unknown as CopyNote;
    const changed = () => new Problem("changed", { name: shownName(nameOf(step.to)) });
    const { ino } = expectThing(step.to, identity, context);
    const before = await context.carry("state", { path: step.to, watched: "all" });
    await context.apart("compare", { path: step.to, tree: step.tree, parcel: parcelPlace(context, step.parcel) });
    // Comparing takes its time, and a save through a new file takes none.
    expectThing(step.to, identity, context);
    if ((await context.carry("state", { path: step.to, watched: "all" })) !== before) throw changed();
    const aside = context.temporary("aside", folderOf(step.to));
    context.made("aside", ino);
    disk.rename(step.to, aside);
    if (disk.identity(aside)?.ino !== ino) {
      disk.rename(aside, step.to);
      throw changed();
    }
    await context.carry("removeMade", { path: aside, ino });
    context.changed(folderOf(step.to));
    forget(step.item, context);
  },
  async settle(step, note, context, direction) {
    const { disk } = context;
    await context.clear();
    const aside = context.known("aside");
    if (aside) await context.carry("removeMade", aside);
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
