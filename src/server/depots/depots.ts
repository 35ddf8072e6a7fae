import { createHash } from "node:crypto";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawToJson } from "@/contract/raw-json";
import { pathInManifest, readManifest, tagManifestFile, thingsFile } from "@/core/depots/bagit";
import { isWithin, joinRaw, type Raw, rawFromText, shownName, textOfRaw } from "@/core/names/raw";
import { asProblem, Problem, unlessProblem } from "@/core/problem";
import { stopNow } from "../actor";
import { type DepotRecord, type ParcelRecord, readRecord, readRecords, type VerdictRecord } from "../db/record";
import type { Engine, Reading } from "../engine";
import { homeRoots } from "../homes/homes";
import { othersFirst } from "../jobs/gentle";
import { type Item, itemById, liesAbout } from "../survey/items";
import { addressIn, shownAddress } from "./address";
import { partsNamed } from "./contents";
import { foundRows } from "./found-rows";
import { storeAt } from "./kinds/kinds";
import { type Capacity, type DepotAddress, type DepotStore, readWhole } from "./store";

export interface Depot {
  id: string;
  title: string;
  record: DepotRecord;
  address: DepotAddress;
  /** Where it lies, for the person to read. */
  location: string;
  store: DepotStore;
}

/** A depot, and how it is just now: what stands in the way of reaching it, or what it holds. */
export interface DepotNow extends Depot {
  problem?: Problem;
  capacity: Capacity;
}

export interface Parcel extends ParcelRecord {
  id: string;
  /** It lies in a depot, and was not sent from here. */
  found?: true;
}

/** What is asked of a depot is cut short where the work is cancelled that asks, or Vuoto ends. */
function stopFor({ ending }: Engine): AbortSignal {
  const stop = stopNow();
  return stop ? AbortSignal.any([stop, ending]) : ending;
}

export function depots(engine: Engine): Depot[] {
  return [...readRecords<DepotRecord>(engine.db, "depot")].map(([id, record]) => {
    const address = addressIn(engine, id, record);
    const location = shownAddress(record, address);
    return { id, title: record.title, record, address, location, store: storeAt(address, engine.disk, stopFor(engine)) };
  });
}

export const depotTitle = (engine: Reading, id: string | null | undefined): string =>
  (id && readRecord<DepotRecord>(engine.db, `depot:${id}`)?.title) || "a depot no longer listed";

/** Longer than this nobody waits to hear whether a depot answers; milliseconds. */
const mostWaited = 4000;

/** How a depot is just now. One that does not answer soon is told as such. */
export async function depotNow(depot: Depot): Promise<DepotNow> {
  const slow = new Problem("depot-gone", { place: depot.title, detail: "it does not answer" });
  const late = new Promise<Capacity>((_, reject) => setTimeout(() => reject(slow), mostWaited).unref());
  const asked = depot.store.reach().then(() => depot.store.capacity());
  asked.catch(() => {});
  try {
    return { ...depot, capacity: await Promise.race([asked, late]) };
  } catch (error) {
    return { ...depot, problem: asProblem(error), capacity: {} };
  }
}

export const depotsNow = (engine: Engine): Promise<DepotNow[]> => Promise.all(depots(engine).map(depotNow));

/** A depot by id, title or location; a problem where there is none. */
export function depotMeant(engine: Engine, named: string): Depot {
  const all = depots(engine);
  const depot =
    all.find((d) => d.id === named) ??
    all.find((d) => d.title === named) ??
    all.find((d) => d.location === named || d.location === `${named}/`);
  if (!depot) throw new Problem("unknown-depot", { place: named });
  return depot;
}

/** The same; a problem, too, where it is not in reach, or does not answer soon. */
export async function depotInReach(engine: Engine, named: string): Promise<Depot> {
  const depot = await depotNow(depotMeant(engine, named));
  if (depot.problem) throw depot.problem;
  return depot;
}

