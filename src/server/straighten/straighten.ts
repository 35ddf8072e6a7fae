import type { Straight, StraightenAnswer, StraightenInput, Straightening } from "@/contract/straighten";
import type { Point } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { iconBoxes, iconSizes, type ScreenSize } from "@/core/screen/state";
import { type Bed, type Icon, inBeds, type Order, ordered, wayOf } from "@/core/straighten/arrange";
import { firstGridLook, type Grid, type GridLook, gridOn, isOn, Lying, meet, nearestOf, roomOn } from "@/core/straighten/grid";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { hollowsDrawn } from "../hollow/hollows";
import { placingSteps } from "../screen/placing";
import { screenOf } from "../screen/screens";
import { outOfSight } from "../screen/sight";
import { itemsOn } from "../survey/items";

/** Puts the icons that are in sight onto the grid, in an order, in beds, or each kept near its place: one act. */
export async function straighten(engine: Engine, input: StraightenInput): Promise<StraightenAnswer> {
  let straight: Straight | undefined;
  const report = await perform(
    engine,
    "Straightening the icons",
    async (signal) => {
      const made = await planStraighten(engine, input, signal);
      straight = made.straight;
      return made.plan;
    },
    { trial: input.dryRun },
  );
  return { ...report, straight: straight! };
}

const done: Record<Straightening, string> = {
  name: "by name",
  kind: "by kind",
  size: "by size",
  date: "by date",
  beds: "like beside like",
  near: "each near its place",
};

async function planStraighten(
  engine: Engine,
  input: StraightenInput,
  signal?: AbortSignal,
): Promise<{ plan: Plan; straight: Straight }> {
  const { db } = engine;
  const screen = screenOf(engine);
  if (!screen.placesIcons) throw new Problem("keeps-places");
  const before = readScreen(db).size;
  const size = input.icon === undefined ? before : { ...before, ...iconBoxes(input.icon) };
  const look = { spacing: input.spacing ?? firstGridLook.spacing, margin: input.margin ?? firstGridLook.margin };
  const grid = gridOn(size, look);
  const { inSight, away, fixed } = iconsNow(engine);
  const plan = (steps: Step[], icons: number): Plan => ({
    act: "straighten",
    words: () => `Straightened ${engine.words().counted(icons, "icon")}, ${done[input.by]}`,
    steps,
    left: [],
  });
  const room = { icons: inSight.length, fits: grid.spots.length, room: roomOn(size, look) };
  if (inSight.length > grid.spots.length) {
    const best = bestFor(size, look, inSight.length);
    if (!input.dryRun) throw new Problem("too-many-icons", { detail: saidOf(best, inSight.length) });
    return {
      plan: plan([], 0),
      straight: { ...room, best, spots: [], way: 0, sortedWay: 0, beds: [], aside: 0 },
    };
  }
  const { spots, beds } = await arranged(engine, input.by, inSight, grid, signal);
  clear(spots, fixed, grid);
  const aside = outOfTheWay(away, spots, grid, size);
  const steps = placingSteps(db, size, new Map([...spots, ...aside]));
  const moved = steps.flatMap((step) => (step.type === "place" && step.to ? [{ item: step.item, ...step.to }] : []));
  return {
    plan: plan(steps, inSight.length),
    straight: {
      ...room,
      spots: moved,
      way: Math.round(wayOf(inSight, spots)),
      sortedWay: Math.round(wayOf(inSight, ordered(inSight, "name", grid))),
      beds,
      aside: aside.size,
    },
  };
}

/**
 * The icons of the desktop where they lie, those in sight and those that are not; and the places that stay as they are: a
 * hollow lies where its owner knows it to be.
 */
