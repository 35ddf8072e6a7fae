import { folderOf, joinRaw, rawFromBytes } from "@/core/names/raw";
import { prepared } from "../db/prepared";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemAt } from "../survey/items";
import { type Home, homes } from "./homes";

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
