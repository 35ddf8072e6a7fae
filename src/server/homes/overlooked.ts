import type { OverlookedView } from "@/contract/views";
import { possible, sure } from "@/core/homes/belongs";
import { shownPlace } from "@/core/ledger/sentence";
import type { Joined } from "@/core/survey/families";
import type { Kind } from "@/core/survey/kinds";
import type { Words } from "@/core/words/words";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { families, joinedInWords } from "../survey/family";
import { type Item, itemsOn } from "../survey/items";
import { tileOf } from "../survey/tile";
import { type Belonging, fitsOf } from "./belonging";
import { homes } from "./homes";
import { shortcutGroups } from "./shortcuts";

/** What has neither a sure home nor a verdict, over both worktops. */
export function overlookedItems(engine: Engine): Item[] {
  const verdicts = verdictsInForce(engine);
  return engine.account.worktops
    .flatMap((worktop) => itemsOn(engine.db, worktop.id))
    .filter((item) => !verdicts.has(item.id) && (fitsOf(engine.belonging, item)[0]?.score ?? 0) < sure);
}

const newHomes: Partial<Record<Kind, string>> = {
  shortcut: "Shortcuts",
  "web link": "Links",
  picture: "Pictures to sort",
  screenshot: "Screenshots",
  archive: "Archives",
  installer: "Installers",
  folder: "Projects",
  sound: "Sounds",
  video: "Clips",
  table: "Tables",
  data: "Data",
};
/** Where people look first for what belongs nowhere. */
const mixed = "Mixed";

/** Things that are alike, why, and what a new home for them could be called. */
export interface Alike {
  why: string;
  items: Item[];
  title: string;
  /** Named alike, or for one purpose: more than of one kind, or come on one day. */
  closely?: true;
}

/** Things gathered by likeness, the closest and largest group first; what is like nothing else comes last. */
export function alike(items: readonly Item[], words: Words): Alike[] {
  const byId = new Map(items.map((item) => [item.id, item]));
  // Findings speak for letting go; here only likeness counts.
  const groups = families(items, []).map(({ joined, items: ids }) => ({ joined, of: ids.map((id) => byId.get(id)!) }));
  const grouped = new Set(groups.flatMap(({ of }) => of.map((item) => item.id)));
  const alone = items.filter((item) => !grouped.has(item.id));
  return [
    ...groups.map(({ joined, of }): Alike => {
      const group = { why: joinedInWords(joined, words), items: of, title: newHome(joined, words) };
      return joined.by === "name" ? { ...group, closely: true } : group;
    }),
    ...(alone.length > 0 ? [{ why: "like nothing else that lies there", items: alone, title: mixed }] : []),
  ];
}

/** The overlooked, gathered by likeness; for each group a home that may fit, or a new one. Shortcuts by what they are for. */
export function overlooked(engine: Engine): OverlookedView[] {
  const words = engine.words();
  const now = engine.now();
  const items = overlookedItems(engine);
  const titles = new Map(homes(engine).map((home) => [home.id, home.title]));
  const desktop = engine.account.worktops.find((worktop) => worktop.id === "desktop");
  // Shortcuts lie best where they are at hand: in a folder on the desktop itself.
  const shortcuts = desktop ? shortcutGroups(engine, items, shownPlace(desktop.folder, engine.account.root)) : [];
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
      tiles: of.map((item) => tileOf(item, words, now)),
      home: fitting ? { id: fitting, title: titles.get(fitting) ?? "" } : { title },
    };
  });
}

/** What a new home for a family could be called. */
function newHome(joined: Joined, words: Words): string {
  switch (joined.by) {
    case "name":
      return joined.stem.charAt(0).toUpperCase() + joined.stem.slice(1);
    case "arrival":
      return words.date(joined.at);
    case "kind":
      return newHomes[joined.kind] ?? mixed;
    case "proof":
      return mixed;
    default:
      return joined satisfies never;
  }
}

/** The home that is likely for most of a group. */
function fittingHome(belonging: Belonging, items: Item[]): string | undefined {
  const scores = new Map<string, number>();
  for (const item of items)
    for (const { home, score } of fitsOf(belonging, item)) scores.set(home, (scores.get(home) ?? 0) + score);
  const [best] = [...scores].sort((a, b) => b[1] - a[1]);
  return best && best[1] / items.length >= possible ? best[0] : undefined;
}
