import type { PutInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { Plan, Step } from "@/core/ledger/step";
import { freeName } from "@/core/names/free-name";
import { folderOf, joinRaw, type Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import type { Engine } from "../engine";
import { type Item, itemsNamed, thingsOf, withLocks } from "../survey/items";
import { type Home, homeMeant, isAtHome } from "./homes";
import { namesGiven, type Titling, titlingOf } from "./titles";

/** Puts things away into a home, which is made where it is new. A name that is taken there gets a free one. */
export async function put(engine: Engine, input: PutInput): Promise<ReportJson> {
  const titling = await titlingOf(engine, input.items, input.title);
  return perform(engine, "Putting things away", () => planPut(engine, input, titling), { trial: input.dryRun, verdict: input });
}

function planPut(engine: Engine, input: PutInput, titling?: Titling): Plan {
  const { home, steps } = homeMeant(engine, input.home);
  const items = withLocks(engine.db, itemsNamed(engine.db, input.items, "anywhere"));
  const { moves, left } = moveSteps(engine, items, home, titling, input.clash === "ask");
  return {
    act: "put",
    words: (done) => `Put ${thingsOf(done, ["move"], (n) => engine.words().counted(n, "thing"))} into ${home.title}`,
    steps: [...steps, ...moves],
    left,
    sitting: input.sitting,
  };
}

/**
 * A move for each item to a free name in the home, under its new title where there is a pattern; a folder is not put into
 * itself, and what lies there already stays. `ask`: where the name is taken, the item is left, and that is said.
 */
export function moveSteps(
  engine: Engine,
  items: Item[],
  home: Home,
  titling?: Titling,
  ask = false,
): { moves: Step[]; left: Plan["left"] } {
  const taken = new Set<Raw>(engine.disk.list(home.folder)?.map((entry) => entry.name) ?? []);
  const left: Plan["left"] = [];
  const going = items.filter((item) => {
    const stays = isAtHome(item.path, home);
    if (stays) {
      const why =
        folderOf(item.path) === home.folder ? "lies there already." : "is, or holds, that very home. It was left alone.";
      left.push({ name: item.label, item: item.id, code: "changed", why: `${item.label} ${why}` });
    }
    return !stays;
  });
  const given = titling && namesGiven(going, titling, taken);
  const moves = going.flatMap((item, n): Step[] => {
    const name = given ? given[n]!.name : freeName(item.name, (one) => taken.has(one));
    if (ask && (given ? given[n]!.numbered : name !== item.name)) {
      const problem = new Problem("name-there", { name: item.label, place: home.title });
      left.push({ name: item.label, item: item.id, code: problem.code, why: problem.message });
      return [];
    }
    taken.add(name);
    return [{ type: "move", item: item.id, from: item.path, to: joinRaw(home.folder, name), identity: item.identity }];
  });
  return { moves, left };
}
