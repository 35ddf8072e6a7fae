import type { OverlookedView } from "@/contract/views";
import { finest, rank } from "@/core/homes/belongs";
import { isWithin } from "@/core/names/raw";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { tileOf } from "../survey/tile";
import { alike } from "./alike";
import { finerItems } from "./areas";
import { asThing } from "./belonging";
import { homes } from "./homes";

/** What went only to an area, gathered by the finer home that fits it best; where none does, by likeness, with a new one. */
export function finer(engine: Engine): OverlookedView[] {
  const words = engine.words();
  const all = homes(engine);
  const tiles = (items: Item[]) => items.map((item) => tileOf(item));
  return [...finerItems(engine)].flatMap(([area, items]) => {
    const below = all.filter((home) => home.id !== area.id && isWithin(area.folder, home.folder));
    const among = new Set(below.map((home) => home.id));
    const byHome = new Map<string, Item[]>();
    const rest: Item[] = [];
    for (const item of items) {
      const [best] = rank(asThing(item), engine.belonging.learned, { most: 1, least: finest, among });
      const of = best ? (byHome.get(best.home) ?? []) : rest;
      of.push(item);
      if (best) byHome.set(best.home, of);
    }
    const title = lastPart(area.title);
    return [
      ...below.flatMap((home): OverlookedView[] => {
        const of = byHome.get(home.id);
        return of
          ? [
              {
                why: `in ${title}, like what lies in ${lastPart(home.title)}`,
                tiles: tiles(of),
                home: { id: home.id, title: home.title },
              },
            ]
          : [];
      }),
      ...alike(rest, words).map(({ why, items: of, title: fresh }): OverlookedView => {
        return { why: `in ${title}, ${why}`, tiles: tiles(of), home: { title: `${area.title} / ${fresh}` } };
      }),
    ];
  });
}

const lastPart = (title: string) => title.slice(title.lastIndexOf("/") + 1).trim();
