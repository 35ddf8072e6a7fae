import type { ReportJson } from "@/contract/items";
import type { EmptyInput, EmptyingAnswer } from "@/contract/ledger";
import type { ParcelThingJson } from "@/contract/parcel";
import type { ParcelRef, TreeEntry } from "@/core/ledger/shapes";
import type { Plan } from "@/core/ledger/step";
import type { EraseStep } from "@/core/ledger/steps/erase";
import type { Raw } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { perform } from "../act";
import { prepared } from "../db/prepared";
import { layOf } from "../depots/address";
import { lastCheck } from "../depots/checks";
import { depots, parcels } from "../depots/depots";
import { treeOf } from "../depots/restore";
import { lastSeen } from "../depots/seen";
import { hashFromDevice, type Pace, type SeenEntry, scanTree, stateOfTree } from "../disk/tree";
import { destroying, Elsewhere, type FarCopy, readFar } from "../elsewhere";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";
import { mayBeLost } from "../survey/protection";
import { filesPath } from "./steps/trash";
import { type Trashed, trashList } from "./trash-list";

/** What would become of the content of a thing in the trash: it lies elsewhere, that is not known, or it lies nowhere else. */
interface Fate {
  thing: Trashed;
  tree: SeenEntry[];
  known: "elsewhere" | "unsure" | "nowhere";
  why?: string;
  /** A copy of it was found damaged: this is the only good one. */
  onlyGood?: boolean;
  /** What of it lies in clouds alone: it counts once it was read from there. */
  far: FarCopy[];
  /** The SHA-256 of each of its files, as far as they were read. */
  sums: Map<Raw, string>;
}

/**
 * What emptying the trash would destroy, counted through every folder, and what of it lies nowhere else, or where that is not
 * known. Each thing is named together with its state: what changes after it was counted is not destroyed.
 */
export async function emptying(engine: Engine): Promise<EmptyingAnswer> {
  const things = trashList(engine);
  const answer: EmptyingAnswer = {
    things: [],
    lost: [],
    count: things.length,
    files: 0,
    bytes: 0,
    size: "",
    nowhereElse: [],
    notKnown: [],
    far: { things: [], files: 0, bytes: 0, seconds: null },
  };
  const onlyGood: EmptyingAnswer["nowhereElse"] = [];
  const clouds = new Map<string, number>();
  await engine.jobs.run("Looking for copies of what is in the trash", "bytes", 0, async (job) => {
    const elsewhere = new Elsewhere(engine, { pace: job, whole: true });
    for (const thing of things) {
      const fate = await fateOf(engine, elsewhere, thing, job);
      const { tree } = fate;
      const named = tree.length > 0 ? `${thing.id}.${stateOfTree(tree)}` : thing.id;
      answer.things.push(named);
      const plain = tree.filter((entry) => entry.type === "file");
      answer.files += plain.length;
      answer.bytes += plain.reduce((sum, entry) => sum + entry.bytes, 0);
      const said = { name: thing.label, ...(fate.why ? { why: fate.why } : {}) };
      if (fate.known === "nowhere") (fate.onlyGood ? onlyGood : answer.nowhereElse).push(said);
      if (fate.known === "unsure") answer.notKnown.push(said);
      if (fate.known !== "elsewhere") answer.lost.push(named);
      else if (fate.far.length > 0) {
        answer.far.things.push(named);
        answer.far.files += fate.far.length;
        for (const { depot, bytes } of fate.far) clouds.set(depot, (clouds.get(depot) ?? 0) + bytes);
      }
    }
  });
  // What is the only good copy of something comes first.
  answer.nowhereElse.unshift(...onlyGood);
  answer.size = engine.words().bytes(answer.bytes);
  answer.far.bytes = [...clouds.values()].reduce((sum, bytes) => sum + bytes, 0);
  answer.far.seconds = secondsFor(engine, clouds);
  return answer;
}

/** About how long it takes to read so many bytes of each depot; null where one of them was never measured. */
function secondsFor({ db }: Engine, bytesOf: ReadonlyMap<string, number>): number | null {
  let seconds = 0;
  for (const [depot, bytes] of bytesOf) {
    const rate = lastSeen(db, depot)?.rate;
    if (!rate) return null;
    seconds += bytes / rate;
  }
  return seconds;
}

/** What becomes of a thing: the worst that becomes of any of its files. Folders, links and what is empty are no loss. */
async function fateOf(engine: Engine, elsewhere: Elsewhere, thing: Trashed, pace: Pace): Promise<Fate> {
  const tree = await treeIn(engine, thing, pace);
  const fate: Fate = { thing, tree, known: "elsewhere", far: [], sums: new Map() };
  if (tree.length === 0) return { ...fate, known: "unsure", why: "it cannot be looked into" };
  const item = thing.item === undefined ? undefined : itemById(engine.db, thing.item);
  const harmless = item !== undefined && !mayBeLost(item);
  for (const entry of tree) {
    if (entry.type !== "file" || entry.bytes === 0) continue;
    if (!elsewhere.mayLie(entry.bytes)) {
      if (!harmless) fate.known = "nowhere";
      continue;
    }
    const sha256 = await hashFromDevice(engine.disk, entry.source!, entry.bytes, pace);
    fate.sums.set(entry.rel, sha256);
    if (harmless) continue;
    const where = await elsewhere.of({ bytes: entry.bytes, sha256 });
    if ("far" in where && where.far) fate.far.push(where.far);
    if (where.known === "nowhere") {
      if (where.why && !fate.onlyGood) Object.assign(fate, { onlyGood: true, why: where.why });
      fate.known = "nowhere";
    } else if (where.known === "unsure" && fate.known === "elsewhere") Object.assign(fate, { known: "unsure", why: where.why });
  }
  if (fate.known === "nowhere" && !fate.onlyGood) delete fate.why;
  return fate;
}

