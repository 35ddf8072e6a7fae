import { createHash } from "node:crypto";
import type { ParcelLookInput } from "@/contract/depots";
import type { Shown } from "@/contract/looks";
import { rawFromJson } from "@/contract/raw-json";
import { folderOf, isWithin, joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { factsOf } from "../looks/facts";
import { lookElsewhere } from "../looks/looked-at";
import { lookOf, lookSoon } from "../looks/looks";
import type { Item } from "../survey/items";
import { type Bag, bagOf, parcelMeant, thingsIn } from "./depots";
import { placeOnDisk } from "./kinds/kinds";

/**
 * A file of a parcel, looked at where it lies. Only of a depot that is on this computer: from a cloud all of it would have to be
 * fetched first.
 *
 * @throws Problem "vanished" where it is not in the parcel, or not in the depot; "not-near" of a cloud
 */
export async function lookInto(engine: Engine, { parcel: named, path, wait }: ParcelLookInput): Promise<Shown> {
  const parcel = await parcelMeant(engine, named);
  const bag = await bagOf(engine, parcel);
  const file = await fileAt(engine, bag, path);
  const item = await itemOf(engine, bag, file);
  lookElsewhere(engine, item);
  const words = engine.words();
  const { look, late } = wait ? { look: await lookOf(engine, item), late: undefined } : await lookSoon(engine, item);
  const { width, height } = item.facts;
  const facts = [
    item.kind,
    ...factsOf(look, words),
    ...(width ? [`${width} by ${height} pixels`] : []),
    words.bytes(item.bytes),
    `last changed ${words.ago(file.mtimeMs)}`,
  ];
  return { id: item.id, name: item.label, kind: item.kind, facts, look, ...(late ? { late } : {}) };
}

interface ParcelFile {
  name: Raw;
  /** Below the bag. */
  payload: string;
  mtimeMs: number;
}

/** A file of a bag by the path under which it is shown. */
async function fileAt(engine: Engine, bag: Bag, path: string): Promise<ParcelFile> {
  const [thing] = (await thingsIn(engine, bag, [path])).things;
  const entry = thing?.entries[0];
  if (!thing || entry?.type !== "file" || entry.payload === undefined) throw new Problem("vanished", { name: path });
  const mtimeMs = Number(BigInt(entry.mtimeNs) / 1_000_000n);
  return { name: rawFromJson(thing.name), payload: entry.payload, mtimeMs };
}

/** The file where it lies in the depot, as what is looked at. A bag may be a stranger's: nothing outside it is read. */
async function itemOf(engine: Engine, bag: Bag, { name, payload, mtimeMs }: ParcelFile): Promise<Item> {
  const label = shownName(name);
  const root = placeOnDisk(bag.depot.address, bag.folder);
  if (root === undefined) throw new Problem("not-near", { name: label, place: bag.depot.title });
  const place = placeOnDisk(bag.depot.address, bag.at(payload))!;
  const [realRoot, folder] = [realFolder(root), realFolder(folderOf(place))];
  if (realRoot === undefined || folder === undefined || !isWithin(realRoot, folder))
    throw new Problem("vanished", { name: label });
  const only = nameOf(place);
  const read = await engine.workers.run("readWorktop", { folder, known: new Map(), only });
  const entry = read?.entries[0];
  if (entry?.type !== "file" || !entry.found) throw new Problem("vanished", { name: label });
  const { ino, dev, bytes, mtimeNs, found } = entry;
  return {
    id: `parcel-${createHash("sha256").update(`${place}\0${ino}\0${mtimeNs}`, "latin1").digest("base64url").slice(0, 22)}`,
    worktop: null,
    folder,
    name: only,
    path: joinRaw(folder, only),
    label,
    identity: { type: "file", ino, bytes, mtimeNs },
    bytes,
    counted: true,
    dev,
    kind: found.kind,
    kindWhy: found.why,
    facts: found.facts,
    mtimeMs,
    arrivedAt: mtimeMs,
  };
}
