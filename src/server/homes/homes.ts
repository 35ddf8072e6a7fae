import { createHash } from "node:crypto";
import type { HomeRef } from "@/contract/homes";
import { shownPlace } from "@/core/ledger/sentence";
import type { Step } from "@/core/ledger/step";
import { folderNameFromText } from "@/core/names/free-name";
import { isWithin, joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { leftOut, mayBeHome, worktopOf } from "../account";
import { type HomeRecord, readRecords } from "../db/record";
import { realFolder } from "../disk/around";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import type { WalkBatch } from "../jobs/work/walk-homes";
import { itemsOn } from "../survey/items";
import { protectedPlaces } from "../survey/protection";

export interface Home {
  id: string;
  folder: Raw;
  /** "Documents / Station / Tides" */
  title: string;
  files: number;
}

export const homeId = (folder: Raw) => createHash("sha256").update(folder, "latin1").digest("base64url").slice(0, 16);

/** The roots of the homes: the standard folders and those the person named. */
export function homeRoots(engine: Pick<Engine, "account" | "db">): Raw[] {
  const named = [...readRecords<HomeRecord>(engine.db, "home").values()].map((home) => home.folder as Raw);
  return [...engine.account.standardHomes.map((home) => home.folder), ...named];
}

/**
 * Walks the homes, the protected places and the folders on the worktops, and keeps what lies there, to learn from and to
 * find identical files among.
 */
export async function walkHomes(engine: Engine): Promise<void> {
  const { db, account, jobs, workers } = engine;
  const walk = engine.now();
  const addFolder = db.prepare(
    "INSERT INTO home_folder (id, folder, files, walk) VALUES (?, ?, ?, ?) ON CONFLICT (id) DO UPDATE SET files = excluded.files, walk = excluded.walk",
  );
  const addFile = db.prepare(
    `INSERT INTO filed (folder, name, kind, bytes, mtime_ns, ino, walk, home) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (folder, name) DO UPDATE SET
       sha256 = CASE WHEN bytes = excluded.bytes AND mtime_ns = excluded.mtime_ns AND ino = excluded.ino THEN sha256 END,
       kind = excluded.kind, bytes = excluded.bytes, mtime_ns = excluded.mtime_ns, ino = excluded.ino, walk = excluded.walk, home = excluded.home`,
  );
  await jobs.run("Reading what lies in the homes", "things", 0, async (job) => {
    let read = 0;
    const ofHomes = homeRoots(engine);
    const isHome = (folder: Raw) => ofHomes.some((root) => isWithin(root, folder));
    const keep = db.transaction((batch: WalkBatch) => {
      for (const { folder, files } of batch.folders)
        if (isHome(folder)) addFolder.run(homeId(folder), bytes(folder), files, walk);
      for (const { folder, name, kind, bytes: size, mtimeNs, ino } of batch.files)
        addFile.run(bytes(folder), bytes(name), kind, size, mtimeNs, ino, walk, Number(isHome(folder)));
    });
    const part = (batch: WalkBatch) => {
      keep(batch);
      read += batch.files.length;
      job.progress(read);
    };
    const places = protectedPlaces(engine).map((place) => place.folder);
    const lying = account.worktops
      .flatMap((worktop) => itemsOn(db, worktop.id))
      .flatMap((item) => (item.identity.type === "folder" ? [item.path] : []));
    const roots = [...ofHomes, ...[...places, ...lying].filter((place) => !ofHomes.some((home) => isWithin(home, place)))];
    // A home on a worktop is walked although the worktop itself is not.
    const out = leftOut(account).filter((folder) => !roots.includes(folder) && !roots.some((root) => isWithin(folder, root)));
    const walked = await workers.run(
      "walkHomes",
      { roots, leftOut: out, whole: lying },
      { part: part as (part: never) => void, signal: job.signal },
    );
    if (job.signal.aborted) return;
    engine.unwalked = walked.unreadable;
    db.prepare("DELETE FROM home_folder WHERE walk <> ?").run(walk);
    db.prepare("DELETE FROM filed WHERE walk <> ?").run(walk);
  });
  engine.belongingOutdated();
  engine.events.emit({ type: "changed", what: "homes" });
}

export function homes(engine: Pick<Engine, "account" | "db">): Home[] {
  return engine.db
    .prepare<[], { id: string; folder: Buffer; files: number }>("SELECT id, folder, files FROM home_folder")
    .all()
    .map((row) => {
      const folder = rawFromBytes(row.folder);
      return { id: row.id, folder, title: shownPlace(folder, engine.account.root), files: row.files };
    })
    .sort((a, b) => a.title.localeCompare(b.title));
}

/** The home that is meant, and the steps that make it where it is new. */
export function homeMeant(engine: Engine, ref: HomeRef): { home: Home; steps: Step[] } {
  const { account, db } = engine;
  const all = homes(engine);
  if ("id" in ref) {
    const home = all.find((h) => h.id === ref.id);
    if (!home) throw new Problem("unknown-home", { place: ref.id });
    if (realFolder(home.folder) !== home.folder) throw new Problem("home-gone", { place: home.title });
    return { home, steps: [] };
  }
  if ("folder" in ref) {
    const folder = atob(ref.folder) as Raw;
    const title = shownPlace(folder, account.root);
    const home = all.find((h) => h.folder === folder);
    if (home && realFolder(folder) === folder) return { home, steps: [] };
    if (realFolder(folder) !== folder) throw new Problem("unknown-home", { place: title });
    if (!homeRoots(engine).some((root) => isWithin(root, folder))) throw new Problem("unknown-home", { place: title });
    return { home: { id: homeId(folder), folder, title, files: 0 }, steps: [] };
  }
  return newHome(
    engine,
    all,
    ref.title,
    (name) => db.prepare("SELECT 1 FROM record WHERE key = ?").get(`home:${name}`) !== undefined,
  );
}

/** "Station / Tides / 2026": what exists of it is used, the rest is made; a wholly new one goes below the documents. */
function newHome(engine: Engine, all: Home[], title: string, isNamed: (id: string) => boolean): { home: Home; steps: Step[] } {
  const { account, disk } = engine;
  const parts = title
    .split("/")
    .map((part) => part.trim())
    .filter((part) => part !== "");
  if (parts.length === 0 || parts.length > 20) throw new Problem("bad-name", { name: title || "This" });
  const same = (a: string, b: string) => a.localeCompare(b, undefined, { sensitivity: "base" }) === 0;
  const exact = all.find((h) => same(h.title, parts.join(" / ")));
  if (exact && realFolder(exact.folder) === exact.folder) return { home: exact, steps: [] };
  let base: Raw | undefined;
  let rest = parts;
  for (let n = parts.length - 1; n > 0 && !base; n--) {
    const found = all.find(
      (h) => same(h.title, parts.slice(0, n).join(" / ")) || same(lastParts(h.title, n), parts.slice(0, n).join(" / ")),
    );
    if (found) {
      base = found.folder;
      rest = parts.slice(n);
    }
  }
  base ??= account.standardHomes.find((h) => h.key === "DOCUMENTS")?.folder ?? account.root;
  const steps: Step[] = [];
  let folder = base;
  for (const part of rest) {
    const name = folderNameFromText(part);
    if (!name) throw new Problem("bad-name", { name: part });
    folder = joinRaw(folder, name);
    const there = disk.identity(folder);
    if (there && there.type !== "folder") throw new Problem("name-taken", { name: part, place: shownPlace(base, account.root) });
    if (!there) steps.push({ type: "make-folder", folder });
  }
  if (!mayBeHome(account, folder) || worktopOf(account, folder)) throw new Problem("out-of-bounds", { name: title });
  const id = homeId(folder);
  if (!homeRoots(engine).some((root) => isWithin(root, folder)) && !isNamed(id))
    steps.push({ type: "set", key: `home:${id}`, from: null, to: { folder, at: engine.now() } });
  return { home: { id, folder, title: shownPlace(folder, account.root), files: 0 }, steps };
}

const lastParts = (title: string, n: number) => title.split(" / ").slice(-n).join(" / ");
