import { type Fit, type Homes, learn, rank } from "@/core/homes/belongs";
import { rawFromBytes, shownName } from "@/core/names/raw";
import type { Kind } from "@/core/survey/kinds";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { homes } from "./homes";

/** What was learned from the homes, and the ranking of each item; made anew when either changed. */
export interface Belonging {
  learned: Homes;
  fits: Map<string, Fit[]>;
}

export function learnFromHomes(engine: Pick<Engine, "account" | "db">): Homes {
  const titles = new Map(homes(engine).map((home) => [home.id, home.title]));
  const files = engine.db
    .prepare<[], { key: string; name: Buffer; kind: Kind }>(
      "SELECT folder.key, filed.name, filed.kind FROM filed JOIN folder ON folder.id = filed.folder WHERE folder.home = 1",
    )
    .all();
  return learn(
    files.map((file) => ({ home: file.key, name: shownName(rawFromBytes(file.name)), kind: file.kind })),
    titles,
  );
}

/** The homes that fit an item, best first. */
export function fitsOf(belonging: Belonging, item: Item): Fit[] {
  const key = `${item.id}:${item.label}:${item.kind}`;
  const known = belonging.fits.get(key);
  if (known) return known;
  const fits = rank({ name: item.label, kind: item.kind }, belonging.learned);
  belonging.fits.set(key, fits);
  return fits;
}
