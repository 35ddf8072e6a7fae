import { randomUUID } from "node:crypto";
import { isDeepStrictEqual } from "node:util";
import type { ReportJson } from "@/contract/items";
import type { BroughtAnswer, Compared, KeepLayoutInput, LayoutActInput, LayoutLine } from "@/contract/layouts";
import { isBlankName } from "@/core/hollow/blanks";
import { type IconNow, type KeptIcon, type Layout, matched } from "@/core/layouts/layout";
import { type Onto, onto } from "@/core/layouts/onto";
import type { Json, Point } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { hiddenBy } from "@/core/quiet/levels";
import type { ScreenSize } from "@/core/screen/state";
import { perform } from "../act";
import { readRecord, readRecords, readScreen } from "../db/record";
import type { Engine, Reading } from "../engine";
import { hollowsDrawn } from "../hollow/hollows";
import { iconsOf, planShown } from "../quiet/quiet";
import { placingSteps } from "../screen/placing";
import { screenOf } from "../screen/screens";
import { type Item, itemsOn } from "../survey/items";

const keyOf = (id: string) => `layout:${id}`;

/** The layouts, the one that was kept last first. */
export const layouts = (engine: Reading): [id: string, layout: Layout][] =>
  [...readRecords<Layout>(engine.db, "layout")].sort(([, a], [, b]) => b.at - a.at);

/** A layout by its id or its title. @throws Problem "unknown-layout" */
export function layoutMeant(engine: Reading, named: string): [id: string, layout: Layout] {
  const all = layouts(engine);
  const found = all.find(([id]) => id === named) ?? all.find(([, { title }]) => title.toLowerCase() === named.toLowerCase());
  if (!found) throw new Problem("unknown-layout", { name: named });
  return found;
}

/** Keeps how the icons lie, how much is shown and how large they are, under a name. */
export function keepLayout(engine: Engine, input: KeepLayoutInput): Promise<ReportJson> {
  return perform(engine, "Keeping a layout", () => planKeep(engine, layoutNow(engine, input.title)), { trial: input.dryRun });
}

function layoutNow(engine: Engine, title: string): Layout {
  const { size, shown } = readScreen(engine.db);
  const items = itemsOn(engine.db, "desktop");
  const places = screenOf(engine).positions(engine, items);
  if (!places) throw new Problem("keeps-places");
  const icons = items.flatMap((item): KeptIcon[] => {
    const at = places.get(item.id);
    if (!at) return [];
    const { id, name, kind, identity, sha256 } = item;
    const { type, bytes } = identity;
    return [{ item: id, name, type, kind, bytes: type === "file" ? bytes : 0, sha256, x: at.x, y: at.y }];
  });
  return { title, at: engine.now(), size, level: shown.level, kinds: shown.kinds, icons };
}

/** Puts a layout on the list; what was kept under its title is replaced. */
export function planKeep(engine: Engine, layout: Layout): Plan {
  const before = layouts(engine).find(([, { title }]) => title.toLowerCase() === layout.title.toLowerCase());
  const key = keyOf(before?.[0] ?? randomUUID());
  return {
    act: "layout",
    words: () =>
      `${before ? "Kept anew" : "Kept"} the layout “${layout.title}”, ${engine.words().counted(drawnOf(layout).length, "icon")}`,
    steps: [{ type: "set", key, from: (before?.[1] ?? null) as unknown as Json, to: withoutNothing(layout) }],
    left: [],
  };
}

/** Its icons that can be seen: a hollow has its place, and is neither counted nor drawn. */
const drawnOf = ({ icons }: Layout): KeptIcon[] => icons.filter(({ name }) => !isBlankName(name));

/** As JSON keeps it. */
const withoutNothing = (layout: Layout): Json => JSON.parse(JSON.stringify(layout)) as Json;

export function removeLayout(engine: Engine, input: LayoutActInput): Promise<ReportJson> {
  return perform(
    engine,
    "Taking a layout off the list",
    () => {
      const [id, { title }] = layoutMeant(engine, input.layout);
      const from = readRecord<Json>(engine.db, keyOf(id));
      const step: Step = { type: "set", key: keyOf(id), from, to: null };
      return { act: "layout", words: () => `Took the layout “${title}” off the list`, steps: [step], left: [] };
    },
    { trial: input.dryRun },
  );
}

/** Brings a layout back: places, size of the icons, and how much is shown; one act. */
export async function bringLayout(engine: Engine, input: LayoutActInput): Promise<BroughtAnswer> {
  let compared: Compared | undefined;
  const report = await perform(
    engine,
    "Bringing a layout back",
    () => {
      const made = planBring(engine, input.layout);
      compared = made.compared;
      return made.plan;
    },
    { trial: input.dryRun },
  );
  return { ...report, compared: compared! };
}

function planBring(engine: Engine, named: string): { plan: Plan; compared: Compared } {
  const [id, layout] = layoutMeant(engine, named);
  if (!screenOf(engine).placesIcons) throw new Problem("keeps-places");
  const come = comes(engine, layout);
  const level = planLevel(engine, layout);
  const compared = comparedOf(engine, id, layout, come);
  const { title } = layout;
  return {
    plan: {
      act: "layout",
      words: () =>
        `Brought the layout “${title}” back${compared.went.length > 0 ? `; ${engine.words().counted(compared.went.length, "icon")} of it no longer there` : ""}`,
      steps: [...placingSteps(engine.db, come.size, come.onto.spots), ...(level?.steps ?? [])],
      left: level?.left ?? [],
    },
    compared,
  };
}

