import { createHash } from "node:crypto";
import type { ParcelThingJson, ParcelThings } from "@/contract/parcel";
import { type RawJson, rawToJson } from "@/contract/raw-json";
import {
  bagDeclaration,
  bagIdentifier,
  bagInfoText,
  manifestLine,
  partName,
  payloadName,
  readManifest,
  tagManifestFile,
  thingsFile,
} from "@/core/depots/bagit";
import type { Json, ParcelThing, SendStep, TreeEntry } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { asProblem, Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import { type ParcelRecord, readRecord, writeRecord } from "../../db/record";
import { diskProblem } from "../../disk/disk-problem";
import { copyFile, hashFromDevice, removeTemporary, scanTree, treeState } from "../../disk/tree";
import type { StepContext, StepKind } from "../step-kind";
import { expectFree, expectThing } from "../transfer";

/** What a sending found out: for each item whose copy was proven, its state then; for each that was not, why. */
export interface SendNote {
  proven: Record<string, string>;
  failed: Record<string, { code: ProblemCode; facts: ProblemFacts }>;
  files: number;
  bytes: number;
  /** SHA-256 of the tag manifest. */
  tags: string;
}

const partOf = (step: SendStep) => joinRaw(step.depot, partName(step.parcel));
const bagOf = (step: SendStep) => joinRaw(step.depot, step.bag);

/** These concern one thing; any other problem concerns the depot and stops the sending. */
const ofOneThing: ProblemCode[] = ["vanished", "changed", "in-use", "special-file", "no-permission", "link-on-the-way"];

/**
 * Packs things into a bag in a depot: each file read once for content and checksum, everything synced, all of it read back
 * from the device and compared with the manifest, and only then the bag takes its name. Until then it counts as nothing.
 */
export const send: StepKind<SendStep> = {
  check(step, context) {
    if (context.disk.identity(step.depot)?.type !== "folder")
      throw new Problem("depot-gone", { place: shownName(nameOf(step.depot)) });
    expectFree(bagOf(step), context);
  },
  async do(step, context) {
    this.check(step, context);
    const { disk } = context;
    const part = partOf(step);
    removeTemporary(disk, part);
    try {
      disk.makeFolder(part);
      const bag = new Bag(part, step, context);
      await bag.pack();
      await bag.verify();
      context.keep(bag.note as unknown as Json);
      disk.rename(part, bagOf(step));
      try {
        disk.syncFolder(step.depot);
      } catch (error) {
        // Not known to be durable, so not sent.
        disk.rename(bagOf(step), part);
        throw error;
      }
      markSent(step, bag.note, context);
      return bag.note as unknown as Json;
    } catch (error) {
      try {
        removeTemporary(disk, part);
      } catch {
        // The depot is gone; what it holds of the part never counted.
      }
      throw ofDepot(error, step);
    }
  },
  /** A parcel stays in its depot: taking an archive away is an act of its own. */
  undo() {},
  settle(step, note, context, direction) {
    if (direction === "undo") return "undone";
    removeTemporary(context.disk, partOf(step));
    const info = context.disk.readSmall(joinRaw(bagOf(step), "bag-info.txt"));
    if (!note || !info || bagIdentifier(info.toString("utf8")) !== step.parcel) return "undone";
    markSent(step, note as unknown as SendNote, context);
    return "done";
  },
};

function ofDepot(error: unknown, step: SendStep): Problem {
  const problem = asProblem(diskProblem(error, { place: shownName(nameOf(step.depot)) }));
  if (problem.code === "folder-gone" || problem.code === "vanished")
    return new Problem("depot-gone", { place: shownName(nameOf(step.depot)) });
  if (problem.code === "no-space" || problem.code === "read-only")
    return new Problem(problem.code, { place: shownName(nameOf(step.depot)) });
  return problem;
}

function markSent(step: SendStep, note: SendNote, context: StepContext): void {
  context.atCommit(() => {
    const key = `parcel:${step.parcel}`;
    const parcel = readRecord<ParcelRecord>(context.db, key);
    if (!parcel) return;
    const sent: ParcelRecord = {
      ...parcel,
      depot: step.depotId,
      state: "sent",
      sentAt: context.now(),
      bag: step.bag,
      things: Object.keys(note.proven).length,
      files: note.files,
      bytes: note.bytes,
      tags: note.tags,
    };
    writeRecord(context.db, key, sent as unknown as Json);
  });
}

class Bag {
  readonly note: SendNote = { proven: {}, failed: {}, files: 0, bytes: 0, tags: "" };
  private readonly sums = new Map<string, string>();
  private readonly tagSums = new Map<string, string>();
  private readonly things: ParcelThingJson[] = [];

  constructor(
    private readonly part: Raw,
    private readonly step: SendStep,
    private readonly context: StepContext,
  ) {}

  async pack(): Promise<void> {
    const { disk } = this.context;
    disk.makeFolder(joinRaw(this.part, "data"));
    for (const thing of this.step.things) {
      const target = joinRaw(this.part, "data", rawFromText(thing.payload));
      try {
        await this.packThing(thing, target);
      } catch (error) {
        const problem = asProblem(diskProblem(error, { name: shownName(nameOf(thing.from)) }));
        if (!ofOneThing.includes(problem.code)) throw error;
        removeTemporary(disk, target);
        this.note.failed[thing.item] = { code: problem.code, facts: problem.facts };
      }
    }
    if (this.things.length === 0) throw new Problem("parcel-empty", { name: this.step.title });
    this.writeTags();
    disk.syncFolder(joinRaw(this.part, "data"));
    disk.syncFolder(this.part);
  }

  private async packThing(thing: ParcelThing, target: Raw): Promise<void> {
    const { disk, pace } = this.context;
    expectThing(thing.from, thing.identity, this.context);
    const state = treeState(disk, thing.from);
    const tree = scanTree(disk, thing.from);
    const places = placesOf(tree, target);
    const sums = new Map<string, string>();
    const entries: ParcelThingJson["entries"] = [];
    for (const entry of tree) {
      const place = places.get(entry.rel)!;
      const path = place.slice(this.part.length + 1);
      const json: ParcelThingJson["entries"][number] = {
        rel: rawToJson(entry.rel),
        type: entry.type,
        mode: entry.mode,
        mtimeNs: entry.mtimeNs,
        bytes: entry.bytes,
      };
      if (entry.xattrs) json.xattrs = entry.xattrs.map(([key, value]): [RawJson, RawJson] => [rawToJson(key), rawToJson(value)]);
      if (entry.type === "folder") disk.makeFolder(place);
      if (entry.type === "link") json.target = rawToJson(entry.target!);
      if (entry.type === "file") {
        json.payload = textOf(path);
        json.sha256 = await copyFile(disk, entry, place, pace);
        sums.set(json.payload, json.sha256);
        disk.writing(place, (inside, name) => inside.calls.setMtime(inside.at(name), BigInt(entry.mtimeNs)));
      }
      entries.push(json);
    }
    if (treeState(disk, thing.from) !== state)
      throw new Problem("changed", { name: shownName(nameOf(thing.from)), detail: "while it was copied" });
    for (const entry of tree.toReversed()) if (entry.type === "folder") disk.syncFolder(places.get(entry.rel)!);
    for (const [path, sum] of sums) this.sums.set(path, sum);
    this.note.proven[thing.item] = state;
    this.note.files += sums.size;
    this.note.bytes += tree.reduce((sum, entry) => sum + entry.bytes, 0);
    this.things.push({
      item: thing.item,
      name: rawToJson(nameOf(thing.from)),
      folder: rawToJson(folderOf(thing.from)),
      position: thing.position,
      entries,
    });
  }

  private writeTags(): void {
    const { parcel, title, madeAt } = this.step;
    const things: ParcelThings = { version: 1, parcel: { id: parcel, title, madeAt }, things: this.things };
    const manifest = [...this.sums].map(([path, sum]) => manifestLine(sum, path)).join("");
    const tags: [string, string][] = [
      ["bagit.txt", bagDeclaration],
      [
        "bag-info.txt",
        bagInfoText({ id: parcel, title, date: madeAt.slice(0, 10), bytes: this.note.bytes, files: this.note.files }),
      ],
      ["manifest-sha256.txt", manifest],
      [thingsFile, `${JSON.stringify(things, null, 1)}\n`],
    ];
    const sumOf = (text: string) => createHash("sha256").update(text).digest("hex");
    for (const [name, text] of tags) this.tagSums.set(name, sumOf(text));
    const tagManifest = [...this.tagSums].map(([name, sum]) => manifestLine(sum, name)).join("");
    this.note.tags = sumOf(tagManifest);
    tags.push([tagManifestFile, tagManifest]);
    for (const [name, text] of tags) {
      const path = joinRaw(this.part, rawFromText(name));
      this.context.disk.createSmall(path, Buffer.from(text), 0o644);
    }
    this.context.disk.syncFileSystem(this.part);
  }

  /** Reads everything back from the device and compares it with the manifest that lies there. */
  async verify(): Promise<void> {
    const { disk, pace } = this.context;
    const wrong = (detail: string) => new Problem("parcel-damaged", { place: this.step.title, detail });
    const inBag = (path: string) => joinRaw(this.part, rawFromText(path));
    if ((await hashFromDevice(disk, inBag(tagManifestFile), pace)) !== this.note.tags)
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
