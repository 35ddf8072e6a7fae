import { randomUUID } from "node:crypto";
import type { SheetView, TilesSince, ViewSince } from "@/contract/views";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";

/** A sheet as it was told: each thing's place in the list, and what was said of it. */
type ToldSheet = ReadonlyMap<string, { n: number; said: string }>;

/** Sheets by their marks, the latest last: of one with very many things only what changed is told next. */
const told = sharedMemory<Engine, Map<string, ToldSheet>>("sheets told");
/** So many are told anew in no time. */
const fewest = 500;
/** As many as there are windows open at once, mostly. */
const mostKept = 4;

/** The sheet with its mark, if it holds very many things. */
export function marked(engine: Engine, sheet: SheetView): SheetView {
  if (sheet.tiles.length < fewest) return sheet;
  const kept = told.get(engine) ?? new Map<string, ToldSheet>();
  told.set(engine, kept);
  const mark = randomUUID();
  kept.set(mark, new Map(sheet.tiles.map((tile, n) => [tile.id, { n, said: JSON.stringify(tile) }])));
  for (const old of kept.keys()) if (kept.size > mostKept) kept.delete(old);
  return { ...sheet, mark };
}

/** A view whose sheet is marked: its things by what is another than it was told with that mark. */
export function since<View extends { sheet?: SheetView }>(engine: Engine, mark: string, view: View): ViewSince<View> {
  const { sheet } = view;
  if (!sheet) return { view, tiles: [] };
  const before = told.get(engine)?.get(mark);
  const now = sheet.mark === undefined ? undefined : told.get(engine)?.get(sheet.mark);
  const tiles: TilesSince = [];
  for (const tile of sheet.tiles) {
    const was = before?.get(tile.id);
    if (!was || was.said !== (now?.get(tile.id)?.said ?? JSON.stringify(tile))) {
      tiles.push(tile);
      continue;
    }
    const run = tiles.at(-1);
    if (Array.isArray(run) && run[0] + run[1] === was.n) run[1]++;
    else tiles.push([was.n, 1]);
  }
  told.get(engine)?.delete(mark);
  return { view: { ...view, sheet: { ...sheet, tiles: [] } }, tiles };
}
