import type { ReportJson } from "@/contract/items";
import type { EmptyInput, EmptyingAnswer } from "@/contract/ledger";
import type { ParcelRef, TreeEntry } from "@/core/ledger/shapes";
import type { Plan } from "@/core/ledger/step";
import type { EraseStep } from "@/core/ledger/steps/erase";
import { joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { perform } from "../act";
import { prepared } from "../db/prepared";
import { layOf } from "../depots/address";
import { bagOf, depotMeant, depotNow, isAsSent, parcels, sizesIn, thingsIn } from "../depots/depots";
import { treeOf } from "../depots/restore";
import { hashFromDevice, type Pace, type SeenEntry, scanTree, stateOfTree } from "../disk/tree";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";
import { mayBeLost } from "../survey/protection";
import { filesPath } from "./steps/trash";
import { type Trashed, trashList } from "./trash-list";

/**
 * What emptying the trash would destroy, counted through every folder, and what of it was found nowhere else. Each thing is
 * named together with its state: what changes after it was counted is not destroyed.
 */
export async function emptying(engine: Engine): Promise<EmptyingAnswer> {
  const things = trashList(engine);
  const named: string[] = [];
  const nowhereElse: string[] = [];
  let files = 0;
  let bytes = 0;
  await engine.jobs.run("Looking for copies of what is in the trash", "bytes", 0, async (job) => {
    const archived = await archivedTrees(engine);
    const lying: Lying = new Map();
    for (const thing of things) {
      const tree = await treeIn(engine, thing, job);
      named.push(tree.length > 0 ? `${thing.id}.${stateOfTree(tree)}` : thing.id);
      const plain = tree.filter((entry) => entry.type === "file");
      files += plain.length;
      bytes += plain.reduce((sum, entry) => sum + entry.bytes, 0);
      const held = await heldCopy(engine, thing, tree, archived, job);
      const item = thing.item === undefined ? undefined : itemById(engine.db, thing.item);
      if (item && !mayBeLost(item)) continue;
      if (!held && !(await isElsewhere(engine, tree, lying, job))) nowhereElse.push(thing.label);
    }
  });
  return { things: named, count: things.length, files, bytes, size: engine.words().bytes(bytes), nowhereElse };
}

/** A thing as it was named: by its id, and its state where it was counted. */
const meant = (named: string): { id: string; state?: string } => {
  const [id = "", state] = named.split(".");
  return { id, state };
};

/** Empties the trash of exactly the things that were shown. What a parcel holds can be fetched back from there by undo. */
export async function emptyTrash(engine: Engine, input: EmptyInput): Promise<ReportJson> {
  const copies = new Map<string, EraseStep["copy"]>();
  if (!input.dryRun) {
    const archived = await archivedTrees(engine);
    const wanted = new Set(input.things.map((named) => meant(named).id));
    await engine.jobs.run("Looking for parcels that hold what is erased", "bytes", 0, async (job) => {
      for (const thing of trashList(engine)) {
        if (!wanted.has(thing.id)) continue;
        const copy = await heldCopy(engine, thing, await treeIn(engine, thing, job), archived, job);
        if (copy) copies.set(thing.id, copy);
      }
    });
  }
  return perform(engine, "Emptying the trash", () => planEmpty(engine, input, copies), { trial: input.dryRun });
}

function planEmpty(engine: Engine, input: EmptyInput, copies: Map<string, EraseStep["copy"]>): Plan {
  const list = new Map(trashList(engine).map((thing) => [thing.id, thing]));
  const left: Plan["left"] = [];
  const steps: EraseStep[] = [];
  for (const named of input.things) {
    const { id, state } = meant(named);
    const thing = list.get(id);
    if (thing?.unreadable) {
      left.push({ name: thing.label, code: thing.unreadable.code, why: thing.unreadable.message });
    } else if (thing) {
      const { item, trash, name, info, identity } = thing;
      steps.push({ type: "erase", item, trash, name, info, identity, copy: copies.get(id), state });
    } else {
      const problem = new Problem("not-in-trash", { name: "A thing that was shown" });
      left.push({ name: "A thing that was shown", code: problem.code, why: problem.message });
    }
  }
  return {
    act: "empty",
    words: (done) => `Emptied the trash of ${engine.words().counted(done.length, "thing")}`,
    steps,
    left,
  };
}

async function treeIn(engine: Engine, thing: Trashed, pace: Pace): Promise<SeenEntry[]> {
  try {
    return await scanTree(engine.disk, filesPath(thing.trash, thing.name), pace);
  } catch (error) {
    // What cannot be looked at is erased as it is, and counted as one thing.
    if (error instanceof Problem) return [];
    throw error;
  }
}

/** The trees of all things in parcels that can be reached, by item. */
async function archivedTrees(engine: Engine): Promise<Map<string, Archived>> {
  const trees = new Map<string, Archived>();
  for (const parcel of parcels(engine)) {
    if (parcel.state !== "sent" || parcel.found) continue;
    await unlessProblem(async () => {
      // One that does not answer is not waited for: then nothing is fetched back from there.
      if (!parcel.depot || (await depotNow(depotMeant(engine, parcel.depot))).problem) return;
      const bag = await bagOf(engine, parcel);
      // Only from what is still as it was sent can anything be fetched back.
      if (!(await isAsSent(bag, parcel))) return;
      const { depot, folder } = bag;
      const sizes = await sizesIn(bag);
      const ref: ParcelRef = { depot: depot.id, lay: layOf(depot.address), name: folder };
      for (const thing of (await thingsIn(engine, bag)).things)
        trees.set(thing.item, { sizes, copy: { parcel: ref, tree: treeOf(thing, parcel.title) } });
    });
  }
  return trees;
}

/** What a parcel holds of a thing, and how large each of its files is there. */
interface Archived {
  sizes: ReadonlyMap<string, number>;
  copy: NonNullable<EraseStep["copy"]>;
}

/** The tree in a parcel from which a thing can be fetched back: the same entries, and of each file the same SHA-256. */
async function heldCopy(
  engine: Engine,
  thing: Trashed,
  tree: TreeEntry[],
  archived: Map<string, Archived>,
  pace: Pace,
): Promise<EraseStep["copy"]> {
  const held = thing.item === undefined ? undefined : archived.get(thing.item);
  if (!held || tree.length === 0 || held.copy.tree.length !== tree.length) return undefined;
  const { sizes, copy } = held;
  const there = new Map(tree.map((entry) => [entry.rel, entry]));
  for (const entry of copy.tree) {
    const now = there.get(entry.rel);
    if (now?.type !== entry.type || now.target !== entry.target || now.bytes !== entry.bytes) return undefined;
    if (entry.type !== "file") continue;
    if (!sizes.has(entry.payload!) || (await hashFromDevice(engine.disk, now.source!, now.bytes, pace)) !== entry.sha256)
      return undefined;
  }
  return copy;
}

/** Of files of a length, by that, the SHA-256 of each that lies in a home or on a worktop: read once, however many are compared. */
type Lying = Map<number, ReadonlySet<string>>;

/** Whether every file of a tree has an identical one in a home or on a worktop, by SHA-256. Folders and links alone are no loss. */
async function isElsewhere(engine: Engine, tree: TreeEntry[], lying: Lying, pace: Pace): Promise<boolean> {
  if (tree.length === 0) return false;
  for (const entry of tree) {
    if (entry.type !== "file" || entry.bytes === 0) continue;
    const sums = lying.get(entry.bytes) ?? (await sumsOfLength(engine, entry.bytes));
    lying.set(entry.bytes, sums);
    if (sums.size === 0) return false;
    if (!sums.has(await hashFromDevice(engine.disk, entry.source!, entry.bytes, pace))) return false;
  }
  return true;
}

async function sumsOfLength(engine: Engine, length: number): Promise<Set<string>> {
  const rows = prepared<[number, number], { folder: Buffer; name: Buffer }>(
    engine.db,
    `SELECT folder, name FROM filed_at WHERE bytes = ?
     UNION SELECT folder, name FROM item WHERE bytes = ? AND type = 'file' AND worktop IS NOT NULL AND seen = 1`,
  ).all(length, length);
  const paths = rows.map((row): Raw => joinRaw(rawFromBytes(row.folder), rawFromBytes(row.name)));
  return new Set(paths.length === 0 ? [] : (await engine.workers.run("hashFiles", paths)).values());
}
