import type { TreeEntry } from "@/core/ledger/shapes";
import { folderOf, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Packed, type PackInput, packBag } from "./bag";
import type { Disk } from "./disk";
import type { Located } from "./statx";
import {
  copyTree,
  hashFromDevice,
  type Pace,
  removeMade,
  removeTree,
  type SeenEntry,
  scanTree,
  stateOfTree,
  treeState,
  verifyTree,
  type Watched,
} from "./tree";

/** A copy that was made and read back: its identity, and the state of what it was made from. */
export interface CopiedThing {
  identity: Located;
  state: string;
}

interface Carriages {
  /** Copies a thing that is to be moved below a temporary name, read back and compared. It is remembered in which state each entry was. */
  copyThing: { input: { from: Raw; to: Raw }; answer: CopiedThing };
  /** Makes a tree out of files that lie elsewhere, such as in a parcel, each with its checksum; read back and compared. */
  copyTree: { input: { tree: TreeEntry[]; to: Raw }; answer: Located };
  /** Takes away what was copied as `from` and lies at `path` now, entry by entry only in the state in which it was copied. */
  removeCopied: { input: { from: Raw; path: Raw }; answer: null };
  /** Takes away what a step made, or has put aside: the very thing, where it is known by its inode. */
  removeMade: { input: { path: Raw; ino?: string }; answer: null };
  /** A thing's state, as {@link treeState} tells it. */
  state: { input: { path: Raw; watched: Watched }; answer: string };
  /** Throws "not-verified" unless each file has its checksum, and "changed" unless the thing at `path` holds just the same. */
  compare: { input: { path: Raw; tree: TreeEntry[] }; answer: null };
  /** Takes away what is left of a thing, where all of it is in its copy too, byte for byte; answers whether it was. */
  removeRest: { input: { path: Raw; copy: Raw }; answer: boolean };
  /** Packs things into a bag, and reads it back. */
  pack: { input: PackInput; answer: Packed };
}

export type CarriageName = keyof Carriages;
export type Carriage<N extends CarriageName> = Carriages[N];

type Carrying = { [N in CarriageName]: (input: Carriage<N>["input"], pace: Pace) => Promise<Carriage<N>["answer"]> };

/** Where a carriage writes: what it may change lies there. */
export function writesTo<N extends CarriageName>(name: N, input: Carriage<N>["input"]): Raw[] {
  switch (name) {
    case "copyThing":
    case "copyTree":
      return [(input as Carriage<"copyThing">["input"]).to];
    case "pack":
      return [(input as PackInput).part];
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

  async copyTree({ tree, to }: Carriage<"copyTree">["input"], pace: Pace): Promise<Located> {
    const { disk } = this;
    await verifyTree(disk, to, await copyTree(disk, tree, to, pace), pace);
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

  async compare({ path, tree }: Carriage<"compare">["input"], pace: Pace): Promise<null> {
    const { disk } = this;
    const name = shownName(nameOf(path));
    const there = new Map((await scanTree(disk, path, pace)).map((entry) => [entry.rel, entry]));
    const differs = new Problem("changed", { name });
    if (there.size !== tree.length) throw differs;
    for (const entry of tree) {
      const now = there.get(entry.rel);
      if (now?.type !== entry.type || now.target !== entry.target || now.bytes !== entry.bytes) throw differs;
      if (entry.type !== "file") continue;
      const source = entry.source as Raw;
      if (!disk.stat(source) || (await hashFromDevice(disk, source, pace)) !== entry.sha256)
        throw new Problem("not-verified", { name });
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

  pack(input: PackInput, pace: Pace): Promise<Packed> {
    return packBag(this.disk, input, pace);
  }
}
