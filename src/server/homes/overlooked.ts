import type { OverlookedView } from "@/contract/views";
import { possible, sure } from "@/core/homes/belongs";
import { shownPlace } from "@/core/ledger/step-type";
import type { Belonging, Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, thingsOn } from "../survey/items";
import { firstTiles } from "../survey/tile";
import { alike } from "./alike";
import { fitsOf } from "./belonging";
import { homes } from "./homes";
import { shortcutGroups } from "./shortcuts";

/** What has neither a sure home nor a verdict, over both worktops. */
export function overlookedItems(engine: Engine): Item[] {
  const verdicts = verdictsInForce(engine);
  return engine.account.worktops
    .flatMap((worktop) => thingsOn(engine.db, worktop.id))
    .filter((item) => !verdicts.has(item.id) && (fitsOf(engine.belonging, item)[0]?.score ?? 0) < sure);
}

/** The overlooked, gathered by likeness; for each group a home that may fit, or a new one. Shortcuts by what they are for. */
export async function overlooked(engine: Engine): Promise<OverlookedView[]> {
  const words = engine.words();
  const items = overlookedItems(engine);
  const titles = new Map(homes(engine).map((home) => [home.id, home.title]));
  const desktop = engine.account.worktops.find((worktop) => worktop.id === "desktop");
  // Shortcuts lie best where they are at hand: in a folder on the desktop itself.
  const shortcuts = desktop ? await shortcutGroups(engine, items, shownPlace(desktop.folder, engine.account.root)) : [];
  const taken = new Set(shortcuts.flatMap((group) => group.items));
  const rest = alike(
    items.filter((item) => !taken.has(item)),
    words,
  );
  const groups = [...rest.filter((group) => group.closely), ...shortcuts, ...rest.filter((group) => !group.closely)];
  return groups.map(({ why, items: of, title }) => {
    const fitting = taken.has(of[0]!) ? undefined : fittingHome(engine.belonging, of);
    return {
      why,
      ...firstTiles(of),
      home: fitting ? { id: fitting, title: titles.get(fitting) ?? "" } : { title },
    };
  });
}

/** The home that is likely for most of a group. */
function fittingHome(belonging: Belonging, items: Item[]): string | undefined {
  const scores = new Map<string, number>();
  for (const item of items)
    for (const { home, score } of fitsOf(belonging, item)) scores.set(home, (scores.get(home) ?? 0) + score);
  const [best] = [...scores].sort((a, b) => b[1] - a[1]);
  return best && best[1] / items.length >= possible ? best[0] : undefined;
}
