import { createHash } from "node:crypto";
import type { HomeRef } from "@/contract/homes";
import type { Step } from "@/core/ledger/step";
import { shownPlace } from "@/core/ledger/step-type";
import { folderNameFromText } from "@/core/names/free-name";
import { folderOf, isWithin, joinRaw, type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { inSight, leftOut, mayBeHome, tuckedFolder, type Worktop, worktopOf } from "../account";
import { writeLazily } from "../db/db";
import { type HomeRecord, readRecords } from "../db/record";
import { kept } from "../db/revision";
import { realFolder } from "../disk/around";
import { bytes } from "../disk/disk";
import { answers } from "../disk/mounts";
import type { Engine, Reading } from "../engine";
import { breathing } from "../jobs/gentle";
import type { WalkBatch, WalkedFolder } from "../jobs/work/walk-homes";
import { namedFolder } from "../named-folder";
import { itemsOn } from "../survey/items";
import { leftOutByWish } from "../survey/left-out";
import { protectedPlaces } from "../survey/protection";
import { whereHomeLies } from "./where";

export interface Home {
  id: string;
  folder: Raw;
  /** "Documents / Station / Tides" */
  title: string;
  files: number;
}

/** Whether a thing lies in a home already, or is or holds that very home: it is not taken there. */
export const isAtHome = (path: Raw, home: Pick<Home, "folder">) => folderOf(path) === home.folder || isWithin(path, home.folder);

export const homeId = (folder: Raw) => createHash("sha256").update(folder, "latin1").digest("base64url").slice(0, 16);

/** The last parts of a home's title, and what stands before them. */
export function titleParts(title: string): { title: string; above: string } {
  const parts = title.split(" / ");
  return { title: parts.slice(-2).join(" / "), above: parts.slice(0, -2).join(" / ") };
}

/** The roots of the homes: the standard folders and those the person named. */
export function homeRoots(engine: Pick<Reading, "account" | "db">): Raw[] {
  const named = [...readRecords<HomeRecord>(engine.db, "home").values()].map((home) => whereHomeLies(engine, home.folder as Raw));
  return [...engine.account.standardHomes.map((home) => home.folder), ...named];
}

/**
 * Walks the homes, the protected places and the folders on the worktops, and keeps what lies there, to learn from and to
 * find identical files among. Folders in which nothing changed are not written again. Answers whether anything did.
 */
export async function walkHomes(engine: Engine): Promise<boolean> {
  const { db, account, jobs, workers } = engine;
  const walk = engine.now();
  const known = new Map(
    db
      .prepare<[], { place: Buffer; home: number; state: string }>("SELECT place, home, state FROM folder")
      .all()
      .map((row) => [rawFromBytes(row.place), row] as const),
  );
  const ofHomes = homeRoots(engine);
  const isHome = (folder: Raw) => Number(ofHomes.some((root) => isWithin(root, folder)));
  const keep = keepFolders(engine, walk);
  const breath = breathing();
  let changed = false;
  await jobs.run("Reading what lies in the homes", "things", 0, async (job) => {
    let read = 0;
    // They may come faster than they are written down: others have their turn after each.
    let written = Promise.resolve();
    const part = (batch: WalkBatch) => {
      written = written.then(async () => {
        writeLazily(db, () => keep(batch, isHome));
        changed ||= batch.folders.length > 0;
        read += batch.files;
        job.progress(read);
        await breath();
      });
      // Heard of at the end.
      written.catch(() => {});
    };
    const places = protectedPlaces(engine).map((place) => place.folder);
    const lying = account.worktops
      .flatMap((worktop) => itemsOn(db, worktop.id))
      .flatMap((item) => (item.identity.type === "folder" ? [item.path] : []));
    const all = [...ofHomes, ...[...places, ...lying].filter((place) => !ofHomes.some((home) => isWithin(home, place)))];
    // A thread that goes where nothing answers never comes back.
    const roots = all.filter(answers);
    // A home on a worktop is walked although the worktop itself is not.
    const byWish = leftOutByWish(db);
    const out = leftOut(account).filter((folder) => !roots.includes(folder) && !roots.some((root) => isWithin(folder, root)));
    const states = new Map([...known].flatMap(([place, row]) => (row.home === isHome(place) ? [[place, row.state]] : [])));
    const walked = await workers
      .run(
        "walkHomes",
        {
          roots,
          leftOut: out,
          byWish: { names: byWish.names.map(rawFromText), folders: byWish.folders as Raw[] },
          whole: lying,
          known: states,
        },
        { part: part as (part: never) => void, signal: job.signal },
      )
      .finally(() => written);
    if (job.signal.aborted) return;
    engine.unwalked = [
      ...[...walked.unreadable, ...all.filter((root) => !roots.includes(root))].map((folder) => ({
        folder,
        why: "unreadable" as const,
      })),
      ...walked.leftOut.map((folder) => ({ folder, why: "left out" as const })),
    ];
    changed = (await forgetGone(engine, walk)) || changed;
  });
  if (changed) {
    engine.walked++;
    engine.events.emit({ type: "changed", what: "homes" });
  }
  return changed;
}

const rowsAtOnce = 20;

/** A file as it is known from an earlier walk. */
interface KnownFile {
  id: number;
  bytes: number;
  mtime_ns: string;
  ino: string;
}

/** A folder of which a part was told. */
interface Begun {
  id: number;
  /** The files that were known of it, those that were told of aside; undefined where none were. */
  gone?: Set<number>;
  files: number;
}

/** Writes what a walk tells, a batch a transaction, by what differs: a file in the state in which it is known is left as it is. */
function keepFolders({ db, account }: Engine, walk: number): (batch: WalkBatch, isHome: (folder: Raw) => number) => void {
  const seen = db.prepare("UPDATE folder SET walk = ? WHERE place = ?");
  const before = db.prepare<[Buffer], number>("SELECT id FROM folder WHERE place = ?").pluck();
  const change = db.prepare("UPDATE folder SET home = ?, files = ?, state = ?, walk = ? WHERE id = ?");
  const add = db
    .prepare<[Buffer, string, number, number, string, number], number>(
      "INSERT INTO folder (place, key, home, files, state, walk) VALUES (?, ?, ?, ?, ?, ?) RETURNING id",
    )
    .pluck();
  const filesIn = db.prepare<[number], number>("SELECT id FROM filed WHERE folder = ?").pluck();
  const fileAt = db.prepare<[number, Buffer], KnownFile>(
    "SELECT id, bytes, mtime_ns, ino FROM filed WHERE folder = ? AND name = ?",
  );
  const gone = db.prepare("DELETE FROM filed WHERE id = ?");
  // What was read of it says nothing of what it is now.
  const anew = db.prepare(
    "UPDATE filed SET kind = ?, bytes = ?, mtime_ns = ?, ino = ?, sha256 = NULL, words = NULL, sender = NULL WHERE id = ?",
  );
  const putting = (rows: number) =>
    db.prepare(
      `INSERT INTO filed (folder, name, kind, bytes, mtime_ns, ino) VALUES ${Array(rows).fill("(?, ?, ?, ?, ?, ?)").join(", ")}`,
    );
  // Many rows a statement take two thirds of the time of one each.
  const [putOne, putMany] = [putting(1), putting(rowsAtOnce)];
  let begun: (Begun & { folder: Raw }) | undefined;

  const begin = ({ folder, state, names, more }: WalkedFolder, isHome: number): Begun => {
    const place = bytes(folder);
    const known = before.get(place);
    // Of one that is cut short in the middle no state is known.
    const stated = more ? "" : state;
    if (known === undefined) {
      const id = add.get(place, homeId(inSight(account, folder)), isHome, names.length, stated, walk)!;
      return { id, files: 0 };
    }
    if (more) change.run(isHome, names.length, stated, walk, known);
    return { id: known, gone: new Set(filesIn.all(known)), files: 0 };
  };
  const keep = (of: WalkedFolder, isHome: number) => {
    const { folder, state, names, files, more } = of;
    const goesOn = begun?.folder === folder;
    const { id, gone: left, ...so } = goesOn ? begun! : begin(of, isHome);
    const fresh = [...names.keys()].filter((n) => {
      const row = left && fileAt.get(id, bytes(names[n]!));
      if (!row) return true;
      left.delete(row.id);
      const { kind, bytes: size, mtimeNs, ino } = files[n]!;
      if (row.ino !== ino || row.bytes !== size || row.mtime_ns !== mtimeNs) anew.run(kind, size, mtimeNs, ino, row.id);
      return false;
    });
    const columns = (n: number) => {
      const { kind, bytes: size, mtimeNs, ino } = files[n]!;
      return [id, bytes(names[n]!), kind, size, mtimeNs, ino];
    };
    let n = 0;
    for (; n + rowsAtOnce <= fresh.length; n += rowsAtOnce) putMany.run(fresh.slice(n, n + rowsAtOnce).flatMap(columns));
    for (; n < fresh.length; n++) putOne.run(columns(fresh[n]!));
    const total = so.files + names.length;
    begun = more ? { folder, id, gone: left, files: total } : undefined;
    if (more) return;
    for (const one of left ?? []) gone.run(one);
    if (left || goesOn) change.run(isHome, total, state, walk, id);
  };
  return db.transaction((batch: WalkBatch, isHome: (folder: Raw) => number) => {
    for (const folder of batch.same) seen.run(walk, bytes(folder));
    for (const of of batch.folders) keep(of, isHome(of.folder));
  });
}

/** So many rows of what is gone are taken away at once. */
const goneAtOnce = 2000;

/** Takes folders that the walk did not come by out of the index, their files a part after the other; whether there were any. */
async function forgetGone({ db }: Engine, walk: number): Promise<boolean> {
  const stale = db.prepare<[number], number>("SELECT id FROM folder WHERE walk <> ?").pluck().all(walk);
  const files = db.prepare<[number, number]>("DELETE FROM filed WHERE id IN (SELECT id FROM filed WHERE folder = ? LIMIT ?)");
  const folder = db.prepare<[number]>("DELETE FROM folder WHERE id = ?");
  const breath = breathing();
  for (let n = 0; n < stale.length; ) {
    writeLazily(db, () => {
      for (let left = goneAtOnce; left > 0 && n < stale.length; n++) {
        const { changes } = files.run(stale[n]!, left);
        left -= changes + 1;
        if (left <= 0) break;
        folder.run(stale[n]!);
      }
    });
    await breath();
  }
  return stale.length > 0;
}

const byTitle = new Intl.Collator();

/** Titled by where they lie in sight. The key: the account's folder, and its worktops. */
const homesBelow = kept("homes", ["folder"], (db, key): readonly Home[] => {
  const [root = "", ...folders] = key.split("\0") as Raw[];
  const worktops = folders.map((folder): Pick<Worktop, "folder"> => ({ folder }));
  return db
    .prepare<[], { key: string; place: Buffer; files: number }>("SELECT key, place, files FROM folder WHERE home = 1")
    .all()
    .map((row) => {
      const folder = rawFromBytes(row.place);
      return { id: row.key, folder, title: shownPlace(inSight({ worktops }, folder), root as Raw), files: row.files };
    })
    .sort((a, b) => byTitle.compare(a.title, b.title));
});

/** The homes of an account, by title. */
export const homes = ({ account, db }: Reading): readonly Home[] =>
  homesBelow(db, [account.root, ...account.worktops.map(({ folder }) => folder)].join("\0"));

/** Steps that make homes, each folder and each record once: several new homes may lie in one new folder. */
export function newSteps(steps: readonly Step[]): Step[] {
  const known = new Set<string>();
  return steps.filter((step) => {
    const key = step.type === "make-folder" ? step.folder : step.type === "set" ? step.key : undefined;
    if (key === undefined) return true;
    const isNew = !known.has(key);
    known.add(key);
    return isNew;
  });
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
    const folder = whereHomeLies(engine, atob(ref.folder) as Raw);
    const title = shownPlace(inSight(account, folder), account.root);
    const home = all.find((h) => h.folder === folder);
    if (home && realFolder(folder) === folder) return { home, steps: [] };
    if (realFolder(folder) !== folder) throw new Problem("unknown-home", { place: title });
    if (!homeRoots(engine).some((root) => isWithin(root, folder))) throw new Problem("unknown-home", { place: title });
    namedFolder(engine, folder);
    return { home: { id: homeId(inSight(account, folder)), folder, title, files: 0 }, steps: [] };
  }
  return newHome(
    engine,
    all,
    ref.title,
    (name) => db.prepare("SELECT 1 FROM record WHERE key = ?").get(`home:${name}`) !== undefined,
  );
}

