import type { SuggestedHome } from "@/contract/homes";
import type { Engine } from "../engine";
import { overlooked } from "./overlooked";

/** A small set of new homes that what lies there suggests, each with the things that would go into it. */
export async function suggestedHomes(engine: Engine): Promise<SuggestedHome[]> {
  const byTitle = new Map<string, SuggestedHome>();
  for (const { why, tiles, home } of await overlooked(engine)) {
    if (home.id !== undefined) continue;
    const things = tiles.map(({ id, name }) => ({ id, name }));
    const same = byTitle.get(home.title);
    if (same) same.things.push(...things);
    else byTitle.set(home.title, { title: home.title, why, things });
  }
  return [...byTitle.values()];
}
