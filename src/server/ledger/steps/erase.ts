import type { Json } from "@/core/ledger/shapes";
import type { EraseStep } from "@/core/ledger/steps/erase";
import { joinRaw, nameOf, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { parcelPlace } from "../../depots/address";
import { expectWhole } from "../../depots/checks";
import { watchedIn } from "../../disk/tree";
import { forget, relocate } from "../relocate";
import type { StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";
import { filesPath, mendInfo, removeInfo } from "./trash";

/**
 * Destroys a thing in the trash: the only step that does. First it is renamed aside, beside `files` and `info`, where nothing
 * is listed; is it then still what was asked about, it counts as erased, and what a crash leaves of it is taken away when
 * settling.
 */
export const erase: StepKind<EraseStep> = {
  check(step, context) {
    expectThing(filesPath(step.trash, step.name), step.identity, context);
  },
  async do(step, context) {
    const { disk } = context;
    const files = filesPath(step.trash, step.name);
    const changed = (detail: string) => new Problem("changed", { name: shownName(nameOf(files)), detail });
    const { ino } = expectThing(files, step.identity, context);
    // Before it is renamed, which sets its own time of change of state.
    const { state } = step;
    if (state !== undefined && (await context.carry("state", { path: files, watched: watchedIn(state) })) !== state)
      throw changed("after it was counted");
    const aside = context.temporary("aside", step.trash);
    context.made("aside", ino);
    disk.rename(files, aside);
    if (disk.identity(aside)?.ino !== step.identity.ino) {
      disk.rename(aside, files);
      throw changed("another thing took its name");
    }
    await context.apart("removeMade", { path: aside, ino });
    removeInfo(step, context);
    context.changed(joinRaw(step.trash, "files"));
    context.changed(step.trash);
    forget(step.item, context);
    return null;
  },
  /** What a parcel holds is fetched back into the trash, checksums compared; the parcel stays. */
  async undo(step, _note, context) {
    const { disk } = context;
    const files = filesPath(step.trash, step.name);
    if (!step.copy) throw new Problem("erased", { name: shownName(step.name) });
    expectFree(files, context);
    const parcel = parcelPlace(context, step.copy.parcel);
    const temporary = context.temporary("copy", step.trash);
    try {
      const identity = await context.apart("copyTree", { tree: step.copy.tree, to: temporary, parcel });
      context.made("copy", identity.ino);
      context.keep({ identity } as unknown as Json);
      mendInfo(step, context);
      disk.rename(temporary, files);
    } catch (error) {
      await context.clear();
      if (!disk.stat(files)) removeInfo(step, context);
      throw error;
    }
    context.changed(joinRaw(step.trash, "files"));
    relocate(step.item, files, context);
  },
  expectUndoable(step, known) {
    if (!step.copy) throw new Problem("erased", { name: shownName(step.name) });
    expectWhole(known, step.copy.parcel);
  },
  async settle(step, note, context, direction) {
    const { disk } = context;
    await context.clear();
    const aside = context.known("aside");
    const wasAside = aside !== undefined && disk.identity(aside.path)?.ino === aside.ino;
    if (aside) await context.carry("removeMade", aside);
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
