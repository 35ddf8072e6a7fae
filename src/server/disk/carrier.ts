import type { TreeEntry } from "@/core/ledger/shapes";
import { folderOf, joinRaw, nameOf, type Raw, rawFromText, shownName, textOfRaw } from "@/core/names/raw";
import { asProblem, Problem, type ProblemCode } from "@/core/problem";
import { placeOnDisk, storeAt, withStore } from "../depots/kinds/kinds";
import { contentOf, type DepotAddress, type DepotStore, readSteadily, retried } from "../depots/store";
import { atOnce } from "./at-once";
import type { Disk } from "./disk";
import { diskProblem, errorCode } from "./disk-problem";
import type { Located } from "./statx";
import {
  type Content,
  contentOnDisk,
  copyTree,
  hashFromDevice,
  isTheOriginal,
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
import { walkTree } from "./walk";

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
  /** Makes a tree out of what a parcel holds of it, each file with its checksum; without one, of a copy, read back and compared. */
  copyTree: { input: { tree: TreeEntry[]; to: Raw; parcel?: ParcelPlace }; answer: Located };
  /** Takes away what was copied as `from` and lies at `path` now, entry by entry only in the state in which it was copied. */
  removeCopied: { input: { from: Raw; path: Raw }; answer: null };
  /** Takes away what a step made, or has put aside: the very thing, where it is known by its inode. */
  removeMade: { input: { path: Raw; ino?: string }; answer: null };
  /** A thing's state, as {@link treeState} tells it. */
  state: { input: { path: Raw; watched: Watched }; answer: string };
  /** The bytes of the blocks that a thing and all in it take; undefined where it cannot be counted. */
  room: { input: { path: Raw }; answer: number | undefined };
  /** Throws "not-verified" unless each file has its checksum, and "changed" unless the thing at `path` holds just the same. */
  compare: { input: { path: Raw; tree: TreeEntry[]; parcel?: ParcelPlace }; answer: null };
  /** Takes away what is left of a thing, where all of it is in its copy too, byte for byte; answers whether it was. */
  removeRest: { input: { path: Raw; copy: Raw }; answer: boolean };
  /** All entries of a thing, and its state. */
  scan: { input: { path: Raw }; answer: { tree: SeenEntry[]; state: string } };
  /** What lies in a parcel's folder, all of it, by its path there: the bytes of each file, and -1 for a folder. */
  inventory: { input: { parcel: ParcelPlace }; answer: Map<string, number> };
  /**
   * Makes a parcel's folder, where it is not there, and folders in it; those above come first. Tells of each whose path is too
   * long there.
   */
  fold: { input: { parcel: ParcelPlace; folders: string[] }; answer: null };
  /** Writes files into a parcel; tells of each once it is there, or why it is not where that concerns the file alone. */
  pack: { input: { parcel: ParcelPlace; files: PackedFile[] }; answer: null };
  /** Writes small files of text into a parcel, each in the place of what was left of it, and makes all of it durable. */
  seal: { input: { parcel: ParcelPlace; texts: { path: string; text: string }[] }; answer: null };
  /**
   * Reads files of a parcel back and compares them, byte for byte, with their originals where these are as they were sent, else by
   * their SHA-256; tells of each whether it is the same.
   */
  prove: { input: { parcel: ParcelPlace; files: ProvenFile[] }; answer: null };
  /** Takes what lies at paths in a parcel out of it. */
  unpack: { input: { parcel: ParcelPlace; entries: string[] }; answer: null };
  /** Gives a parcel its name. */
  commit: { input: { parcel: ParcelPlace; bag: Raw }; answer: null };
}

/** A file that goes into a parcel, in the state in which it was seen, and its path there. */
export interface PackedFile {
  entry: SeenEntry;
  path: string;
}

