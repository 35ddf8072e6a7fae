import type { HomeRef, SweepInput } from "@/contract/homes";
import type { ItemRef, ReportJson } from "@/contract/items";
import { sure } from "@/core/homes/belongs";
import type { Plan, Step } from "@/core/ledger/step";
import { perform } from "../act";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemsNamed, thingsOf, thingsOn } from "../survey/items";
import { fitsOf } from "./belonging";
import { type Home, homeMeant, homes, newSteps } from "./homes";
import { moveSteps } from "./put";
import { type Titling, titlingOf } from "./titles";

/** Takes all that surely belongs to one home or several, or just the things named, as one act. */
export async function sweep(engine: Engine, input: SweepInput): Promise<ReportJson> {
  const titling = "home" in input && input.title ? await titlingOf(engine, itemsMeant(engine, input), input.title) : undefined;
  return perform(engine, "Filling homes", () => planSweep(engine, input, titling), { trial: input.dryRun });
}

/** The things to be taken into one home: those named, or all that surely belong there. */
function itemsMeant(engine: Engine, { home, items }: { home: HomeRef; items?: ItemRef[] }): ItemRef[] {
  return (
    items ??
    sureByHome(engine)
      .get(homeMeant(engine, home).home.id)
      ?.map((item) => item.id) ??
    []
  );
}

function planSweep(engine: Engine, input: SweepInput, titling?: Titling): Plan {
  const onlyNamed = "home" in input ? input.items : "homes" in input && input.homes.every(({ items }) => items);
  const surely: Map<string, Item[]> = onlyNamed ? new Map() : sureByHome(engine);
  const wanted =
    "homes" in input
      ? input.homes
      : "all" in input
        ? homes(engine).flatMap(({ id }) => (surely.has(id) ? [{ home: { id }, items: undefined }] : []))
        : [input];
  const steps: Step[] = [];
  const left: Plan["left"] = [];
  const titles: string[] = [];
  const taken = new Set<string>();
  for (const { home: ref, items: named } of wanted) {
    const { home, steps: making } = homeMeant(engine, ref);
    const items = named ? itemsNamed(engine.db, named) : (surely.get(home.id) ?? []);
    // One thing has one home, whoever names it twice.
    const free = items.filter((item) => !taken.has(item.id));
    for (const item of free) taken.add(item.id);
    const planned = moveSteps(engine, free, home, titling);
    left.push(...planned.left);
    if (planned.moves.length === 0) continue;
    titles.push(home.title);
    steps.push(...making, ...planned.moves);
  }
  const into = titles.length === 1 ? titles[0] : engine.words().counted(titles.length, "home");
  return {
    act: "sweep",
    words: (done) => `Took ${thingsOf(done, ["move"], (n) => engine.words().counted(n, "thing"))} into ${into ?? "no home"}`,
    steps: newSteps(steps),
    left,
  };
}

/** The things that surely belong to each home, by its id, over both worktops. What stays on purpose or waits is in none. */
export function sureByHome(engine: Engine): Map<string, Item[]> {
  const verdicts = verdictsInForce(engine);
  const found = new Map<string, Item[]>();
  for (const item of engine.account.worktops.flatMap((worktop) => thingsOn(engine.db, worktop.id))) {
    const best = fitsOf(engine.belonging, item)[0];
    if (!best || best.score < sure || verdicts.has(item.id)) continue;
    const of = found.get(best.home);
    if (of) of.push(item);
    else found.set(best.home, [item]);
  }
  return found;
}

/** What has this home as its best, on both worktops, surest first. What stays on purpose or waits is not asked about. */
export function belongingTo(engine: Engine, home: Pick<Home, "id">) {
  const verdicts = verdictsInForce(engine);
  return engine.account.worktops
    .flatMap((worktop) => thingsOn(engine.db, worktop.id))
    .flatMap((item) => {
      if (verdicts.has(item.id)) return [];
      const best = fitsOf(engine.belonging, item)[0];
      return best?.home === home.id ? [{ item, score: best.score, why: best.why }] : [];
    })
    .sort((a, b) => b.score - a.score || (a.item.label < b.item.label ? -1 : 1));
}
