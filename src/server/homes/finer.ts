import type { OverlookedView } from "@/contract/views";
import { finest } from "@/core/homes/belongs";
import { isWithin } from "@/core/names/raw";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { firstTiles } from "../survey/tile";
import { alike } from "./alike";
import { finerItems } from "./areas";
import { rankAmong } from "./belonging";
import { homes } from "./homes";

/** What went only to an area, gathered by the finer home that fits it best; where none does, by likeness, with a new one. */
export async function finer(engine: Engine): Promise<OverlookedView[]> {
  const words = engine.words();
  const all = homes(engine);
  const views: OverlookedView[] = [];
  for (const [area, items] of finerItems(engine)) {
    const below = all.filter((home) => home.id !== area.id && isWithin(area.folder, home.folder));
    const fits = await rankAmong(engine, items, { most: 1, least: finest, among: below.map((home) => home.id) });
    const byHome = new Map<string, Item[]>();
    const rest: Item[] = [];
    for (const [n, item] of items.entries()) {
      const best = fits[n]![0];
      const of = best ? (byHome.get(best.home) ?? []) : rest;
      of.push(item);
      if (best) byHome.set(best.home, of);
    }
    const title = lastPart(area.title);
    views.push(
      ...below.flatMap((home): OverlookedView[] => {
        const of = byHome.get(home.id);
        return of
          ? [
              {
                why: `in ${title}, like what lies in ${lastPart(home.title)}`,
                ...firstTiles(of),
                home: { id: home.id, title: home.title },
              },
            ]
          : [];
      }),
      ...alike(rest, words).map(({ why, items: of, title: fresh }): OverlookedView => {
        return { why: `in ${title}, ${why}`, ...firstTiles(of), home: { title: `${area.title} / ${fresh}` } };
      }),
    );
  }
  return views;
}

const lastPart = (title: string) => title.slice(title.lastIndexOf("/") + 1).trim();
