import type { SetOutInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Plan, Step } from "@/core/ledger/step";
import { freeName } from "@/core/names/free-name";
import { folderOf, joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { worktopOf } from "../account";
import { perform } from "../act";
import type { Engine } from "../engine";
import { itemById, thingsOf } from "../survey/items";
import { type Gathering, gatherings } from "./gatherings";

/**
 * Sets a gathering out again: each thing to the place where it lay, positions included. The latest where none is named; single
 * things where some are. The folder, if it was made for that and then holds nothing, goes.
 */
export async function setOut(engine: Engine, input: SetOutInput): Promise<ReportJson> {
  const outstanding = await gatherings(engine);
  const wanted = input.gathering?.toLowerCase();
  const gathering = wanted
    ? outstanding.find(
        ({ id, title, folder }) =>
          id === wanted || [title.toLowerCase(), shownName(nameOf(folder)).toLowerCase()].includes(wanted),
      )
    : outstanding[0];
  if (!gathering) throw new Problem("unknown-gathering", { name: input.gathering });
  return perform(engine, "Setting out", () => planSetOut(engine, gathering, input), { trial: input.dryRun });
}

function planSetOut(engine: Engine, gathering: Gathering, input: SetOutInput): Plan {
  const { disk } = engine;
  const only = input.things && new Set(input.things.map((name) => name.toLowerCase()));
  const wanted = gathering.things.filter(({ item, label }) => !only || only.has(item) || only.has(label.toLowerCase()));
  const left: Plan["left"] = [];
  const steps: Step[] = [];
  const taken = new Set<Raw>();
  const refuse = (name: string, problem: Problem) => left.push({ name, code: problem.code, why: problem.message });
  for (const { item, name, from, label } of wanted) {
    const path = joinRaw(gathering.folder, name);
    const identity = disk.identity(path);
    if (!identity) {
      refuse(label, new Problem("vanished", { name: label }));
      continue;
    }
    const home = worktopOf(engine.account, folderOf(from))?.folder ?? folderOf(from);
    if (!disk.stat(home)) {
      refuse(label, new Problem("folder-gone", { place: shownName(nameOf(home)) }));
      continue;
    }
    const to = joinRaw(
      home,
      freeName(nameOf(from), (other) => taken.has(joinRaw(home, other)) || disk.stat(joinRaw(home, other)) !== undefined),
    );
    taken.add(to);
    steps.push({ type: "move", item: itemById(engine.db, item) ? item : undefined, from: path, to, identity });
  }
  const folder = disk.stat(gathering.folder);
  if (gathering.made && gathering.alone && steps.length === gathering.things.length && folder)
    steps.push({
      type: "remove-empty-folder",
      folder: gathering.folder,
      mode: Number(folder.mode & 0o7777n),
      mtimeNs: String(folder.mtimeNs),
    });
  return {
    act: "set-out",
    words: (done) =>
      `Set out ${thingsOf(done, ["move"], (n) => engine.words().counted(n, "thing"))} from ${shownName(nameOf(gathering.folder))}`,
    steps,
    left,
  };
}
