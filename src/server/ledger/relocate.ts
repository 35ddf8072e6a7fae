import type { Identity } from "@/core/ledger/shapes";
import { folderOf, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { inSight, worktopOf } from "../account";
import { prepared } from "../db/prepared";
import { bytes } from "../disk/disk";
import type { Located } from "../disk/statx";
import type { StepContext } from "./step-kind";

/** Notes where an item lies now, with the entry. An item keeps its id wherever Vuoto moves it. */
export function relocate(item: string | undefined, to: Raw, context: StepContext, found?: Located): void {
  if (item === undefined) return;
  context.atCommit(() => {
    const identity = found ?? context.disk.identity(to);
    if (!identity) return;
    const folder = folderOf(to);
    const place = [bytes(folder), bytes(nameOf(to))];
    const worktop = worktopOf(context.account, folder)?.id ?? null;
    const left = [Number(worktop === null), context.now()];
    const state = [identity.ino, identity.dev, identity.bytes, identity.mtimeNs];
    const [label, moved] = [shownName(nameOf(to)), JSON.stringify(identity)];
    followInside(item, to, context);
    const renamed = () =>
      prepared(
        context.db,
        `UPDATE OR IGNORE item SET worktop = ?, left_at = CASE WHEN ? THEN coalesce(left_at, ?) END, folder = ?, name = ?, label = ?, moved = ?
         WHERE id = ? AND seen = 1 AND ino = ? AND dev = ? AND bytes = ? AND mtime_ns = ?`,
      ).run(worktop, ...left, ...place, label, moved, item, ...state).changes;
    const put = () =>
      prepared(
        context.db,
        `UPDATE OR IGNORE item SET worktop = ?, left_at = CASE WHEN ? THEN coalesce(left_at, ?) END, folder = ?, name = ?, label = ?, ino = ?, dev = ?, bytes = ?, mtime_ns = ?, moved = ?, seen = 1
         WHERE id = ?`,
      ).run(worktop, ...left, ...place, label, ...state, moved, item).changes;
    // Most keep their state, and only the indexes of their places need rewriting.
    if (renamed() > 0 || put() > 0) return;
    // Should something else have been listed at that place, the survey finds it again under an id of its own.
    prepared(context.db, "UPDATE item SET seen = 0 WHERE folder = ? AND name = ? AND seen = 1 AND id <> ?").run(...place, item);
    if (put() > 0) return;
    // A thing that came from a parcel was no item yet; the survey finds out the rest.
    prepared(
      context.db,
      `INSERT INTO item (id, worktop, folder, name, type, ino, dev, bytes, mtime_ns, kind, kind_why, facts, label, arrived_at, read_at)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, 'other', '', '{}', ?, ?, 0)`,
    ).run(item, worktop, ...place, identity.type, ...state, label, context.now());
  });
}

/** What is known of the homes in a thing that goes out of sight, or comes back, holds where they lie by then. */
function followInside(item: string, to: Raw, { db, account }: StepContext): void {
  const row = prepared<[string], { folder: Buffer; name: Buffer }>(
    db,
    "SELECT folder, name FROM item WHERE id = ? AND type = 'folder'",
  ).get(item);
  if (!row) return;
  const from = joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name));
  if (from === to || inSight(account, from) !== inSight(account, to)) return;
  const [before, after] = [bytes(from), bytes(to)];
  prepared(
    db,
    `UPDATE OR REPLACE folder SET place = CAST(? || substr(place, ?) AS BLOB)
     WHERE home = 1 AND (place = ? OR (place > CAST(? || '/' AS BLOB) AND place < CAST(? || '0' AS BLOB)))`,
  ).run(after, before.length + 1, before, before, before);
}

/** Notes with the entry that an item is nowhere any more. */
export function forget(item: string | undefined, context: StepContext): void {
  if (item !== undefined)
    context.atCommit(() =>
      prepared(context.db, "UPDATE item SET seen = 0, left_at = coalesce(left_at, ?) WHERE id = ?").run(context.now(), item),
    );
}

/**
 * The identity under which the ledger itself last put an item at a path, if it did. A thing that crossed file systems or
 * came from a parcel is another file than the one an earlier entry knew, and still the same thing.
 */
export function movedTo(item: string | undefined, path: Raw, context: StepContext): Identity | undefined {
  if (item === undefined) return undefined;
  const moved = context.db
    .prepare<[string, Buffer, Buffer], string | null>(
      "SELECT moved FROM item WHERE id = ? AND folder = ? AND name = ? AND seen = 1",
    )
    .pluck()
    .get(item, bytes(folderOf(path)), bytes(nameOf(path)));
  return moved ? (JSON.parse(moved) as Identity) : undefined;
}

/** Where the ledger itself put an item last, if that is another name in the same folder, and it lies there still. */
export function whereItWasPut(item: string | undefined, path: Raw, { db, disk }: StepContext): Raw | undefined {
  if (item === undefined) return undefined;
  const folder = folderOf(path);
  const row = prepared<[string, Buffer], { name: Buffer; moved: string }>(
    db,
    "SELECT name, moved FROM item WHERE id = ? AND folder = ? AND seen = 1 AND moved IS NOT NULL",
  ).get(item, bytes(folder));
  if (!row) return undefined;
  const there = joinRaw(folder, rawFromBytes(row.name));
  return there !== path && disk.identity(there)?.ino === (JSON.parse(row.moved) as Identity).ino ? there : undefined;
}

/**
 * Where an item is to be taken from: the path at which the entry left it, or, where nothing lies there any more, the place
 * to which the ledger itself has put it since, its folder having been renamed in between. Only on the file system of `to`: a
 * copy that is cut short is settled by the paths that the step knows. What lies at `to` already is settled, not moved.
 */
export function whereItLies(item: string | undefined, path: Raw, to: Raw, context: StepContext): Raw {
  if (item === undefined || context.disk.identity(path)) return path;
  const row = prepared<[string], { folder: Buffer; name: Buffer; moved: string }>(
    context.db,
    "SELECT folder, name, moved FROM item WHERE id = ? AND seen = 1 AND moved IS NOT NULL",
  ).get(item);
  if (!row) return path;
  const there = joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name));
  if (there === to || context.disk.deviceOf(folderOf(there)) !== context.disk.deviceOf(folderOf(to))) return path;
  const [now, moved] = [context.disk.identity(there), JSON.parse(row.moved) as Identity];
  return now && now.ino === moved.ino && now.mtimeNs === moved.mtimeNs ? there : path;
}
