import { joinRaw, type Raw } from "@/core/names/raw";
import { isOfVuoto, tuckedFolder, tuckedPage, type Worktop, type WorktopId } from "../account";
import { writeLazily } from "../db/db";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { type ReadEntry, stateOf } from "../jobs/work/read-worktop";
import { sharedMemory } from "../shared";
import { type Item, itemsOn, newItemId } from "./items";

/**
 * Reads the worktops and brings the list of items up to date: what is new gets an id, what was renamed or saved anew keeps
 * its own, what is gone is marked so. Answers which worktops could not be read.
 */
export async function refreshWorktops(engine: Engine): Promise<WorktopId[]> {
  const missing: WorktopId[] = [];
  for (const worktop of engine.account.worktops) {
    const read = await readUndisturbed(engine, worktop);
    if (!read) missing.push(worktop.id);
    else tell(engine, reconcile(engine, worktop, read));
  }
  engine.unreadable = missing;
  return missing;
}

/** What came of a look: whether anything is otherwise than it was, and the files that merely grew. */
interface Found {
  changed: boolean;
  grown: { id: string; bytes: number }[];
}

/** A file that grew within so long before is growing still: that is told with its size, and nobody need look at all anew. */
const growsMs = 10_000;
/** So often at most. */
const tellsMs = 2000;

interface Growing {
  /** When each grew last. */
  at: Map<string, number>;
  untold: Map<string, number>;
  toldAt: number;
  /** Once nothing grows any more, all that rests on sizes is told anew. */
  stop?: () => void;
}
const growing = sharedMemory<Engine, Growing>("growing");

/** Whether a file grew until just now. */
export const isGrowing = (engine: Engine, id: string): boolean =>
  (growing.get(engine)?.at.get(id) ?? Number.NEGATIVE_INFINITY) > engine.now() - growsMs;

function tell(engine: Engine, { changed, grown }: Found): void {
  const now = engine.now();
  const known: Growing = growing.get(engine) ?? { at: new Map(), untold: new Map(), toldAt: Number.NEGATIVE_INFINITY };
  growing.set(engine, known);
  const began = grown.some(({ id }) => !((known.at.get(id) ?? Number.NEGATIVE_INFINITY) > now - growsMs));
  for (const { id, bytes: size } of grown) {
    known.at.set(id, now);
    known.untold.set(id, size);
  }
  if (changed || began) {
    known.untold.clear();
    engine.events.emit({ type: "changed", what: "items" });
  } else if (known.untold.size > 0 && now >= known.toldAt + tellsMs) {
    engine.events.emit({ type: "grown", items: [...known.untold].map(([id, size]) => ({ id, bytes: size })) });
    known.untold.clear();
    known.toldAt = now;
  }
  if (grown.length === 0) return;
  known.stop?.();
  known.stop = engine.clock.after(growsMs, () => {
    known.at.clear();
    if (engine.closing) return;
    engine.events.emit({ type: "changed", what: "items" });
    engine.lookLater();
  });
}

/** The same file, with more in it. */
const merelyGrew = (known: Item, now: ReadEntry): boolean =>
  now.type === "file" &&
  known.identity.type === "file" &&
  known.identity.ino === now.ino &&
  known.dev === now.dev &&
  known.label === now.label &&
  (now.found === undefined || now.found.kind === known.kind) &&
  now.bytes > known.identity.bytes;

/** So often it is read beside acts; then they wait for it. */
const mostTries = 4;

/** What was read while an act moved things is out of date, and read again. */
async function readUndisturbed(engine: Engine, worktop: Worktop): Promise<Map<Raw, ReadEntry[]> | undefined> {
  const read = () => readFolders(engine, worktop, itemsOn(engine.db, worktop.id));
  for (let tries = 0; tries < mostTries; tries++) {
    const before = await engine.ledger.between();
    const found = await read();
    if ((await engine.ledger.between()) === before) return found;
  }
  return engine.ledger.undisturbed(read);
}

async function readFolders(
  engine: Engine,
  worktop: Worktop,
  before: readonly Item[],
): Promise<Map<Raw, ReadEntry[]> | undefined> {
  const folders = new Map<Raw, ReadEntry[]>();
  for (const folder of [worktop.folder, tuckedFolder(worktop)]) {
    const known = new Map<Raw, string>();
    for (const item of before)
      if (
        item.folder === folder &&
        item.kind !== "shortcut" &&
        item.kind !== "web link" &&
        item.identity.type !== "folder" &&
        item.kindWhy !== ""
      )
        known.set(item.name, stateOf(item.identity));
    const entries = await engine.workers.run("readWorktop", { folder, known });
    const isItem = ({ name }: ReadEntry) =>
      !isOfVuoto(engine.account, joinRaw(folder, name)) && (folder === worktop.folder || name !== tuckedPage);
    if (entries) {
      folders.set(folder, entries.entries.filter(isItem));
      // Vuoto's own folder for what is out of sight is none of the person's.
      if (folder === worktop.folder)
        engine.hidden.set(worktop.id, entries.hidden - Number(engine.disk.stat(tuckedFolder(worktop)) !== undefined));
    } else if (folder === worktop.folder) return undefined;
  }
  return folders;
}

