import type { ReportJson } from "@/contract/items";
import type { TrashRestoreInput } from "@/contract/ledger";
import type { Plan, Step } from "@/core/ledger/step";
import type { RestoreStep } from "@/core/ledger/steps/restore";
import { freeName } from "@/core/names/free-name";
import { folderOf, isWithin, joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { Engine } from "../engine";
import { homeRoots } from "../homes/homes";
import { trashList } from "./trash-list";

/** Brings things back from the trash to where they lay, under a free name where the old one is taken. */
export function restoreFromTrash(engine: Engine, input: TrashRestoreInput): Promise<ReportJson> {
  return perform(engine, "Bringing things back", () => planRestore(engine, input), { trial: input.dryRun });
}

function planRestore(engine: Engine, input: TrashRestoreInput): Plan {
  const { account, disk } = engine;
  const list = new Map(trashList(engine).map((thing) => [thing.id, thing]));
  const steps: Step[] = [];
  const left: Plan["left"] = [];
  const taken = new Set<Raw>();
  const made = new Set<Raw>();
  const ensure = (folder: Raw) => {
    if (folder === "/" || made.has(folder) || disk.stat(folder)) return;
    ensure(folderOf(folder));
    made.add(folder);
    steps.push({ type: "make-folder", folder });
  };
  const reachable = [...account.worktops.map((w) => w.folder), ...homeRoots(engine)];
  for (const id of input.things) {
    const thing = list.get(id);
    if (!thing) throw new Problem("not-in-trash", { name: "That thing" });
    if (thing.unreadable) {
      left.push({ name: thing.label, code: thing.unreadable.code, why: thing.unreadable.message });
      continue;
    }
    const original = thing.original ?? joinRaw(account.worktops[0]!.folder, thing.name);
    if (!reachable.some((root) => isWithin(root, folderOf(original)))) {
      const problem = new Problem("out-of-bounds", { name: shownName(original) });
      left.push({ name: thing.label, code: problem.code, why: problem.message });
      continue;
    }
    ensure(folderOf(original));
    const name = freeName(nameOf(original), (n) => {
      const path = joinRaw(folderOf(original), n);
      return taken.has(path) || disk.stat(path) !== undefined;
    });
    const to = joinRaw(folderOf(original), name);
    taken.add(to);
    const { trash, info, identity, item } = thing;
    steps.push({ type: "restore", item, trash, name: thing.name, info, to, identity } satisfies RestoreStep);
  }
  return {
    act: "restore",
    words: (done) => {
      const restored = done.filter((step) => step.type === "restore");
      const what = restored.length === 1 ? shownName(nameOf(restored[0]!.to)) : engine.words().counted(restored.length, "thing");
      return `Brought ${what} back from the trash`;
    },
    steps,
    left,
  };
}
