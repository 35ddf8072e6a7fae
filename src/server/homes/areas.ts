import { folderOf, type Raw } from "@/core/names/raw";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemsIn } from "../survey/items";
import { type Home, homes } from "./homes";

/** Things that Vuoto put into an area, a home with homes below it, and that still lie directly in it: the queue to refine. */
export function finerItems(engine: Engine): Map<Home, Item[]> {
  const verdicts = verdictsInForce(engine);
  const all = homes(engine);
  const byFolder = new Map(all.map((home) => [home.folder, home]));
  const areas = new Set(all.flatMap((home) => byFolder.get(folderOf(home.folder)) ?? []));
  const queue = new Map<Home, Item[]>();
  for (const area of areas) {
    // One that stays there on purpose is not asked about again; one that somebody took away is gone.
    const undecided = itemsIn(engine.db, area.folder).filter(({ id }) => !verdicts.has(id));
    const there = undecided.length > 0 ? liesIn(engine, area.folder) : undefined;
    const waiting = undecided.filter(({ identity, path }) => there?.(path) === identity.ino);
    if (waiting.length > 0) queue.set(area, waiting);
  }
  return queue;
}

/** The inodes of things in a folder, looked at once for as long as nothing in it comes or goes. */
function liesIn(engine: Engine, folder: Raw): (path: Raw) => string | undefined {
  const known = looked.get(engine) ?? new Map<Raw, Looked>();
  looked.set(engine, known);
  const stat = engine.disk.stat(folder);
  const state = stat && `${stat.dev}:${stat.ino}:${stat.mtimeNs}`;
  // A change within the same tick of the clock as the look before it would not show.
  const isSettled = stat !== undefined && Date.now() - Number(stat.mtimeMs) > tickMs;
  const before = known.get(folder);
  const now = before && isSettled && before.state === state ? before : { state, inos: new Map<Raw, string | undefined>() };
  known.set(folder, now);
  if (!isSettled) known.delete(folder);
  return (path) => {
    if (!now.inos.has(path)) now.inos.set(path, engine.disk.identity(path)?.ino);
    return now.inos.get(path);
  };
}

interface Looked {
  state: string | undefined;
  inos: Map<Raw, string | undefined>;
}
const looked = new WeakMap<Engine, Map<Raw, Looked>>();
const tickMs = 50;