/** A file of a parcel, and what it must be; with its original, in the state in which it was sent. */
export interface ProvenFile {
  path: string;
  bytes: number;
  sha256: string;
  original?: SeenEntry;
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
    case "fold":
    case "pack":
    case "seal":
    case "commit":
    case "unpack": {
      const { parcel, bag } = input as { parcel: ParcelPlace; bag?: Raw };
      const places = [parcel.folder, ...(bag === undefined ? [] : [bag])];
      return places.flatMap((name) => placeOnDisk(parcel.depot, name) ?? []);
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
  private contentIn(parcel: ParcelPlace | undefined, { signal }: Pace): (entry: TreeEntry) => Content {
    const { disk } = this;
    if (!parcel) return (entry) => contentOnDisk(disk, entry);
    const store = storeAt(parcel.depot, disk, signal);
    return (entry) => readSteadily(store, joinRaw(parcel.folder, rawFromText(entry.payload!)), entry.bytes, signal);
  }

  async copyTree({ tree, to, parcel }: Carriage<"copyTree">["input"], pace: Pace): Promise<Located> {
    const { disk } = this;
    const sums = await copyTree(disk, tree, to, pace, this.contentIn(parcel, pace));
    // What a parcel holds was summed while it was written, and the parcel stays: before anything rests on the copy it is read.
    if (!parcel) await verifyTree(disk, to, sums, pace);
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
    const held = this.contentIn(parcel, pace);
    const name = shownName(nameOf(path));
    const there = new Map((await scanTree(disk, path, pace)).map((entry) => [entry.rel, entry]));
    const differs = new Problem("changed", { name });
    if (there.size !== tree.length) throw differs;
    for (const entry of tree) {
      const now = there.get(entry.rel);
      if (now?.type !== entry.type || now.target !== entry.target || now.bytes !== entry.bytes) throw differs;
      if (entry.type !== "file") continue;
      if ((await sumOf(held(entry), entry.bytes, pace).catch(nothingThere)) !== entry.sha256)
        throw new Problem("not-verified", { name });
      if ((await hashFromDevice(disk, now.source as Raw, now.bytes, pace)) !== entry.sha256) throw differs;
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
      if ((await hashFromDevice(disk, was, entry.bytes, pace)) !== (await hashFromDevice(disk, is, held.bytes, pace)))
        return false;
    }
    await removeTree(disk, path, rest, pace);
    return true;
  }

  async room({ path }: Carriage<"room">["input"], pace: Pace): Promise<Carriage<"room">["answer"]> {
    let blocks = 0n;
    try {
      for (const { stat, when } of walkTree(this.disk, path)) {
        if (when === "before") blocks += stat.blocks;
        const pause = pace.breath();
        if (pause) await pause;
      }
    } catch (error) {
      if (error instanceof Problem || errorCode(error) !== undefined) return undefined;
      throw error;
    }
    return Number(blocks * 512n);
  }

  async scan({ path }: Carriage<"scan">["input"], pace: Pace): Promise<Carriage<"scan">["answer"]> {
    const tree = await scanTree(this.disk, path, pace);
    return { tree, state: stateOfTree(tree) };
  }

  /** Opens the depot of a parcel for a while; on the way to another computer it is cut short where it is cancelled. */
  private inParcel<T>(
    { depot, folder }: ParcelPlace,
    pace: Pace,
    work: (store: DepotStore, at: (path: string) => Raw) => Promise<T>,
  ): Promise<T> {
    const at = (path: string) => (path === "" ? folder : joinRaw(folder, rawFromText(path)));
    return withStore(depot, this.disk, (store) => work(store, at), pace.signal);
  }

  inventory({ parcel }: Carriage<"inventory">["input"], pace: Pace): Promise<Map<string, number>> {
    return this.inParcel(parcel, pace, async (store, at) => {
      const found = new Map<string, number>();
      let folders = [""];
      while (folders.length > 0) {
        const below: string[] = [];
        await atOnce(folders, store.lanes, async (folder) => {
          await pace.step(0);
          for (const { name, type, bytes } of await store.list(at(folder))) {
            const path = folder === "" ? textOf(name) : `${folder}/${textOf(name)}`;
            found.set(path, type === "file" ? bytes : -1);
            if (type === "folder") below.push(path);
          }
        });
        folders = below;
      }
      return found;
    });
  }

  async fold({ parcel, folders }: Carriage<"fold">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store, at) => {
      const make = async (folder: string) => {
        await pace.step(0);
        try {
          await store.makeFolder(at(folder));
        } catch (error) {
          const problem = diskProblem(error, { name: folder.split("/")[1] });
          if (problem instanceof Problem && problem.code === "path-too-long")
            return pace.told?.({ path: folder, problem: { code: problem.code, facts: problem.facts } });
          if (!(error instanceof Problem && error.code === "name-taken")) throw error;
          if ((await store.stat(at(folder)))?.type !== "folder") throw error;
        }
      };
      const depth = (folder: string) => (folder === "" ? 0 : folder.split("/").length);
      for (let level = 0, left = folders; left.length > 0; level++) {
        await atOnce(
          left.filter((folder) => depth(folder) === level),
          store.lanes,
          make,
        );
        left = left.filter((folder) => depth(folder) > level);
      }
      return null;
    });
  }

  async pack({ parcel, files }: Carriage<"pack">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store, at) => {
      await atOnce(files, store.lanes, async ({ entry, path }) => {
        let replaces = false;
        try {
          const packed = await retried(async () => {
            try {
              return await this.packFile(store, at(path), entry, replaces, pace);
            } catch (error) {
              // What an earlier try left of it, or this one, in a folder that is ours alone.
              replaces = true;
              if (!(error instanceof Problem && error.code === "name-taken")) throw error;
              return this.packFile(store, at(path), entry, true, pace);
            }
          }, pace.signal);
          pace.told?.({ path, ...packed });
        } catch (error) {
          const problem = asOneOf(ofOneThing, diskProblem(error, { name: shownName(nameOf(entry.source ?? entry.rel)) }));
          if (!problem) throw error;
          pace.told?.({ path, problem: { code: problem.code, facts: problem.facts } });
        }
      });
      return null;
    });
  }

  private async packFile(
    store: DepotStore,
    to: Raw,
    entry: SeenEntry,
    replaces: boolean,
    pace: Pace,
  ): Promise<{ sha256: string; ctimeNs?: string }> {
    let sum = async () => "";
    let ctimeNs: string | undefined;
    // A thing itself may be renamed meanwhile; of what is in a folder that is not known.
    const renamed = (now: string) => {
      ctimeNs = now;
    };
    const content = () => {
      const summed = summing(contentOnDisk(this.disk, entry, entry.rel === "" ? renamed : undefined), entry.bytes, pace);
      sum = summed.sum;
      return summed.content;
    };
    await store.write(to, { bytes: entry.bytes, content }, { mtimeNs: BigInt(entry.mtimeNs), replaces });
    return { sha256: await sum(), ...(ctimeNs === undefined ? {} : { ctimeNs }) };
  }

  async seal({ parcel, texts }: Carriage<"seal">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store, at) => {
      for (const { path, text } of texts) {
        await retried(() => store.write(at(path), contentOf(text), { replaces: true }), pace.signal);
      }
      await store.settle(parcel.folder);
      return null;
    });
  }

  async prove({ parcel, files }: Carriage<"prove">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store, at) => {
      await atOnce(files, store.lanes, async ({ path, bytes, sha256, original }) => {
        const told = (code: ProblemCode, detail: string) =>
          pace.told?.({ path, problem: { code, facts: { name: path, detail } } });
        try {
          const isSame = await retried(async () => {
            const read = () => store.read(at(path), bytes);
            const same = original && (await isTheOriginal(this.disk, read(), original, pace));
            return same ?? (await sumOf(read(), bytes, pace)) === sha256;
          }, pace.signal);
          if (isSame) pace.told?.({ path, sha256 });
          else told("sent-differs", "it gave back something else");
        } catch (error) {
          const problem = asOneOf(notThere, error);
          if (!problem) throw error;
          if (problem.code === "file-too-large") told("sent-differs", "it gave back more bytes");
          else told("vanished", "it is not there");
        }
      });
      return null;
    });
  }

  async unpack({ parcel, entries }: Carriage<"unpack">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store, at) => {
      await atOnce(entries, store.lanes, (entry) => store.remove(at(entry)));
      return null;
    });
  }

  async commit({ parcel, bag }: Carriage<"commit">["input"], pace: Pace): Promise<null> {
    return this.inParcel(parcel, pace, async (store) => {
      await store.commit(parcel.folder, bag);
      return null;
    });
  }
}

/** These concern one file or thing that is to be sent; any other problem concerns the depot, and stops the sending. */
export const ofOneThing: ProblemCode[] = [
  "vanished",
  "changed",
  "in-use",
  "special-file",
  "no-permission",
  "link-on-the-way",
  "path-too-long",
];
const notThere: ProblemCode[] = ["vanished", "file-too-large", "folder-gone"];

const asOneOf = (codes: ProblemCode[], error: unknown): Problem | undefined => {
  const problem = error instanceof Error && error.name !== "Killed" ? asProblem(error) : undefined;
  return problem && codes.includes(problem.code) ? problem : undefined;
};

/** Names in a parcel are text. */
const textOf = (name: Raw): string => textOfRaw(name) ?? shownName(name);

/** What is not there has no checksum; a cancel is none of that. */
function nothingThere(error: unknown): string {
  if (error instanceof Problem && error.code !== "cancelled") return "";
  throw error;
}