function reconcile(engine: Engine, worktop: Worktop, read: Map<Raw, ReadEntry[]>): Found {
  const { db } = engine;
  const now = engine.now();
  const items = itemsOn(db, worktop.id);
  const byPath = new Map(items.map((item) => [item.path, item]));
  // What an act has just now on its way is that act's own to note.
  const moving = (path: Raw) => engine.ledger.isOnItsWay(path);
  const entries = [...read].flatMap(([folder, list]) =>
    list.map((entry) => ({ entry, folder, path: joinRaw(folder, entry.name) })).filter(({ path }) => !moving(path)),
  );
  // By what tells one from another; two names of one file are told by that alike.
  const gone = new Map<string, Item[]>();
  const here = new Set(entries.map((e) => e.path));
  for (const item of items) {
    if (here.has(item.path) || moving(item.path)) continue;
    const key = `${item.dev}:${item.identity.ino}:${item.identity.type}`;
    gone.set(key, [...(gone.get(key) ?? []), item]);
  }
  let changed = false;
  const grown: Found["grown"] = [];

  const insert = db.prepare(
    `INSERT INTO item (id, worktop, folder, name, type, ino, dev, bytes, mtime_ns, kind, kind_why, facts, label, arrived_at, read_at, opened_at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
  );
  const update = db.prepare(
    `UPDATE item SET folder = ?, name = ?, type = ?, ino = ?, dev = ?, bytes = ?, mtime_ns = ?, label = ?, read_at = ?,
     sha256 = CASE WHEN ino = ? AND bytes = ? AND mtime_ns = ? THEN sha256 END WHERE id = ?`,
  );
  const describe = db.prepare("UPDATE item SET kind = ?, kind_why = ?, facts = ? WHERE id = ? AND (kind <> ? OR facts <> ?)");
  const opened = db.prepare("UPDATE item SET opened_at = ? WHERE id = ?");
  const lose = db.prepare("UPDATE item SET seen = 0, left_at = ? WHERE id = ?");

  writeLazily(db, () => {
    const fresh: typeof entries = [];
    const renamed: [Item, (typeof entries)[number]][] = [];
    for (const at of entries) {
      const known = byPath.get(at.path);
      if (known) {
        const stateDiffers =
          stateOf(known.identity) !== stateOf(at.entry) ||
          known.dev !== at.entry.dev ||
          known.identity.type !== at.entry.type ||
          known.label !== at.entry.label;
        // What is told of one that grows, such as how long it lasts, is told anew once it rests.
        const grew = stateDiffers && merelyGrew(known, at.entry);
        if (stateDiffers) rewrite(known, at);
        if (grew) grown.push({ id: known.id, bytes: at.entry.bytes });
        changed ||= stateDiffers && !grew;
        if (at.entry.found) changed = (redescribe(known.id, at.entry.found) && !grew) || changed;
        if (known.openedAt !== at.entry.openedMs) opened.run(at.entry.openedMs ?? null, known.id);
        continue;
      }
      const key = `${at.entry.dev}:${at.entry.ino}:${at.entry.type}`;
      const before = gone.get(key)?.shift();
      if (before) renamed.push([before, at]);
      else fresh.push(at);
    }
    for (const item of [...gone.values()].flat()) {
      lose.run(now, item.id);
      changed = true;
    }
    for (const [item, at] of renamed) {
      rewrite(item, at);
      if (at.entry.found) redescribe(item.id, at.entry.found);
      changed = true;
    }
    for (const { entry, folder } of fresh) {
      const found = entry.found ?? { kind: "other" as const, why: "", facts: {} };
      insert.run(
        newItemId(),
        worktop.id,
        bytes(folder),
        bytes(entry.name),
        entry.type,
        entry.ino,
        entry.dev,
        entry.bytes,
        entry.mtimeNs,
        found.kind,
        found.why,
        JSON.stringify(found.facts),
        entry.label,
        // What lay there at the first look came when it was made, as far as is known.
        items.length === 0 ? Math.min(now, entry.bornMs) : now,
        now,
        entry.openedMs ?? null,
      );
      changed = true;
    }
  });
  return { changed, grown };

  function rewrite(item: Item, { entry, folder }: (typeof entries)[number]) {
    update.run(
      bytes(folder),
      bytes(entry.name),
      entry.type,
      entry.ino,
      entry.dev,
      entry.bytes,
      entry.mtimeNs,
      entry.label,
      now,
      entry.ino,
      entry.bytes,
      entry.mtimeNs,
      item.id,
    );
  }

  function redescribe(id: string, found: NonNullable<ReadEntry["found"]>): boolean {
    const facts = JSON.stringify(found.facts);
    return describe.run(found.kind, found.why, facts, id, found.kind, facts).changes > 0;
  }
}
