import type { ReadyHome } from "@/contract/homes";
import type { SlotView, SweepSheet, SweepView } from "@/contract/views";
import { sure } from "@/core/homes/belongs";
import { rawFromBytes } from "@/core/names/raw";
import { boxesAt, coveredArea } from "@/core/survey/figures";
import type { Engine, Reading } from "../engine";
import { type Item, thingsOn } from "../survey/items";
import { protectionOf } from "../survey/protection";
import { placesOn } from "../survey/survey";
import { tileOf } from "../survey/tile";
import { finerItems } from "./areas";
import { fitsOf } from "./belonging";
import { finer } from "./finer";
import { type Home, homeId, homes, titleParts } from "./homes";
import { overlooked, overlookedItems } from "./overlooked";
import { planOfHomes } from "./plan";
import { suggestedHomes } from "./prepare";
import { belongingTo, sureByHome } from "./sweep";

const mostSlots = 6;

/** Things that surely have a home, over both worktops. */
export function homeCount(engine: Engine): number {
  return [...sureByHome(engine).values()].reduce((sum, items) => sum + items.length, 0);
}

/** Things that Vuoto has put into each home and that still lie there. */
function takenByHome(engine: Reading): Map<string, number> {
  const rows = engine.db
    .prepare<[], { folder: Buffer; n: number }>(
      "SELECT folder, count(*) AS n FROM item WHERE worktop IS NULL AND seen = 1 GROUP BY folder",
    )
    .all();
  return new Map(rows.map((row) => [homeId(rawFromBytes(row.folder)), row.n]));
}

/** The homes for which something is sure, the fullest first, and what. */
function readyHomes(engine: Engine): { id: string; title: string; items: Item[] }[] {
  const titles = new Map(homes(engine).map(({ id, title }) => [id, title]));
  return [...sureByHome(engine)]
    .flatMap(([id, items]) => {
      const title = titles.get(id);
      return title === undefined ? [] : [{ id, title, items }];
    })
    .sort((x, y) => y.items.length - x.items.length || x.title.localeCompare(y.title));
}

/** The same, with why each thing belongs there: what would be taken if all were. */
export const ready = (engine: Engine): ReadyHome[] =>
  readyHomes(engine).map(({ id, title, items }) => ({
    id,
    title,
    things: items.map((item) => ({ id: item.id, name: item.label, why: fitsOf(engine.belonging, item)[0]?.why ?? "" })),
  }));

/** The sweep: homes as slots, those with the most ready first, and what belongs to the chosen one. */
export async function sweepView(engine: Engine, asked?: string, sheet: SweepSheet = "belongs"): Promise<SweepView> {
  const all = homes(engine);
  const byId = new Map(all.map((home) => [home.id, home]));
  const sureOf = sureByHome(engine);
  const taken = takenByHome(engine);
  const slot = (home: Home): SlotView => ({
    id: home.id,
    ...titleParts(home.title),
    ...(protectionOf(engine, home.folder) === "synchronised" ? { synchronised: true } : {}),
    ready: sureOf.get(home.id)?.length ?? 0,
    taken: taken.get(home.id) ?? 0,
  });
  const slots = all
    .filter((home) => sureOf.has(home.id) || taken.has(home.id))
    .map(slot)
    // By the whole, so that a slot keeps its place while it fills.
    .sort((a, b) => b.ready + b.taken - a.ready - a.taken || a.title.localeCompare(b.title))
    .slice(0, mostSlots);
  const chosenHome = byId.get(asked ?? "") ?? byId.get(slots[0]?.id ?? "");
  if (chosenHome && !slots.some((s) => s.id === chosenHome.id)) slots.splice(mostSlots - 1, 1, slot(chosenHome));

  const rows = chosenHome ? belongingTo(engine, chosenHome) : [];
  return {
    sheet,
    slots,
    chosen: chosenHome && {
      id: chosenHome.id,
      title: chosenHome.title,
      rows: rows.map(({ item, score, why }) => ({ tile: tileOf(item), score, why })),
      cut: rows.filter((row) => row.score >= sure).length,
    },
    ready: readyHomes(engine).map(({ id, title, items }) => ({ id, title, count: items.length })),
    overlookedCount: overlookedItems(engine).length,
    overlooked: sheet === "overlooked" ? await overlooked(engine) : [],
    finerCount: [...finerItems(engine).values()].reduce((sum, items) => sum + items.length, 0),
    finer: sheet === "finer" ? await finer(engine) : [],
    suggested: sheet === "prepare" ? await suggestedHomes(engine) : [],
    plan: sheet === "plan" ? planOfHomes(engine) : [],
    worktops: engine.account.worktops.map((w) => ({ id: w.id, count: thingsOn(engine.db, w.id).length })),
    shareOf: sharesOf(engine),
  };
}

/** What share of the screen each icon covers by itself; undefined where places are not known. */
function sharesOf(engine: Engine): Record<string, number> | undefined {
  const desktop = engine.account.worktops.find((w) => w.id === "desktop");
  if (!desktop) return undefined;
  const { positioned, items, points, screen } = placesOn(engine, desktop);
  if (!positioned) return undefined;
  const whole = screen.width * screen.height;
  return Object.fromEntries(items.map((item) => [item.id, coveredArea(boxesAt(points.get(item.id)!, screen), screen) / whole]));
}
