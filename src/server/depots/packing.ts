import { createHash } from "node:crypto";
import type { ParcelThingJson, ParcelThings } from "@/contract/parcel";
import { type RawJson, rawToJson } from "@/contract/raw-json";
import {
  bagDeclaration,
  bagInfoText,
  manifestLine,
  pageFile,
  pageText,
  payloadName,
  tagManifestFile,
  thingsFile,
} from "@/core/depots/bagit";
import type { TreeEntry } from "@/core/ledger/shapes";
import type { ParcelThing } from "@/core/ledger/steps/send";
import { folderOf, nameOf, type Raw, shownName } from "@/core/names/raw";
import { asProblem, Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import type { Carry, PackedFile, ParcelPlace } from "../disk/carrier";
import { type Disk, sameState } from "../disk/disk";
import { diskProblem } from "../disk/disk-problem";
import { watchedIn } from "../disk/tree";
import type { ParcelFiles } from "./parcel-files";

/** What goes into a parcel, and where it is packed. */
export interface PackInput {
  /** The parcel's folder, under the temporary name that it has until it is committed. */
  place: ParcelPlace;
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
}

/** These concern one thing; any other problem concerns the depot and stops the sending. */
const ofOneThing: ProblemCode[] = ["vanished", "changed", "in-use", "special-file", "no-permission", "link-on-the-way"];

/** So much is given to a thread at once: what was written is known file by file, at the latest after so many or so much. */
const batch = { files: 500, bytes: 64_000_000 };

/**
 * Packs things into a BagIt bag (RFC 8493) in a depot: each file read once for content and checksum, all made durable, and
 * all of it read back and compared. The record knows each file before it is written, and then how far it is.
 */
export class Packing {
  private readonly packed: Packed = { proven: {}, failed: {}, files: 0, bytes: 0, tags: "" };
  private readonly things: ParcelThingJson[] = [];

  constructor(
    private readonly input: PackInput,
    private readonly disk: Disk,
    private readonly files: ParcelFiles,
    private readonly carry: Carry,
  ) {}

  /** @throws Problem "parcel-empty" where nothing could be packed, "parcel-damaged" where it differs when read back */
  async run(): Promise<Packed> {
    const { place, things, title } = this.input;
    this.files.forget();
    await this.carry("pack", { parcel: place, folders: ["", "data"], files: [] });
    for (const thing of things) await this.pack(thing);
    if (this.things.length === 0) throw new Problem("parcel-empty", { name: title });
    const tags = await this.seal();
    await this.prove(tags);
    return this.packed;
  }

  private async pack(thing: ParcelThing): Promise<void> {
    const name = shownName(nameOf(thing.from));
    const target = `data/${thing.payload}`;
    try {
      const there = this.disk.identity(thing.from);
      if (!there) throw new Problem("vanished", { name });
      if (!sameState(there, thing.identity)) throw new Problem("changed", { name });
      const { tree, state } = await this.carry("scan", { path: thing.from });
      const paths = pathsOf(tree, target);
      const pathOf = (entry: TreeEntry) => paths.get(entry.rel)!;
      const files = tree.filter(({ type }) => type === "file").map((entry): PackedFile => ({ entry, path: pathOf(entry) }));
      this.files.await(
        thing.item,
        files.map(({ entry, path }) => ({ path, bytes: entry.bytes })),
      );
      let folders = tree.filter(({ type }) => type === "folder").map(pathOf);
      const sums = new Map<string, string>();
      for (const part of batches(files)) {
        const found = await this.carry("pack", { parcel: this.input.place, folders, files: part });
        const written = new Map(part.map(({ path }, n) => [path, found[n]!]));
        this.files.written(written);
        for (const [path, sum] of written) sums.set(path, sum);
        folders = [];
      }
      if ((await this.carry("state", { path: thing.from, watched: watchedIn(state) })) !== state)
        throw new Problem("changed", { name, detail: "while it was copied" });
      this.packed.proven[thing.item] = state;
      this.packed.files += sums.size;
      this.packed.bytes += tree.reduce((sum, entry) => sum + entry.bytes, 0);
      this.things.push(thingJson(thing, tree, (entry) => ({ payload: pathOf(entry), sha256: sums.get(pathOf(entry))! })));
    } catch (error) {
      const problem = asProblem(diskProblem(error, { name }));
      if (!ofOneThing.includes(problem.code)) throw error;
      await this.carry("unpack", { parcel: this.input.place, entry: target });
      this.files.forget(thing.item);
      this.packed.failed[thing.item] = { code: problem.code, facts: problem.facts };
    }
  }

  /** Writes what a bag says of itself; answers the checksums of these files. */
  private async seal(): Promise<Map<string, string>> {
    const { place, parcel, title, madeAt } = this.input;
    const { bytes, files } = this.packed;
    const list: ParcelThings = { version: 1, parcel: { id: parcel, title, madeAt }, things: this.things };
    const manifest = this.files.all().map(({ path, sha256 }) => manifestLine(sha256!, path));
    const info = { id: parcel, title, date: madeAt.slice(0, 10), bytes, files };
    const texts: [string, string][] = [
      ["bagit.txt", bagDeclaration],
      ["bag-info.txt", bagInfoText(info)],
      [pageFile, pageText(info)],
      ["manifest-sha256.txt", manifest.join("")],
      [thingsFile, `${JSON.stringify(list, null, 1)}\n`],
    ];
    const sumOf = (text: string) => createHash("sha256").update(text).digest("hex");
    const sums = new Map(texts.map(([name, text]) => [name, sumOf(text)]));
    const tags = [...sums].map(([name, sum]) => manifestLine(sum, name)).join("");
    texts.push([tagManifestFile, tags]);
    this.packed.tags = sumOf(tags);
    await this.carry("seal", { parcel: place, texts });
    return sums.set(tagManifestFile, this.packed.tags);
  }

  /** Reads everything back, and compares it with what was read from the originals. */
  private async prove(tags: Map<string, string>): Promise<void> {
    const { place, title } = this.input;
    const prove = async (sums: [string, string][]) => {
      const [differs] = await this.carry("prove", { parcel: place, sums });
      if (differs !== undefined)
        throw new Problem("parcel-damaged", { place: title, detail: `${differs.replace(/^data\//, "")} differs when read back` });
    };
    await prove([...tags]);
    for (const part of batches(this.files.all())) {
      await prove(part.map(({ path, sha256 }) => [path, sha256!]));
      this.files.proven(part.map(({ path }) => path));
    }
  }
}

/** In parts of a bounded number of files and bytes; a part at least, as folders without files are made too. */
function batches<F extends { bytes: number } | { entry: { bytes: number } }>(files: F[]): F[][] {
  const parts: F[][] = [[]];
  let bytes = 0;
  for (const file of files) {
    const last = parts.at(-1)!;
    if (last.length > 0 && (last.length === batch.files || bytes > batch.bytes)) {
      parts.push([file]);
      bytes = 0;
    } else last.push(file);
    bytes += "entry" in file ? file.entry.bytes : file.bytes;
  }
  return parts;
}

/** What the bag's list keeps of a thing: what its payload alone does not say. */
function thingJson(
  thing: ParcelThing,
  tree: TreeEntry[],
  packed: (entry: TreeEntry) => { payload: string; sha256: string },
): ParcelThingJson {
  return {
    item: thing.item,
    name: rawToJson(nameOf(thing.from)),
    folder: rawToJson(folderOf(thing.from)),
    position: thing.position,
    entries: tree.map((entry) => ({
      rel: rawToJson(entry.rel),
      type: entry.type,
      mode: entry.mode,
      mtimeNs: entry.mtimeNs,
      bytes: entry.bytes,
      xattrs: entry.xattrs?.map(([key, value]): [RawJson, RawJson] => [rawToJson(key), rawToJson(value)]),
      target: entry.type === "link" ? rawToJson(entry.target!) : undefined,
      ...(entry.type === "file" ? packed(entry) : {}),
    })),
  };
}

/** Where each entry of a thing goes in the payload: under safe names, unique in each folder. */
function pathsOf(tree: TreeEntry[], target: string): Map<Raw, string> {
  const paths = new Map<Raw, string>([["" as Raw, target]]);
  const taken = new Map<Raw, Set<string>>();
  for (const { rel } of tree) {
    if (rel === "") continue;
    const parent = (rel.includes("/") ? folderOf(rel) : "") as Raw;
    const names = taken.get(parent) ?? new Set<string>();
    taken.set(parent, names);
    paths.set(rel, `${paths.get(parent)!}/${payloadName(nameOf(rel), names)}`);
  }
  return paths;
}
