import type { SweepInput } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import { sure } from "@/core/homes/belongs";
import type { Plan } from "@/core/ledger/step";
import { perform } from "../act";
import type { Engine } from "../engine";
import { itemsNamed, itemsOn, thingsOf } from "../survey/items";
import { fitsOf } from "./belonging";
import { type Home, homeMeant } from "./homes";
import { moveSteps } from "./put";

/** Takes all that surely belongs to a home, or just the things named, as one act. */
export function sweep(engine: Engine, input: SweepInput): Promise<ReportJson> {
  return perform(engine, "Filling a home", () => planSweep(engine, input), { trial: input.dryRun });
}

function planSweep(engine: Engine, input: SweepInput): Plan {
  const { home, steps } = homeMeant(engine, input.home);
  const items = input.items
    ? itemsNamed(engine.db, input.items)
    : belongingTo(engine, home)
        .filter((b) => b.score >= sure)
        .map((b) => b.item);
  const { moves, left } = moveSteps(engine, items, home);
  return {
    act: "sweep",
    words: (done) => `Took ${thingsOf(done, ["move"], (n) => engine.words().counted(n, "thing"))} into ${home.title}`,
    steps: moves.length > 0 ? [...steps, ...moves] : [],
    left,
  };
}

/** What has this home as its best, on both worktops, surest first. */
export function belongingTo(engine: Engine, home: Pick<Home, "id">) {
  const belonging = engine.belonging;
  return engine.account.worktops
    .flatMap((worktop) => itemsOn(engine.db, worktop.id))
    .flatMap((item) => {
      const best = fitsOf(belonging, item)[0];
      return best?.home === home.id ? [{ item, score: best.score, why: best.why }] : [];
    })
    .sort((a, b) => b.score - a.score || (a.item.label < b.item.label ? -1 : 1));
}
