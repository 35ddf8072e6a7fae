import type { Step } from "@/core/ledger/step";
import { joinRaw, type Raw, rawFromText } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { canBeListed, changedHiddenFile, readHiddenFile } from "@/core/screen/hidden-file";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import type { Screen } from "./screen";

const fileName = rawFromText(".hidden");
/** The names that Vuoto wrote into the file; other lines in it are somebody else's. */
const key = "listed:desktop";
const ours = (engine: Engine) => readRecord<{ names: Raw[] }>(engine.db, key)?.names ?? [];

function place(engine: Engine): Raw | undefined {
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop");
  return desktop && joinRaw(desktop.folder, fileName);
}

/** The names that the file lists, none where it is a folder; undefined where it cannot be read, or is a link. */
const linesIn = (engine: Engine, file: Raw): Set<Raw> | undefined =>
  unlessProblem(() => {
    const isFolder = engine.disk.identity(file)?.type === "folder";
    return new Set(isFolder ? [] : readHiddenFile(engine.disk.readFile(file)?.content).lines);
  });

/**
 * A desktop that file programs draw which honour a folder's file `.hidden`: names are listed there, and nothing moves. Whether
 * the one that draws this desktop does cannot be asked.
 */
export const listed: Screen = {
  name: "listed",
  title: "by a list of names",
  sentence: "Nothing moves: names are listed in the desktop's own file .hidden, and file programs that read it leave them out.",
  caution: "Not every program reads that file. If the icons stay, choose another screen; nothing is lost by trying.",
  positions: () => undefined,
  refuses: (item) => (canBeListed(item.name) ? undefined : new Problem("not-listable", { name: item.label })),
  outOfSight(engine, items) {
    const names = new Set(ours(engine));
    const file = place(engine);
    if (names.size === 0 || file === undefined) return new Set();
    // Where somebody made a link of that file, or it cannot be read, what it lists is not known.
    const read = linesIn(engine, file);
    return new Set(items.filter(({ name }) => names.has(name) && (!read || read.has(name))).map(({ id }) => id));
  },
  believed(engine) {
    const file = place(engine);
    return ours(engine).length === 0 || file === undefined || linesIn(engine, file) ? "known" : "asked";
  },
  hiddenByOthers(engine, items) {
    const file = place(engine);
    if (file === undefined) return new Set();
    const names = new Set(ours(engine));
    const lines = linesIn(engine, file) ?? new Set<Raw>();
    return new Set(items.filter(({ name }) => lines.has(name) && !names.has(name)).map(({ id }) => id));
  },
  steps(engine, items, from, to) {
    const file = place(engine);
    if (file === undefined) return [];
    const hide = new Set(to.hidden);
    const wanted = items.filter((item) => hide.has(item.id) && canBeListed(item.name)).map(({ name }: Item) => name);
    const before = engine.disk.readFile(file);
    const written = new Set(ours(engine));
    const there = new Set(readHiddenFile(before?.content).lines);
    const keep = new Set(wanted);
    const content = changedHiddenFile(before?.content, {
      remove: new Set([...written].filter((name) => !keep.has(name))),
      add: wanted,
    });
    // What somebody else had listed before is theirs, also where it is hidden here too.
    const names = wanted.filter((name) => written.has(name) || !there.has(name));
    const steps: Step[] = [];
    if (content !== before?.content)
      steps.push({ type: "write", file, before, after: content === undefined ? null : { ...before, content } });
    const known = readRecord<{ names: Raw[] }>(engine.db, key);
    const next = names.length > 0 ? { names } : null;
    if (JSON.stringify(known) !== JSON.stringify(next)) steps.push({ type: "set", key, from: known, to: next });
    steps.push({ type: "screen", part: "shown", from, to });
    return steps;
  },
};
