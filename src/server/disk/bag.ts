import { createHash } from "node:crypto";
import type { ParcelThingJson, ParcelThings } from "@/contract/parcel";
import { type RawJson, rawToJson } from "@/contract/raw-json";
import {
  bagDeclaration,
  bagInfoText,
  manifestLine,
  payloadName,
  readManifest,
  tagManifestFile,
  thingsFile,
} from "@/core/depots/bagit";
import type { TreeEntry } from "@/core/ledger/shapes";
import type { ParcelThing } from "@/core/ledger/steps/send";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { asProblem, Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import { type Disk, sameState } from "./disk";
import { diskProblem } from "./disk-problem";
import { copyFile, hashFromDevice, type Pace, removeMade, scanTree, stateOfTree, treeState, watchedIn } from "./tree";

/** What goes into a bag, and where it is packed. */
export interface PackInput {
  /** The folder that is made for it, under a temporary name. */
  part: Raw;
  parcel: string;
  title: string;
  madeAt: string;
  things: ParcelThing[];
}

/** What packing found out: for each item whose copy was proven, its state then; for each that was not, why. */
export interface Packed {
  proven: Record<string, string>;
  failed: Record<string, { code: ProblemCode; facts: ProblemFacts }>;
  files: number;
  bytes: number;
  /** SHA-256 of the tag manifest. */
  tags: string;
  /** The inode of the folder. */
  ino: string;
}

/** These concern one thing; any other problem concerns the depot and stops the sending. */
const ofOneThing: ProblemCode[] = ["vanished", "changed", "in-use", "special-file", "no-permission", "link-on-the-way"];

/**
 * Packs things into a bag: each file read once for content and checksum, everything synced, all of it read back from the
 * device and compared with the manifest.
 */
export async function packBag(disk: Disk, input: PackInput, pace: Pace): Promise<Packed> {
  const bag = new Bag(disk, input, pace);
  await bag.pack();
  await bag.verify();
  return bag.packed;
}

class Bag {
  readonly packed: Packed = { proven: {}, failed: {}, files: 0, bytes: 0, tags: "", ino: "" };
  private readonly sums = new Map<string, string>();
  private readonly tagSums = new Map<string, string>();
  private readonly things: ParcelThingJson[] = [];

  constructor(
    private readonly disk: Disk,
    private readonly input: PackInput,
    private readonly pace: Pace,
  ) {}

  async pack(): Promise<void> {
    const { disk } = this;
    const { part } = this.input;
    disk.makeFolder(part, 0o755);
    this.packed.ino = disk.identity(part)?.ino ?? "";
    disk.makeFolder(joinRaw(part, "data"), 0o755);
    for (const thing of this.input.things) {
      const target = joinRaw(this.input.part, "data", rawFromText(thing.payload));
      try {
        await this.packThing(thing, target);
      } catch (error) {
        const problem = asProblem(diskProblem(error, { name: shownName(nameOf(thing.from)) }));
        if (!ofOneThing.includes(problem.code)) throw error;
        await removeMade(disk, target);
        this.packed.failed[thing.item] = { code: problem.code, facts: problem.facts };
      }
    }
    if (this.things.length === 0) throw new Problem("parcel-empty", { name: this.input.title });
    this.writeTags();
    disk.syncFolder(joinRaw(this.input.part, "data"));
    disk.syncFolder(this.input.part);
  }

  private async packThing(thing: ParcelThing, target: Raw): Promise<void> {
    const { disk, pace } = this;
    const there = disk.identity(thing.from);
    if (!there) throw new Problem("vanished", { name: shownName(nameOf(thing.from)) });
    if (!sameState(there, thing.identity)) throw new Problem("changed", { name: shownName(nameOf(thing.from)) });
    const tree = await scanTree(disk, thing.from, pace);
    const state = stateOfTree(tree);
    const places = placesOf(tree, target);
    const sums = new Map<string, string>();
    const entries: ParcelThingJson["entries"] = [];
    for (const entry of tree) {
      const place = places.get(entry.rel)!;
      const path = place.slice(this.input.part.length + 1);
      const json: ParcelThingJson["entries"][number] = {
        rel: rawToJson(entry.rel),
        type: entry.type,
        mode: entry.mode,
        mtimeNs: entry.mtimeNs,
        bytes: entry.bytes,
      };
      if (entry.xattrs) json.xattrs = entry.xattrs.map(([key, value]): [RawJson, RawJson] => [rawToJson(key), rawToJson(value)]);
      if (entry.type === "folder") disk.makeFolder(place, 0o755);
      if (entry.type === "link") json.target = rawToJson(entry.target!);
      if (entry.type === "file") {
        json.payload = textOf(path);
        json.sha256 = await copyFile(disk, entry, place, pace);
        sums.set(json.payload, json.sha256);
        disk.writing(place, (inside, name) => inside.calls.setMtime(inside.at(name), BigInt(entry.mtimeNs)));
      }
      entries.push(json);
    }
    if ((await treeState(disk, thing.from, watchedIn(state), pace)) !== state)
      throw new Problem("changed", { name: shownName(nameOf(thing.from)), detail: "while it was copied" });
    for (const entry of tree.toReversed()) if (entry.type === "folder") disk.syncFolder(places.get(entry.rel)!);
    for (const [path, sum] of sums) this.sums.set(path, sum);
    this.packed.proven[thing.item] = state;
    this.packed.files += sums.size;
    this.packed.bytes += tree.reduce((sum, entry) => sum + entry.bytes, 0);
    this.things.push({
      item: thing.item,
      name: rawToJson(nameOf(thing.from)),
      folder: rawToJson(folderOf(thing.from)),
      position: thing.position,
      entries,
    });
  }

  private writeTags(): void {
    const { parcel, title, madeAt } = this.input;
    const things: ParcelThings = { version: 1, parcel: { id: parcel, title, madeAt }, things: this.things };
    const manifest = [...this.sums].map(([path, sum]) => manifestLine(sum, path)).join("");
    const tags: [string, string][] = [
      ["bagit.txt", bagDeclaration],
      [
        "bag-info.txt",
        bagInfoText({ id: parcel, title, date: madeAt.slice(0, 10), bytes: this.packed.bytes, files: this.packed.files }),
      ],
      ["manifest-sha256.txt", manifest],
      [thingsFile, `${JSON.stringify(things, null, 1)}\n`],
    ];
    const sumOf = (text: string) => createHash("sha256").update(text).digest("hex");
    for (const [name, text] of tags) this.tagSums.set(name, sumOf(text));
    const tagManifest = [...this.tagSums].map(([name, sum]) => manifestLine(sum, name)).join("");
    this.packed.tags = sumOf(tagManifest);
    tags.push([tagManifestFile, tagManifest]);
    for (const [name, text] of tags) {
      const path = joinRaw(this.input.part, rawFromText(name));
      this.disk.createSmall(path, Buffer.from(text), 0o644);
    }
    this.disk.syncFileSystem(this.input.part);
  }

  /** Reads everything back from the device and compares it with the manifest that lies there. */
  async verify(): Promise<void> {
    const { disk, pace } = this;
    const wrong = (detail: string) => new Problem("parcel-damaged", { place: this.input.title, detail });
    const inBag = (path: string) => joinRaw(this.input.part, rawFromText(path));
    if ((await hashFromDevice(disk, inBag(tagManifestFile), pace)) !== this.packed.tags)
      throw wrong(`${tagManifestFile} differs when read back`);
    for (const [name, sum] of this.tagSums)
      if ((await hashFromDevice(disk, inBag(name), pace)) !== sum) throw wrong(`${name} differs when read back`);
    const manifest = disk.readSmall(inBag("manifest-sha256.txt"), 1 << 28)?.toString("utf8") ?? "";
    const { sums, damaged } = readManifest(manifest);
    if (damaged.length > 0 || sums.size !== this.sums.size) throw wrong("its manifest differs when read back");
    for (const [path, sum] of this.sums) {
      if (sums.get(path) !== sum || (await hashFromDevice(disk, inBag(path), pace)) !== sum)
        throw wrong(`${path.slice(5)} differs when read back`);
    }
  }
}

const textOf = (path: string) => Buffer.from(path, "latin1").toString("utf8");

/** Where each entry of a thing goes in the payload: under safe names, unique in each folder. */
function placesOf(tree: TreeEntry[], target: Raw): Map<Raw, Raw> {
  const places = new Map<Raw, Raw>([["" as Raw, target]]);
  const taken = new Map<Raw, Set<string>>();
  for (const entry of tree) {
    if (entry.rel === "") continue;
    const parent = (entry.rel.includes("/") ? folderOf(entry.rel) : "") as Raw;
    const names = taken.get(parent) ?? new Set<string>();
    taken.set(parent, names);
    places.set(entry.rel, joinRaw(places.get(parent)!, rawFromText(payloadName(nameOf(entry.rel), names))));
  }
  return places;
}
