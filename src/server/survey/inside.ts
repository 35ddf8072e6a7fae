import { joinRaw, type Raw } from "@/core/names/raw";
import { isOfVuoto } from "../account";
import { writeLazily } from "../db/db";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { type Item, itemAt, newItemId } from "./items";

/**
 * Gives what lies in a folder ids, as what lies on a worktop has them, so that it can be looked at and decided upon; or only one
 * of its things. Answers them by name, and how many are hidden by agreement; undefined where the folder cannot be read. It
 * stays as it was found until it is read again.
 */
export async function itemsInside(
  engine: Engine,
  folder: Raw,
  only?: Raw,
): Promise<{ items: Item[]; hidden: number } | undefined> {
  const { db } = engine;
  const read = await engine.workers.run("readWorktop", { folder, known: new Map(), only });
  if (!read) return undefined;
  const known = new Map<Raw, string>();
  for (const { name } of read.entries) {
    const item = itemAt(db, joinRaw(folder, name));
    if (item) known.set(name, item.id);
  }
  const gone = db.prepare("UPDATE item SET seen = 0 WHERE folder = ? AND worktop IS NULL AND seen = 1");
  const keep = db.prepare(
    `INSERT INTO item (id, worktop, folder, name, type, ino, dev, bytes, mtime_ns, kind, kind_why, facts, label, arrived_at, read_at, opened_at)
     VALUES (?, NULL, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (id) DO UPDATE SET type = excluded.type, ino = excluded.ino, dev = excluded.dev, bytes = excluded.bytes,
       sha256 = CASE WHEN item.ino = excluded.ino AND item.bytes = excluded.bytes AND item.mtime_ns = excluded.mtime_ns THEN item.sha256 END,
       mtime_ns = excluded.mtime_ns, kind = excluded.kind, kind_why = excluded.kind_why, facts = excluded.facts,
       label = excluded.label, read_at = excluded.read_at, opened_at = excluded.opened_at, seen = 1`,
  );
  const entries = read.entries.filter(({ name, found }) => found && !isOfVuoto(engine.account, joinRaw(folder, name)));
  const now = engine.now();
  writeLazily(db, () => {
    if (only === undefined) gone.run(bytes(folder));
    for (const { name, type, ino, dev, bytes: size, mtimeNs, found, label, bornMs, openedMs } of entries) {
      const { kind, why, facts } = found!;
      const [id, place] = [known.get(name) ?? newItemId(), [bytes(folder), bytes(name)]];
      keep.run(
        id,
        ...place,
        type,
        ino,
        dev,
        size,
        mtimeNs,
        kind,
        why,
        JSON.stringify(facts),
        label,
        Math.min(now, bornMs),
        now,
        openedMs ?? null,
      );
    }
  });
  const items = entries.flatMap(({ name }) => itemAt(db, joinRaw(folder, name)) ?? []);
  return { items, hidden: read.hidden };
}