export function parcelById(engine: Reading, id: string): Parcel | undefined {
  const parcel = readRecord<ParcelRecord>(engine.db, `parcel:${id}`);
  return parcel ? { ...parcel, id } : undefined;
}

/** All parcels, those found in depots too; the latest first. */
export function parcels(engine: Reading): Parcel[] {
  const found = foundRows(engine.db).map(
    ({ parcel, at, ...row }): Parcel => ({ ...row, id: parcel, state: "sent", madeAt: at, found: true }),
  );
  const own = [...readRecords<ParcelRecord>(engine.db, "parcel")].map(([id, parcel]): Parcel => ({ ...parcel, id }));
  return [...own, ...found].sort((a, b) => b.madeAt - a.madeAt);
}

/** A parcel by its id, its title or its folder; also a bag that lies in a depot and is in no record of ours. */
export async function parcelMeant(engine: Engine, named: string): Promise<Parcel> {
  const all = parcels(engine);
  const parcel =
    all.find((p) => p.id === named) ??
    all.find((p) => p.title === named) ??
    all.find((p) => p.bag && shownName(p.bag as Raw) === named) ??
    (await strangerMeant(engine, named));
  if (!parcel) throw new Problem("unknown-parcel", { name: named });
  return parcel;
}

async function strangerMeant(engine: Engine, named: string): Promise<Parcel | undefined> {
  for (const { id, store } of depots(engine)) {
    const entries = await unlessProblem(() => store.list("" as Raw));
    const found = entries?.find(({ name, type }) => type === "folder" && shownName(name) === named);
    if (found && (await store.stat(joinRaw(found.name, rawFromText("bagit.txt")))))
      return { id: "", title: named, depot: id, state: "sent", madeAt: 0, bag: found.name, found: true };
  }
  return undefined;
}

/** The things that were given the verdict archive for a parcel and still lie on a worktop, or in a folder on one. */
export function collectedIn(engine: Reading, parcel: string): Item[] {
  const items: Item[] = [];
  const inHome = (path: Raw) => homeRoots(engine).some((root) => isWithin(root, path));
  for (const [id, verdict] of readRecords<VerdictRecord>(engine.db, "verdict")) {
    if (verdict.verdict !== "archive" || verdict.parcel !== parcel) continue;
    const item = itemById(engine.db, id);
    const lies = item && (item.worktop || liesAbout(engine, item.path) || (verdict.fromHome && inHome(item.path)));
    if (lies) items.push(item);
  }
  return items;
}

/** A sent parcel's folder in its depot. */
export interface Bag {
  depot: Depot;
  folder: Raw;
  /** The parcel's title. */
  title: string;
  /** A path in the bag, as one in the depot. */
  at(path: string): Raw;
  /** What one of the bag's own files says; undefined where there is none. Read once: what was looked at is what is used. */
  text(name: string): Promise<string | undefined>;
}

/** A sent parcel's bag; a problem where it cannot be reached. */
export async function bagOf(engine: Engine, parcel: Parcel): Promise<Bag> {
  if (parcel.state !== "sent" || !parcel.bag || !parcel.depot)
    throw new Problem("unknown-parcel", { name: `${parcel.title} (not sent yet)` });
  const depot = await depotInReach(engine, parcel.depot);
  const folder = parcel.bag as Raw;
  if ((await depot.store.stat(folder))?.type !== "folder")
    throw new Problem("parcel-damaged", {
      place: parcel.title,
      detail: `its folder ${shownName(folder)} is missing from the depot`,
    });
  const at = (path: string) => joinRaw(folder, rawFromText(path));
  const read = new Map<string, Promise<string | undefined>>();
  const text = (name: string) => {
    const known = read.get(name) ?? readWhole(depot.store, at(name), mostTagBytes).then((bytes) => bytes?.toString("utf8"));
    read.set(name, known);
    return known;
  };
  return { depot, folder, title: parcel.title, at, text };
}

/**
 * Whether a bag is, by its tag manifest, the very one that was sent. Its list of things may propose their old places then;
 * any other may have been written by a stranger.
 */
