import { joinRaw, nameOf, type Raw, rawFromText } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import type { Alike } from "./alike";

/** A program that was not used for so long is rarely used; milliseconds. */
const rareAfter = 90 * 86_400_000;
/** Fewer than so many need no folder. */
const fewest = 3;

/**
 * Shortcuts that could share a folder on the desktop: those to programs that were not used for long, by the programs' own
 * last use where it is known, then those of one activity. `desktop` is its title.
 */
export async function shortcutGroups(engine: Engine, items: readonly Item[], desktop: string): Promise<Alike[]> {
  const shortcuts = items.filter((item) => item.kind === "shortcut" && item.facts.leadsTo && item.facts.dead === undefined);
  if (shortcuts.length < fewest) return [];
  const usedAt = await lastUses(engine, new Set(shortcuts.map(programName)));
  const rare = shortcuts.filter((item) => {
    const at = usedAt.get(programName(item));
    return at !== undefined && engine.now() - at > rareAfter;
  });
  const groups: Alike[] = [];
  if (rare.length >= fewest)
    groups.push({
      why: `shortcuts to programs not used since ${engine.words().date(Math.max(...rare.map((item) => usedAt.get(programName(item))!)))}`,
      items: rare,
      title: `${desktop} / Rarely used`,
    });
  const taken = new Set(groups.flatMap((group) => group.items));
  for (const activity of new Set(shortcuts.map((item) => item.facts.activity))) {
    const of = shortcuts.filter((item) => item.facts.activity === activity && !taken.has(item));
    if (activity === undefined || of.length < fewest) continue;
    groups.push({
      why: `shortcuts for ${activity}`,
      items: of,
      title: `${desktop} / ${activity.charAt(0).toUpperCase()}${activity.slice(1)}`,
    });
  }
  return groups;
}

const programName = (item: Item) => nameOf(rawFromText(item.facts.leadsTo!)) as string;

/**
 * When programs were last used, by their names; milliseconds since 1970. Known from what they note among the recently used
 * files (Desktop Bookmark Specification), and from when they last made something in their own folders (XDG Base Directory
 * Specification). Those of which neither is known are missing.
 */
export async function lastUses(engine: Engine, programs: ReadonlySet<string>): Promise<Map<string, number>> {
  const { root } = engine.account;
  const used = await notedNow(engine, joinRaw(root, ".local/share/recently-used.xbel"));
  const found = new Map<string, number>();
  for (const program of programs) {
    const own = [".config", ".cache", ".local/share", ".local/state"].flatMap((base) => {
      const stat = engine.disk.stat(joinRaw(root, base, program as Raw));
      return stat?.isDirectory() ? [Number(stat.mtimeMs)] : [];
    });
    const times = [...own, ...(used.has(program) ? [used.get(program)!] : [])];
    if (times.length > 0) found.set(program, Math.max(...times));
  }
  return found;
}

/** What programs noted among the recently used files, read anew where that list changed. */
async function notedNow(engine: Engine, file: Raw): Promise<ReadonlyMap<string, number>> {
  const stat = unlessProblem(() => engine.disk.stat(file));
  const state = stat && `${stat.ino}:${stat.size}:${stat.mtimeNs}`;
  const before = noted.get(engine);
  if (before && before.state === state) return before.used;
  const used = state === undefined ? [] : ((await engine.workers.run("notedUses", { file })) ?? []);
  const now = { state, used: new Map(used) };
  noted.set(engine, now);
  return now.used;
}
const noted = new WeakMap<Engine, { state: string | undefined; used: ReadonlyMap<string, number> }>();
