import type { ReportJson } from "@/contract/items";
import type { PlaceInput } from "@/contract/quiet";
import type { Plan } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { placingSteps } from "../screen/placing";
import { screenOf } from "../screen/screens";
import { iconsNamed } from "./quiet";

/** Gives icons other places on the screen. */
export function place(engine: Engine, input: PlaceInput): Promise<ReportJson> {
  return perform(engine, "Moving icons", () => planPlace(engine, input), { trial: input.dryRun });
}

function planPlace(engine: Engine, { spots }: PlaceInput): Plan {
  if (!screenOf(engine).placesIcons) throw new Problem("keeps-places");
  const items = iconsNamed(
    engine,
    spots.map(({ item }) => item),
  );
  // The same icon twice: where it was said to be last.
  const wanted = new Map(items.map(({ id }, n) => [id, { x: spots[n]!.x, y: spots[n]!.y }]));
  const steps = placingSteps(engine.db, readScreen(engine.db).size, wanted);
  const words = engine.words();
  return { act: "place", words: () => `Moved ${words.counted(steps.length, "icon")} on the screen`, steps, left: [] };
}
