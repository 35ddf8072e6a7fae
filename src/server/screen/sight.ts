import type { Step } from "@/core/ledger/step";
import { joinRaw, type Raw } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import type { Shown } from "@/core/screen/state";
import { tuckedFolder, tuckedPage } from "../account";
import type { Engine } from "../engine";
import { type Item, itemsOn } from "../survey/items";
import { listed } from "./listed";
import type { Going } from "./screen";
import { screenOf } from "./screens";
import { tuckedAway } from "./tucked-away";

/** Screens on which things stay out of sight, whichever draws the desktop since: an undo, or a restart, may have come between. */
const lasting = [tuckedAway, listed];

const others = (engine: Engine) => lasting.filter(({ name }) => name !== screenOf(engine).name);

/** The items that are out of sight: on the screen that draws the desktop, or left so by another. */
export function outOfSight(engine: Engine, items: readonly Item[], shown: Shown): Set<string> {
  const away = screenOf(engine).outOfSight(engine, items, shown);
  for (const screen of others(engine)) for (const id of screen.outOfSight(engine, items, shown)) away.add(id);
  return away;
}

/** The steps from what is shown to something else, on the screen that draws the desktop; what another one left is brought back. */
export function stepsTo(engine: Engine, items: readonly Item[], from: Shown, to: Shown, options: Going): Step[] {
  const back = others(engine).flatMap((screen) => {
    const away = screen.outOfSight(engine, items, from);
    const hidden = to.hidden.filter((id) => away.has(id));
    if (hidden.length === away.size) return [];
    return screen.steps(engine, items, from, { ...to, hidden }, options).filter(({ type }) => type !== "screen");
  });
  return [...back, ...screenOf(engine).steps(engine, items, from, to, options)];
}

/** What lies, hidden by no dot, in the folder for what is out of sight and was found by no look yet: somebody else put it there. */
export function unknownOutOfSight(engine: Engine): Raw[] {
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop");
  if (!desktop) return [];
  const folder = tuckedFolder(desktop);
  const names = namesIn(engine, folder);
  if (names.length === 0) return [];
  const known = new Set(itemsOn(engine.db, "desktop").flatMap((item) => (item.folder === folder ? [item.name] : [])));
  const unknown = names.filter((name) => !known.has(name)).map((name) => joinRaw(folder, name));
  // Looked at once for each state of the folder: what is no item even then, is listed all the same.
  const read = lastRead.get(engine);
  if (unknown.length > 0 && read && !read.lookedAt) {
    read.lookedAt = true;
    engine.lookLater();
  }
  return unknown;
}

/** Read anew whenever the folder changed. */
function namesIn(engine: Engine, folder: Raw): Raw[] {
  // Where it became a link nothing is followed.
  const stat = unlessProblem(() => engine.disk.stat(folder));
  const state = stat && `${stat.dev}:${stat.ino}:${stat.mtimeNs}:${stat.ctimeNs}`;
  const before = lastRead.get(engine);
  if (before && before.state === state) return before.names;
  const entries = state === undefined ? [] : (unlessProblem(() => engine.disk.list(folder)) ?? []);
  const names = entries.map(({ name }) => name).filter((name) => name !== tuckedPage && !name.startsWith("."));
  lastRead.set(engine, { state, names });
  return names;
}
const lastRead = new WeakMap<Engine, { state: string | undefined; names: Raw[]; lookedAt?: boolean }>();