/** The title of a layout, if it is still there. */
export const layoutTitle = (engine: Reading, id: string | undefined): string | undefined =>
  id === undefined ? undefined : readRecord<Layout>(engine.db, keyOf(id))?.title;

/** The steps that bring places and size of a layout, without how much it shows; none where it is gone, or the screen keeps places to itself. */
export function placesOfLayout(engine: Engine, id: string): Step[] {
  const layout = readRecord<Layout>(engine.db, keyOf(id));
  if (!layout || !screenOf(engine).placesIcons) return [];
  const come = comes(engine, layout);
  return placingSteps(engine.db, come.size, come.onto.spots);
}

/** How much a layout shows, where that is not what is shown now. */
function planLevel(engine: Engine, { level, kinds }: Layout): Omit<Plan, "level"> | undefined {
  const { shown } = readScreen(engine.db);
  if (shown.level === level && isDeepStrictEqual(shown.kinds, kinds)) return undefined;
  const wanted = { level, kinds, apart: [], despite: [] };
  const hidden = hiddenBy(wanted, iconsOf(engine));
  const since = level === "everything" ? 0 : engine.now();
  return planShown(engine, { ...wanted, hidden, along: false, since, until: null });
}

interface Comes {
  size: ScreenSize;
  /** The items of the layout's icons, by their number in it. */
  found: Map<number, string>;
  items: readonly Item[];
  places: ReadonlyMap<string, Point>;
  onto: Onto;
}

/** Where all that lies on the desktop would lie with a layout. */
function comes(engine: Engine, layout: Layout): Comes {
  const items = itemsOn(engine.db, "desktop");
  const now = items.map(
    ({ id, name, identity: { type, bytes }, sha256 }): IconNow => ({
      id,
      name,
      type,
      bytes: type === "file" ? bytes : 0,
      sha256,
    }),
  );
  const found = matched(layout.icons, now);
  // A hollow lies where its owner knows it to be, unless the layout says where.
  const undrawn = hollowsDrawn(engine);
  const stays = new Set(items.flatMap(({ id, path }) => (undrawn.has(path) ? [id] : [])));
  const places = screenOf(engine).positions(engine, items) ?? new Map<string, Point>();
  const kept = new Map([...found].map(([n, id]) => [id, { x: layout.icons[n]!.x, y: layout.icons[n]!.y }]));
  const others = new Map([...places].filter(([id]) => !kept.has(id) && !stays.has(id)));
  const { width, height } = readScreen(engine.db).size;
  const size = { width, height, icon: layout.size.icon, label: layout.size.label };
  return {
    size,
    found,
    items: items.filter(({ id }) => !stays.has(id) || kept.has(id)),
    places,
    onto: onto(kept, others, layout.size, size),
  };
}

function comparedOf(engine: Engine, id: string, layout: Layout, { size, found, items, places, onto: lies }: Comes): Compared {
  const labels = new Map(items.map((item) => [item.id, item.label]));
  const known = new Set(found.values());
  const spots = [...lies.spots].flatMap(([item, { x, y }]) => {
    const at = places.get(item);
    return at && at.x === x && at.y === y ? [] : [{ item, x, y }];
  });
  const { shown, size: now } = readScreen(engine.db);
  return {
    layout: id,
    screen: size,
    spots,
    moved: spots.flatMap(({ item }) => (known.has(item) ? [labels.get(item)!] : [])),
    came: items.flatMap((item) => (known.has(item.id) ? [] : [item.label])),
    went: layout.icons.flatMap(({ name }, n) => (found.has(n) ? [] : [isBlankName(name) ? "a hollow" : shownName(name)])),
    shifted: lies.shifted,
    crowded: lies.crowded,
    otherLevel: shown.level !== layout.level || !isDeepStrictEqual(shown.kinds, layout.kinds),
    otherIcons: now.icon.width !== size.icon.width,
  };
}

/** What a layout is like now, compared with it. */
export function compareLayout(engine: Engine, { layout: named }: { layout: string }): Compared {
  const [id, layout] = layoutMeant(engine, named);
  return comparedOf(engine, id, layout, comes(engine, layout));
}

/** So many icons tell what a layout is like in a drawing of its size. */
const mostDrawn = 400;

export function listLayouts(engine: Engine): LayoutLine[] {
  return layouts(engine).map(([id, layout]) => {
    const { moved, came, went } = comparedOf(engine, id, layout, comes(engine, layout));
    return {
      id,
      title: layout.title,
      at: new Date(layout.at).toISOString(),
      width: layout.size.width,
      height: layout.size.height,
      icon: layout.size.icon.width,
      level: layout.level,
      icons: drawnOf(layout).length,
      drawn: drawnOf(layout)
        .slice(0, mostDrawn)
        .map(({ x, y }) => [x, y]),
      moved: moved.length,
      came: came.length,
      went: went.length,
    };
  });
}
