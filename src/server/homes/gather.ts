import { randomUUID } from "node:crypto";
import type { GatherInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Json } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { folderNameFromText } from "@/core/names/free-name";
import { joinRaw, nameOf, type Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Worktop } from "../account";
import { perform } from "../act";
import type { GatheringRecord } from "../db/record";
import type { Engine } from "../engine";
import { markOf } from "../jobs/work/find-folder";
import { type Item, itemsNamed, thingsOf, thingsOn } from "../survey/items";
import { excepted } from "./excepted";
import { gatherings } from "./gatherings";
import { homeMeant } from "./homes";
import { moveSteps } from "./put";

/**
 * Gathers everything in sight on a worktop, or the things named, into one folder, exceptions aside: one act. Without a home
 * the folder lies on the worktop itself, and is filled again when it is there already.
 */
export async function gather(engine: Engine, input: GatherInput): Promise<ReportJson> {
  const id = randomUUID().slice(0, 8);
  // What is gathered already stays in its folder, wherever that lies now.
  const gathered = new Map((await gatherings(engine)).map(({ folder, made }) => [folder, made]));
  return perform(engine, "Gathering", () => planGather(engine, input, id, gathered), { trial: input.dryRun });
}

function planGather(engine: Engine, input: GatherInput, id: string, gathered: ReadonlyMap<Raw, boolean>): Plan {
  const worktop = engine.account.worktops.find((one) => one.id === (input.worktop ?? "desktop"));
  if (!worktop) throw new Problem("no-worktop");
  const { folder, title, steps } = folderMeant(engine, worktop, input);
  const isException = excepted(input.except ?? []);
  const inSight = (item: Item) => item.folder === worktop.folder && !gathered.has(item.path) && item.path !== folder;
  const items = (input.items ? itemsNamed(engine.db, input.items) : thingsOn(engine.db, worktop.id).filter(inSight)).filter(
    (item) => !isException(item.label),
  );
  const planned = moveSteps(engine, items, { id: "", folder, title, files: 0 });
  const { left } = planned;
  const moves = planned.moves.map(
    (step): Step => (input.evenInUse && step.type === "move" ? { ...step, evenInUse: true } : step),
  );
  const record: GatheringRecord = {
    title,
    folder,
    made: steps.some((step) => step.type === "make-folder" && step.folder === folder) || gathered.get(folder) === true,
    at: engine.now(),
    things: moves.flatMap((step) =>
      step.type === "move" && step.item
        ? [{ item: step.item, from: step.from, name: nameOf(step.to), mark: markOf(step.identity) }]
        : [],
    ),
  };
  return {
    act: "gather",
    words: (done) => `Gathered ${thingsOf(done, ["move"], (n) => engine.words().counted(n, "thing"))} into ${title}`,
    steps:
      moves.length > 0
        ? [...steps, ...moves, { type: "set", key: `gathering:${id}`, from: null, to: record as unknown as Json }]
        : [],
    left,
  };
}

function folderMeant(
  engine: Engine,
  worktop: Worktop,
  input: GatherInput,
): Pick<ReturnType<typeof homeMeant>, "steps"> & { folder: Raw; title: string } {
  if (input.home) {
    const { home, steps } = homeMeant(engine, input.home);
    return { folder: home.folder, title: home.title, steps };
  }
  const title = input.title ?? "Gathered";
  const name = folderNameFromText(title);
  if (!name) throw new Problem("bad-name", { name: title });
  const folder = joinRaw(worktop.folder, name);
  const there = engine.disk.identity(folder);
  if (there && there.type !== "folder") throw new Problem("name-taken", { name: title });
  return { folder, title, steps: there ? [] : [{ type: "make-folder", folder }] };
}
