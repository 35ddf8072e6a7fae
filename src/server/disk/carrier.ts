import type { TreeEntry } from "@/core/ledger/shapes";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { placeOnDisk, storeAt } from "../depots/kinds/kinds";
import type { DepotAddress } from "../depots/store";
import type { Disk } from "./disk";
import type { Located } from "./statx";
import {
  type Content,
  contentOnDisk,
  copyTree,
  hashFromDevice,
  type Pace,
  removeMade,
  removeTree,
  type SeenEntry,
  scanTree,
  stateOfTree,
  summing,
  sumOf,
  treeState,
  verifyTree,
  type Watched,
} from "./tree";

/** A copy that was made and read back: its identity, and the state of what it was made from. */
export interface CopiedThing {
  identity: Located;
  state: string;
}

/** A parcel's folder in a depot. */
export interface ParcelPlace {
  depot: DepotAddress;
  folder: Raw;
}

interface Carriages {
  /** Copies a thing that is to be moved below a temporary name, read back and compared. It is remembered in which state each entry was. */
  copyThing: { input: { from: Raw; to: Raw }; answer: CopiedThing };
  /** Makes a tree out of what a parcel holds of it, each file with its checksum; read back and compared. */
  copyTree: { input: { tree: TreeEntry[]; to: Raw; parcel?: ParcelPlace }; answer: Located };
  /** Takes away what was copied as `from` and lies at `path` now, entry by entry only in the state in which it was copied. */
  removeCopied: { input: { from: Raw; path: Raw }; answer: null };
  /** Takes away what a step made, or has put aside: the very thing, where it is known by its inode. */
  removeMade: { input: { path: Raw; ino?: string }; answer: null };
  /** A thing's state, as {@link treeState} tells it. */
  state: { input: { path: Raw; watched: Watched }; answer: string };
  /** Throws "not-verified" unless each file has its checksum, and "changed" unless the thing at `path` holds just the same. */
  compare: { input: { path: Raw; tree: TreeEntry[]; parcel?: ParcelPlace }; answer: null };
  /** Takes away what is left of a thing, where all of it is in its copy too, byte for byte; answers whether it was. */
  removeRest: { input: { path: Raw; copy: Raw }; answer: boolean };
  /** All entries of a thing, and its state. */
  scan: { input: { path: Raw }; answer: { tree: SeenEntry[]; state: string } };
  /** Makes folders in a parcel, and writes files into it; answers the SHA-256 of each, in their order. */
  pack: { input: { parcel: ParcelPlace; folders: string[]; files: PackedFile[] }; answer: string[] };
  /** Writes small files of text into a parcel, and makes all of it durable. */
  seal: { input: { parcel: ParcelPlace; texts: [path: string, text: string][] }; answer: null };
  /** Reads files of a parcel back and compares them with their SHA-256; answers which differ. */
  prove: { input: { parcel: ParcelPlace; sums: [path: string, sha256: string][] }; answer: string[] };
  /** Takes what lies at a path in a parcel out of it. */
  unpack: { input: { parcel: ParcelPlace; entry: string }; answer: null };
}

/** A file that goes into a parcel, in the state in which it was seen, and its path there. */
export interface PackedFile {
  entry: SeenEntry;
  path: string;
}

export type CarriageName = keyof Carriages;
export type Carriage<N extends CarriageName> = Carriages[N];
export type Carry = <N extends CarriageName>(name: N, input: Carriage<N>["input"]) => Promise<Carriage<N>["answer"]>;

type Carrying = { [N in CarriageName]: (input: Carriage<N>["input"], pace: Pace) => Promise<Carriage<N>["answer"]> };

/** Where a carriage writes: what it may change lies there. */
export function writesTo<N extends CarriageName>(name: N, input: Carriage<N>["input"]): Raw[] {
  switch (name) {
    case "copyThing":
    case "copyTree":
      return [(input as Carriage<"copyThing">["input"]).to];
    case "pack":
    case "seal":
    case "unpack": {
      const { depot, folder } = (input as { parcel: ParcelPlace }).parcel;
      const place = placeOnDisk(depot, folder);
      return place === undefined ? [] : [place];
    }
    case "removeCopied":
    case "removeMade":
    case "removeRest":
      return [(input as { path: Raw }).path];
    default:
      return [];
  }
}

/** Moves the bytes of an act: the same work in a thread of its own, or here. */
export class Carrier implements Carrying {
  private readonly copied = new Map<Raw, SeenEntry[]>();

  constructor(private readonly disk: Disk) {}

  carry<N extends CarriageName>(name: N, input: Carriage<N>["input"], pace: Pace): Promise<Carriage<N>["answer"]> {
    const work = this[name] as unknown as (input: Carriage<N>["input"], pace: Pace) => Promise<Carriage<N>["answer"]>;
    return work.call(this, input, pace);
  }

  async copyThing({ from, to }: Carriage<"copyThing">["input"], pace: Pace): Promise<CopiedThing> {
    const { disk } = this;
    const tree = await scanTree(disk, from, pace, true);
    await verifyTree(disk, to, await copyTree(disk, tree, to, pace), pace);
    disk.syncFolder(folderOf(to));
    const identity = disk.identity(to);
    if (!identity) throw new Problem("vanished", { name: shownName(nameOf(from)) });
    this.copied.set(from, tree);
    return { identity, state: stateOfTree(tree) };
  }

