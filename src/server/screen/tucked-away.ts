import type { Step } from "@/core/ledger/step";
import type { MoveStep } from "@/core/ledger/steps/move";
import { freeName } from "@/core/names/free-name";
import { joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import type { Shown } from "@/core/screen/state";
import { tuckedFolder, tuckedPage, type Worktop } from "../account";
import { readRecords } from "../db/record";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { pointersToDesktop } from "./pointers";
import type { Going, Screen } from "./screen";

const page = rawFromText(`These things are out of sight. Nothing was deleted.

Vuoto moved them from the folder above this one (your desktop) into this folder,
so that the screen is calm. To bring them back, use Vuoto: quiet, everything.
Without Vuoto: move everything here, this page aside, into the folder above.

    cd here && mv -n -- * ..

`);

/**
 * Any screen that draws whatever lies in the desktop folder: things move by a rename into a hidden folder inside it, on
 * the same disk, and back. Where icons lie is that screen's own affair and not known here.
 */
export const tuckedAway: Screen = {
  name: "tucked away",
  title: "into a hidden folder",
  sentence: "Things move into a hidden folder on the desktop itself, and back. Nothing is copied or deleted.",
  caution: "Programs that look for these by their old place will not find them, and some backups leave out hidden folders.",
  // How large it is cannot be asked: the person may say so.
  positions: () => undefined,
  pointers: pointersToDesktop,
  outOfSight(engine, items) {
    const folders = new Set(engine.account.worktops.map(tuckedFolder));
    return new Set(items.filter((item) => folders.has(item.folder)).map((item) => item.id));
  },
  steps(engine, items, from, to, going) {
    const desktop = engine.account.worktops.find((w) => w.id === "desktop");
    if (!desktop) return [];
    return tuck(engine, desktop, items, from, to, going);
  },
};

function tuck(
  engine: Engine,
  desktop: Worktop,
  items: readonly Item[],
  from: Shown,
  to: Shown,
  { evenInUse, only }: Going,
): Step[] {
  const { disk } = engine;
  const folder = tuckedFolder(desktop);
  const pagePath = joinRaw(folder, tuckedPage);
  const hide = new Set(to.hidden);
  const away = items.filter((item) => hide.has(item.id) && item.folder !== folder && (only?.has(item.id) ?? true));
  const back = items.filter((item) => !hide.has(item.id) && item.folder === folder);
  const steps: Step[] = [];
  const exists = disk.stat(folder) !== undefined;
  if (away.length > 0) {
    if (!exists) steps.push({ type: "make-folder", folder, mode: 0o755 });
    const before = disk.readFile(pagePath);
    if (before?.content !== page) steps.push({ type: "write", file: pagePath, before, after: { content: page, mode: 0o644 } });
  }
  const goes = { sight: "out", ...(evenInUse && { evenInUse }) } as const;
  steps.push(...moves(engine, away, folder, goes), ...moves(engine, back, desktop.folder, { sight: "back" }));
  if (back.length > 0 && exists && hide.size === 0) {
    const going = new Set<Raw>(back.map((item) => item.name));
    const staying = (disk.list(folder) ?? []).filter((entry) => entry.name !== tuckedPage && !going.has(entry.name));
    const stat = disk.stat(folder);
    if (staying.length === 0 && stat) {
      const before = disk.readFile(pagePath);
      if (before !== null) steps.push({ type: "write", file: pagePath, before, after: null, ifAlone: true });
      steps.push({ type: "remove-empty-folder", folder, mode: Number(stat.mode & 0o7777n), mtimeNs: String(stat.mtimeNs) });
    }
  }
  steps.push({ type: "screen", part: "shown", from, to });
  return steps;
}

/**
 * Moves to a folder; should another thing have taken a name there meanwhile, under a free one. On its way back each gets the
 * name that it had on the desktop.
 */
function moves(engine: Engine, items: readonly Item[], folder: Raw, how: Pick<MoveStep, "sight" | "evenInUse">): Step[] {
  if (items.length === 0) return [];
  const taken = new Set<Raw>(engine.disk.list(folder)?.map((entry) => entry.name) ?? []);
  const names = readRecords<{ name: string }>(engine.db, "name");
  return items.flatMap((item): Step[] => {
    const key = `name:${item.id}`;
    const own = names.get(item.id);
    const name = freeName((own?.name as Raw | undefined) ?? item.name, (n) => taken.has(n) || n === tuckedPage);
    taken.add(name);
    const { id, path, identity } = item;
    const move: Step = { type: "move", item: id, from: path, to: joinRaw(folder, name), identity, ...how };
    if (own) return [move, { type: "set", key, from: own, to: null }];
    // One that came back under another name has that one from then on.
    return name === item.name || how.sight === "back"
      ? [move]
      : [move, { type: "set", key, from: null, to: { name: item.name } }];
  });
}