/** A thing as it was named: by its id, and its state where it was counted. */
const meant = (named: string): { id: string; state?: string } => {
  const [id = "", state] = named.split(".");
  return { id, state };
};

/**
 * Empties the trash of exactly the things that were shown. Of what was not said to be lost the copy that remains is read whole
 * first; where it is not as it was said, the thing stays. What a parcel holds can be fetched back from there by undo.
 */
export function emptyTrash(engine: Engine, input: EmptyInput): Promise<ReportJson> {
  return input.dryRun ? emptyNow(engine, input) : destroying(engine, () => emptyNow(engine, input));
}

async function emptyNow(engine: Engine, input: EmptyInput): Promise<ReportJson> {
  const copies = new Map<string, EraseStep["copy"]>();
  const stay = new Map<string, string>();
  if (!input.dryRun) {
    const wanted = new Set(input.things.map((named) => meant(named).id));
    const lost = new Set(input.lost?.map((named) => meant(named).id));
    await engine.jobs.run("Reading the copies that remain", "bytes", 0, async (job) => {
      const elsewhere = new Elsewhere(engine, { pace: job, whole: true });
      const fates: Fate[] = [];
      for (const thing of trashList(engine)) if (wanted.has(thing.id)) fates.push(await fateOf(engine, elsewhere, thing, job));
      const far = fates.filter(({ thing, known }) => known === "elsewhere" && !lost.has(thing.id)).flatMap((fate) => fate.far);
      const read = input.network ? await readFar(engine, far, job) : new Set<string>();
      for (const fate of fates) {
        const { thing } = fate;
        const unread = fate.far.find(({ sha256 }) => !read.has(sha256));
        const why =
          fate.known !== "elsewhere"
            ? (fate.why ?? "no copy of it is known any more")
            : unread &&
              (input.network ? "what the cloud gave back is not the same" : "its copy lies in a cloud, and was not read");
        if (why && !lost.has(thing.id)) stay.set(thing.id, why);
        const copy = await heldCopy(engine, fate);
        if (copy) copies.set(thing.id, copy);
      }
    });
  }
  return perform(engine, "Emptying the trash", () => planEmpty(engine, input, copies, stay), { trial: input.dryRun });
}

function planEmpty(
  engine: Engine,
  input: EmptyInput,
  copies: ReadonlyMap<string, EraseStep["copy"]>,
  stay: ReadonlyMap<string, string>,
): Plan {
  const list = new Map(trashList(engine).map((thing) => [thing.id, thing]));
  const left: Plan["left"] = [];
  const steps: EraseStep[] = [];
  for (const named of input.things) {
    const { id, state } = meant(named);
    const thing = list.get(id);
    if (thing?.unreadable) {
      left.push({ name: thing.label, code: thing.unreadable.code, why: thing.unreadable.message });
    } else if (thing && stay.has(id)) {
      const problem = new Problem("copy-gone", { name: thing.label, detail: stay.get(id) });
      left.push({ name: thing.label, code: problem.code, why: problem.message });
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

/**
 * The tree in a parcel from which a thing can be fetched back: of one that was sent from here and is not known to be damaged, the
 * same entries, and of each file the same SHA-256.
 */
async function heldCopy(engine: Engine, { thing, tree, sums }: Fate): Promise<EraseStep["copy"]> {
  if (thing.item === undefined || tree.length === 0) return undefined;
  const { db } = engine;
  const there = new Map(tree.map((entry) => [entry.rel, entry]));
  const sent = new Map(
    parcels(engine).flatMap((parcel) => (parcel.state === "sent" && !parcel.found ? [[parcel.id, parcel]] : [])),
  );
  const rows = prepared<[string], { parcel: string; entries: string }>(
    db,
    "SELECT parcel, entries FROM parcel_thing WHERE item = ? AND entries IS NOT NULL AND state IS NOT NULL",
  ).all(thing.item);
  for (const { parcel: id, entries } of rows) {
    const parcel = sent.get(id);
    const depot = parcel && depots(engine).find((one) => one.id === parcel.depot);
    if (!parcel?.bag || !depot || (lastCheck(db, id)?.damaged.length ?? 0) > 0) continue;
    const held = await unlessProblem(() => treeOf(withSums(engine, id, entries), parcel.title));
    const same = (entry: TreeEntry) => {
      const now = there.get(entry.rel);
      if (now?.type !== entry.type || now.target !== entry.target || now.bytes !== entry.bytes) return false;
      return entry.type !== "file" || entry.bytes === 0 || sums.get(entry.rel) === entry.sha256;
    };
    if (!held || held.length !== tree.length || !held.every(same)) continue;
    const ref: ParcelRef = { depot: depot.id, lay: layOf(depot.address), name: parcel.bag as Raw };
    return { parcel: ref, tree: held };
  }
  return undefined;
}

/** A thing's entries as the record keeps them, with the checksums of its files. */
function withSums({ db }: Engine, parcel: string, entries: string): Pick<ParcelThingJson, "entries"> {
  const sumOf = prepared<[string, string], string | null>(
    db,
    "SELECT sha256 FROM parcel_file WHERE parcel = ? AND path = ?",
  ).pluck();
  const kept = JSON.parse(entries) as ParcelThingJson["entries"];
  return {
    entries: kept.map((entry) =>
      entry.payload === undefined ? entry : { ...entry, sha256: sumOf.get(parcel, entry.payload) ?? undefined },
    ),
  };
}