export async function isAsSent(bag: Bag, parcel: Parcel): Promise<boolean> {
  const sumOf = (content: string) => createHash("sha256").update(content).digest("hex");
  const tags = await bag.text(tagManifestFile);
  if (tags === undefined || parcel.tags === undefined || sumOf(tags) !== parcel.tags) return false;
  const list = await bag.text(thingsFile);
  return list !== undefined && readManifest(tags).sums.get(thingsFile) === sumOf(list);
}

const mostTagBytes = 1 << 28;

/**
 * What a bag's own list says is in it; of a bag of another program, its payload as one folder. With `names` only what is called
 * so, and which of them are not there.
 */
export async function thingsIn(
  engine: Engine,
  bag: Bag,
  names?: string[],
): Promise<{ things: ParcelThingJson[]; missing: string[] }> {
  const text = await bag.text(thingsFile);
  if (text !== undefined) {
    const read = await engine.workers.run("readParcelList", { text, title: bag.title, names });
    // To take in a long list is enough for one turn.
    await othersFirst();
    return read;
  }
  const things = await payloadOf(engine, bag);
  return names ? partsNamed(things, names) : { things, missing: [] };
}

/** The payload by its manifest: each of its first parts a thing, with what lies below it. */
async function payloadOf(engine: Reading, bag: Bag): Promise<ParcelThingJson[]> {
  const { title } = bag;
  const manifest = await bag.text("manifest-sha256.txt");
  if (manifest === undefined)
    throw new Problem("parcel-damaged", { place: title, detail: "it has no manifest of SHA-256 checksums" });
  const { sums, damaged } = readManifest(manifest);
  if (damaged.length > 0) throw new Problem("parcel-damaged", { place: title, detail: "its manifest cannot be read" });
  const mtimeNs = String(BigInt(engine.now()) * 1_000_000n);
  const things = new Map<string, Map<string, ParcelThingJson["entries"][number]>>();
  const sizes = await sizesIn(bag);
  for (const [written, sha256] of sums) {
    const payload = pathInManifest(written);
    const [data, first, ...rest] = payload.split("/");
    if (data !== "data" || !first)
      throw new Problem("parcel-damaged", { place: title, detail: `${written} is not in its payload` });
    const entries = things.get(first) ?? new Map();
    things.set(first, entries);
    for (let n = 0; n < rest.length; n++) {
      const rel = rest.slice(0, n).join("/");
      if (!entries.has(rel)) entries.set(rel, { rel: textToJson(rel), type: "folder", mode: 0o755, mtimeNs, bytes: 0 });
    }
    const bytes = sizes.get(payload) ?? 0;
    entries.set(rest.join("/"), { rel: textToJson(rest.join("/")), type: "file", mode: 0o644, mtimeNs, bytes, payload, sha256 });
  }
  return [...things].map(([first, entries]) => ({
    item: "",
    name: textToJson(first),
    folder: textToJson("/"),
    position: null,
    entries: [...entries.values()],
  }));
}

/** The bytes of each file in a bag, by its path there. */
export async function sizesIn(bag: Bag): Promise<Map<string, number>> {
  const sizes = new Map<string, number>();
  const look = async (folder: string): Promise<void> => {
    for (const { name, type, bytes } of await bag.depot.store.list(bag.at(folder))) {
      const path = `${folder}/${textOfRaw(name) ?? shownName(name)}`;
      if (type === "folder") await look(path);
      else if (type === "file") sizes.set(path, bytes);
    }
  };
  await look("data");
  return sizes;
}

const textToJson = (text: string) => rawToJson(rawFromText(text));

/** The parcels on their way: being collected, with something in them. An empty one is not there for the person. */
export function parcelsWaiting(engine: Reading): { parcel: Parcel; items: Item[] }[] {
  return parcels(engine)
    .filter((parcel) => parcel.state === "collecting")
    .map((parcel) => ({ parcel, items: collectedIn(engine, parcel.id) }))
    .filter(({ items }) => items.length > 0);
}
