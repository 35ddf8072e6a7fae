import type { ItemRef } from "@/contract/items";
import type { Identity, Step } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Kind } from "@/core/survey/kinds";
import type { WorktopId } from "../account";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import { bytes } from "../disk/disk";
import type { ItemFacts } from "../jobs/work/read-worktop";

interface ItemColumns {
  id: string;
  worktop: WorktopId | null;
  folder: Buffer;
  name: Buffer;
  type: Identity["type"];
  ino: string;
  dev: string;
  bytes: number;
  mtime_ns: string;
  kind: Kind;
  kind_why: string;
  facts: string;
  label: string;
  arrived_at: number;
  read_at: number;
  sha256: string | null;
  opened_at: number | null;
}

/** A thing on a worktop, or one that was there and lies elsewhere now. */
export interface Item {
  id: string;
  worktop: WorktopId | null;
  folder: Raw;
  name: Raw;
  path: Raw;
  label: string;
  identity: Identity;
  dev: string;
  kind: Kind;
  kindWhy: string;
  facts: ItemFacts;
  mtimeMs: number;
  arrivedAt: number;
  openedAt?: number;
  sha256?: string;
}

function asItem(row: ItemColumns): Item {
  const [folder, name] = [rawFromBytes(row.folder), rawFromBytes(row.name)];
  return {
    id: row.id,
    worktop: row.worktop,
    folder,
    name,
    path: joinRaw(folder, name),
    label: row.label,
    identity: { type: row.type, ino: row.ino, bytes: row.bytes, mtimeNs: row.mtime_ns },
    dev: row.dev,
    kind: row.kind,
    kindWhy: row.kind_why,
    facts: JSON.parse(row.facts) as ItemFacts,
    mtimeMs: Number(BigInt(row.mtime_ns) / 1_000_000n),
    arrivedAt: row.arrived_at,
    openedAt: row.opened_at ?? undefined,
    sha256: row.sha256 ?? undefined,
  };
}

/** What was last read of each worktop, and the state of the record in which it was. */
const lastRead = new WeakMap<Db, { state: string; on: Map<WorktopId, readonly Item[]> }>();

/** Differs once anything was written to the record, by this process or another. */
export const recordState = (db: Db): string =>
  prepared<[], string>(db, "SELECT total_changes() || ':' || data_version FROM pragma_data_version").pluck().get()!;

/** The things on a worktop, out of sight or not, by name. Read anew only once the record has changed. */
export function itemsOn(db: Db, worktop: WorktopId): readonly Item[] {
  const read = () =>
    prepared<[string], ItemColumns>(db, "SELECT * FROM item WHERE worktop = ? AND seen = 1 ORDER BY name, id")
      .all(worktop)
      .map(asItem);
  // What a transaction has read may yet be rolled back.
  if (db.inTransaction) return read();
  const state = recordState(db);
  let last = lastRead.get(db);
  if (last?.state !== state) {
    last = { state, on: new Map() };
    lastRead.set(db, last);
  }
  const items = last.on.get(worktop) ?? read();
  last.on.set(worktop, items);
  return items;
}

export function itemById(db: Db, id: string): Item | undefined {
  const row = prepared<[string], ItemColumns>(db, "SELECT * FROM item WHERE id = ?").get(id);
  return row && asItem(row);
}

export function itemAt(db: Db, path: Raw): Item | undefined {
  const row = prepared<[Buffer, Buffer], ItemColumns>(db, "SELECT * FROM item WHERE folder = ? AND name = ? AND seen = 1").get(
    bytes(folderOf(path)),
    bytes(nameOf(path)),
  );
  return row && asItem(row);
}

/**
 * Items that a request names, each once, in its order; a problem where one is not on a worktop. With `anywhere` those that
 * Vuoto put into a home count too.
 */
export function itemsNamed(db: Db, refs: ItemRef[], where: "worktops" | "anywhere" = "worktops"): Item[] {
  const lying = (["desktop", "downloads"] as const).flatMap((worktop) => itemsOn(db, worktop));
  const byId = new Map(lying.map((item) => [item.id, item]));
  const byPath = new Map(lying.map((item) => [item.path, item]));
  const found = new Map<string, Item>();
  for (const ref of refs) {
    const path = typeof ref === "string" ? undefined : (atob(ref.path) as Raw);
    // One that is gone meanwhile is named all the same, and its step says so.
    const item =
      path === undefined
        ? (byId.get(ref as string) ?? itemById(db, ref as string))
        : (byPath.get(path) ?? (where === "anywhere" ? itemAt(db, path) : undefined));
    if (!item || (where === "worktops" && !item.worktop))
      throw new Problem("unknown-item", { name: item?.label ?? (path && shownName(nameOf(path))) });
    found.set(item.id, item);
  }
  return [...found.values()];
}

/** "tide.pdf", or "12 things": what an act was done with, from its steps. */
export function thingsOf(done: Step[], types: Step["type"][], counted: (n: number) => string): string {
  const concerned = done.filter((step) => types.includes(step.type));
  const only = concerned.length === 1 ? concerned[0] : undefined;
  if (only?.type === "move" || only?.type === "trash") return shownName(nameOf(only.from));
  return counted(concerned.length);
}