function iconsNow(engine: Engine): { inSight: Icon[]; away: Icon[]; fixed: Point[] } {
  const items = itemsOn(engine.db, "desktop");
  const screen = screenOf(engine);
  const places = screen.positions(engine, items);
  const hidden = outOfSight(engine, items, readScreen(engine.db).shown);
  const undrawn = hollowsDrawn(engine);
  const fixed = items.flatMap(({ id, path }) => (undrawn.has(path) ? (places?.get(id) ?? []) : []));
  const icons = items.flatMap(({ id, path, label, kind, bytes, mtimeMs }): Icon[] => {
    const at = places?.get(id);
    return at && !undrawn.has(path) ? [{ id, name: label, kind, bytes, mtimeMs, x: at.x, y: at.y }] : [];
  });
  return { inSight: icons.filter(({ id }) => !hidden.has(id)), away: icons.filter(({ id }) => hidden.has(id)), fixed };
}

/** Nothing comes to lie over what stays where it is, as long as there is another cell. */
function clear(spots: Map<string, Point>, fixed: readonly Point[], grid: Grid): void {
  if (fixed.length === 0) return;
  const over = (at: Point) => fixed.some((one) => meet(grid, at, one));
  const taken = new Set([...spots.values()].map(({ x, y }) => `${x} ${y}`));
  let free = grid.spots.filter((spot) => !taken.has(`${spot.x} ${spot.y}`) && !over(spot));
  for (const [id, at] of spots) {
    const spot = over(at) ? nearestOf(free, at) : undefined;
    if (!spot) continue;
    spots.set(id, spot);
    free = free.filter((one) => one !== spot);
  }
}

type Arranged = { spots: Map<string, Point>; beds: Bed[] };

async function arranged(engine: Engine, by: Straightening, icons: Icon[], grid: Grid, signal?: AbortSignal): Promise<Arranged> {
  if (by === "beds") return inBeds(icons, grid);
  if (by !== "near") return { spots: ordered(icons, by satisfies Order, grid), beds: [] };
  const places = icons.map(({ x, y }) => ({ x, y }));
  const to = await engine.workers.run("findNearest", { places, spots: grid.spots }, { signal, abrupt: true });
  return { spots: new Map(icons.map(({ id }, n) => [id, grid.spots[to[n]!]!])), beds: [] };
}

/**
 * What is out of sight keeps its place for when it comes back; where that is taken now, or off the screen, it gets the nearest
 * cell that is free, as long as there is one.
 */
function outOfTheWay(away: readonly Icon[], spots: ReadonlyMap<string, Point>, grid: Grid, size: ScreenSize): Map<string, Point> {
  const lying = new Lying(grid);
  for (const spot of spots.values()) lying.add(spot);
  const inTheWay = away.filter((icon) => !isOn(grid, icon, size) || lying.meets(icon));
  const moving = new Set(inTheWay);
  for (const icon of away) if (!moving.has(icon)) lying.add(icon);
  let free = grid.spots.filter((spot) => !lying.meets(spot));
  const moved = new Map<string, Point>();
  for (const icon of inTheWay) {
    const spot = nearestOf(free, icon);
    if (!spot) break;
    moved.set(icon.id, spot);
    free = free.filter((one) => one !== spot);
  }
  return moved;
}

/** With which size, spacing and margin all of them fit, changing as little as can be; where with none, with which the most do. */
function bestFor(size: ScreenSize, look: GridLook, icons: number): NonNullable<Straight["best"]> {
  const sizes = iconSizes.filter((icon) => icon <= size.icon.width).toReversed();
  const spacings = [look.spacing, 8, 4, 0].filter((spacing) => spacing <= look.spacing);
  const margins = [look.margin, 0];
  const all = [size.icon.width, ...sizes].flatMap((icon) =>
    spacings.flatMap((spacing) =>
      margins.map((margin) => {
        const fits = gridOn({ ...size, ...iconBoxes(icon) }, { spacing, margin }).spots.length;
        return { icon, spacing, margin, fits };
      }),
    ),
  );
  return all.find(({ fits }) => fits >= icons) ?? all.reduce((best, one) => (one.fits > best.fits ? one : best));
}

const saidOf = ({ icon, spacing, margin, fits }: NonNullable<Straight["best"]>, icons: number): string =>
  fits >= icons
    ? `with icons of ${icon}, ${spacing} between them and a margin of ${margin}, ${fits} would`
    : `the most are ${fits}, with icons of ${icon}, ${spacing} between them and a margin of ${margin}`;