/**
 * "Station / Tides / 2026": what exists of it is used, the rest is made; a wholly new one goes below the documents, and one
 * that begins with the desktop's own name lies on the desktop itself.
 */
function newHome(
  engine: Engine,
  all: readonly Home[],
  title: string,
  isNamed: (id: string) => boolean,
): { home: Home; steps: Step[] } {
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
  const desktop = account.worktops.find((worktop) => worktop.id === "desktop");
  if (!base && desktop && parts.length > 1 && same(parts[0]!, shownPlace(desktop.folder, account.root))) {
    base = desktop.folder;
    rest = parts.slice(1);
    // It could not come back to its place beside another of its name.
    const hidden = folderNameFromText(rest[0]!);
    if (hidden && disk.identity(joinRaw(tuckedFolder(desktop), hidden)))
      throw new Problem("name-taken", { name: rest[0], place: "What is out of sight" });
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
  if (namedFolder(engine, folder) !== folder) throw new Problem("link-on-the-way", { name: title });
  const id = homeId(folder);
  if (!homeRoots(engine).some((root) => isWithin(root, folder)) && !isNamed(id))
    steps.push({ type: "set", key: `home:${id}`, from: null, to: { folder, at: engine.now() } });
  return { home: { id, folder, title: shownPlace(folder, account.root), files: 0 }, steps };
}

const lastParts = (title: string, n: number) => title.split(" / ").slice(-n).join(" / ");
