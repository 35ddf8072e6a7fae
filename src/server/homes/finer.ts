import type { OverlookedView } from "@/contract/views";
import { finest, rank } from "@/core/homes/belongs";
import { folderOf, isWithin, joinRaw, rawFromBytes } from "@/core/names/raw";
import { prepared } from "../db/prepared";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemAt } from "../survey/items";
import { tileOf } from "../survey/tile";
import { asThing } from "./belonging";
import { type Home, homes, titleParts } from "./homes";
import { alike } from "./overlooked";

/** Things that Vuoto put into an area, a home with homes below it, and that still lie directly in it: the queue to refine. */
export function finerItems(engine: Engine): Map<Home, Item[]> {
  const verdicts = verdictsInForce(engine);
  const all = homes(engine);
  const byFolder = new Map(all.map((home) => [home.folder, home]));
  const areas = new Set(all.flatMap((home) => byFolder.get(folderOf(home.folder)) ?? []));
  const queue = new Map<Home, Item[]>();
  const rows = prepared<[], { folder: Buffer; name: Buffer }>(
    engine.db,
    "SELECT folder, name FROM item WHERE worktop IS NULL AND seen = 1 ORDER BY folder, name",
  ).all();
  for (const { folder, name } of rows) {
    const area = byFolder.get(rawFromBytes(folder));
    if (!area || !areas.has(area)) continue;
    const item = itemAt(engine.db, joinRaw(area.folder, rawFromBytes(name)));
    // One that stays there on purpose is not asked about again; one that somebody took away is gone.
    if (!item || verdicts.has(item.id) || engine.disk.identity(item.path)?.ino !== item.identity.ino) continue;
    const of = queue.get(area);
    if (of) of.push(item);
    else queue.set(area, [item]);
  }
  return queue;
}

/** What went only to an area, gathered by the finer home that fits it best; where none does, by likeness, with a new one. */
export function finer(engine: Engine): OverlookedView[] {
  const words = engine.words();
  const now = engine.now();
  const all = homes(engine);
  const tiles = (items: Item[]) => items.map((item) => tileOf(item, words, now));
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
    const { title } = titleParts(area.title);
    return [
      ...below.flatMap((home): OverlookedView[] => {
        const of = byHome.get(home.id);
        return of
          ? [
              {
                why: `in ${title}, and like what lies in ${titleParts(home.title).title}`,
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
