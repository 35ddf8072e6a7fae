import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Carry } from "../disk/carrier";
import { stateWhereverItLies, watchedIn } from "../disk/tree";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { collectedIn } from "./depots";
import { keptState, ParcelFiles, stateIn } from "./parcel-files";

/** So often a thing is looked for that is moved again and again. */
const mostTries = 100;

/**
 * Follows things of a parcel on its way that are taken out of sight meanwhile, or brought back: what was packed is known again
 * wherever it lies, by its inode, length and times, and a file by all of its content.
 */
export class Following {
  private readonly files: ParcelFiles;

  constructor(
    private readonly engine: Engine,
    private readonly parcel: string,
    private readonly carry: Carry,
    private readonly signal?: AbortSignal,
  ) {
    this.files = new ParcelFiles(engine.db, parcel);
  }

  /** The things as they lie now: an act that moves some of them has its end first. */
  async collected(): Promise<Map<string, Item>> {
    await this.engine.ledger.between();
    return new Map(collectedIn(this.engine, this.parcel).map((item) => [item.id, item]));
  }

  /** Whether a thing is still what was packed; where it was moved, that is written down. */
  async isAsPacked(item: Item, kept: string): Promise<boolean> {
    const { state, anywhere, ctimeNs = "" } = stateIn(kept);
    if ((await this.carry("state", { path: item.path, watched: watchedIn(state) })) === state) return true;
    if (anywhere === undefined) return false;
    const { tree, state: now } = await this.carry("scan", { path: item.path });
    if (stateWhereverItLies(tree) !== anywhere) return false;
    const [itself] = tree;
    // What is in a folder keeps its own times of state; a file's other times may have been set back, but not by our own renames.
    if (itself?.type === "file" && !this.engine.disk.merelyRenamed(itself.ino, ctimeNs, itself.ctimeNs)) {
      const sums = await this.engine.workers.run("hashFiles", [item.path], { signal: this.signal });
      const sum = sums.get(item.path);
      if (sum === undefined || sum !== this.files.of(item.id)[0]?.sha256) return false;
    }
    this.files.restate(item.id, keptState(now, anywhere, itself?.ctimeNs ?? ""));
    if (itself) this.engine.disk.follow(itself.ino, itself.ctimeNs);
    return true;
  }

  /** Does work with a thing where it lies, and once more where it was moved at that very moment. */
  async at<T>(item: Item, work: (there: Item) => Promise<T>): Promise<T> {
    let there = item;
    for (let tries = 1; ; tries++) {
      try {
        return await work(there);
      } catch (error) {
        const isGone = error instanceof Problem && (error.code === "vanished" || error.code === "folder-gone");
        const now = isGone && tries < mostTries ? (await this.collected()).get(item.id) : undefined;
        if (!now || !this.engine.disk.identity(now.path)) throw error;
        there = now;
      }
    }
  }

  /** Follows all that was moved since it was packed. */
  async all(): Promise<void> {
    const items = await this.collected();
    for (const { item, state } of this.files.things()) {
      const there = items.get(item);
      if (!there || state === null || isWhereItWas(this.engine, there.path, state)) continue;
      try {
        await this.at(there, (now) => this.isAsPacked(now, state));
      } catch (error) {
        // It is said when it is to be let go.
        if (!(error instanceof Problem) || error.code === "cancelled") throw error;
      }
    }
  }
}

/** Whether nothing was done to a thing itself since it was packed, a move included. */
export function isWhereItWas({ disk }: Pick<Engine, "disk">, path: Raw, kept: string): boolean {
  const { ctimeNs } = stateIn(kept);
  return ctimeNs === undefined || String(disk.stat(path)?.ctimeNs) === ctimeNs;
}