  /** What an entry of a tree holds: where it lies on this computer, or in a parcel. */
  private contentIn(parcel: ParcelPlace | undefined): (entry: TreeEntry) => Content {
    const { disk } = this;
    if (!parcel) return (entry) => contentOnDisk(disk, entry);
    const store = storeAt(parcel.depot, disk);
    return (entry) => store.read(joinRaw(parcel.folder, rawFromText(entry.payload!)));
  }

  async copyTree({ tree, to, parcel }: Carriage<"copyTree">["input"], pace: Pace): Promise<Located> {
    const { disk } = this;
    await verifyTree(disk, to, await copyTree(disk, tree, to, pace, this.contentIn(parcel)), pace);
    const identity = disk.identity(to);
    if (!identity) throw new Problem("vanished", { name: shownName(nameOf(to)) });
    return identity;
  }

  async removeCopied({ from, path }: Carriage<"removeCopied">["input"], pace: Pace): Promise<null> {
    const tree = this.copied.get(from);
    if (!tree) throw new Error("nothing was copied from there");
    await removeTree(this.disk, path, tree, pace);
    this.copied.delete(from);
    return null;
  }

  async removeMade({ path, ino }: Carriage<"removeMade">["input"], pace: Pace): Promise<null> {
    await removeMade(this.disk, path, ino, pace);
    return null;
  }

  state({ path, watched }: Carriage<"state">["input"], pace: Pace): Promise<string> {
    return treeState(this.disk, path, watched, pace);
  }

  async compare({ path, tree, parcel }: Carriage<"compare">["input"], pace: Pace): Promise<null> {
    const { disk } = this;
    const held = this.contentIn(parcel);
    const name = shownName(nameOf(path));
    const there = new Map((await scanTree(disk, path, pace)).map((entry) => [entry.rel, entry]));
    const differs = new Problem("changed", { name });
    if (there.size !== tree.length) throw differs;
    for (const entry of tree) {
      const now = there.get(entry.rel);
      if (now?.type !== entry.type || now.target !== entry.target || now.bytes !== entry.bytes) throw differs;
      if (entry.type !== "file") continue;
      if ((await sumOf(held(entry), pace).catch(nothingThere)) !== entry.sha256) throw new Problem("not-verified", { name });
      if ((await hashFromDevice(disk, now.source as Raw, pace)) !== entry.sha256) throw differs;
    }
    return null;
  }

  async removeRest({ path, copy }: Carriage<"removeRest">["input"], pace: Pace): Promise<boolean> {
    const { disk } = this;
    const rest = await scanTree(disk, path, pace);
    const copied = new Map((await scanTree(disk, copy, pace)).map((entry) => [entry.rel, entry]));
    for (const entry of rest) {
      const held = copied.get(entry.rel);
      if (held?.type !== entry.type || held.target !== entry.target || held.bytes !== entry.bytes) return false;
      if (entry.type !== "file") continue;
      const [was, is] = [entry.source as Raw, held.source as Raw];
      if ((await hashFromDevice(disk, was, pace)) !== (await hashFromDevice(disk, is, pace))) return false;
    }
    await removeTree(disk, path, rest, pace);
    return true;
  }

  async scan({ path }: Carriage<"scan">["input"], pace: Pace): Promise<Carriage<"scan">["answer"]> {
    const tree = await scanTree(this.disk, path, pace);
    return { tree, state: stateOfTree(tree) };
  }

  async pack({ parcel, folders, files }: Carriage<"pack">["input"], pace: Pace): Promise<string[]> {
    const store = storeAt(parcel.depot, this.disk);
    const at = (path: string) => joinRaw(parcel.folder, rawFromText(path));
    for (const folder of folders) await store.makeFolder(folder === "" ? parcel.folder : at(folder));
    const sums: string[] = [];
    for (const { entry, path } of files) {
      const { content, sum } = summing(contentOnDisk(this.disk, entry), pace);
      await store.write(at(path), content, BigInt(entry.mtimeNs));
      sums.push(sum());
    }
    return sums;
  }

  async seal({ parcel, texts }: Carriage<"seal">["input"]): Promise<null> {
    const store = storeAt(parcel.depot, this.disk);
    const whole = async function* (text: string) {
      yield Buffer.from(text);
    };
    for (const [path, text] of texts) await store.write(joinRaw(parcel.folder, rawFromText(path)), whole(text));
    await store.settle(parcel.folder);
    return null;
  }

  async prove({ parcel, sums }: Carriage<"prove">["input"], pace: Pace): Promise<string[]> {
    const store = storeAt(parcel.depot, this.disk);
    const differ: string[] = [];
    for (const [path, sum] of sums)
      if ((await sumOf(store.read(joinRaw(parcel.folder, rawFromText(path))), pace)) !== sum) differ.push(path);
    return differ;
  }

  async unpack({ parcel, entry }: Carriage<"unpack">["input"]): Promise<null> {
    await storeAt(parcel.depot, this.disk).remove(joinRaw(parcel.folder, rawFromText(entry)));
    return null;
  }
}

/** What is not there has no checksum; a cancel is none of that. */
function nothingThere(error: unknown): string {
  if (error instanceof Problem && error.code !== "cancelled") return "";
  throw error;
}
