import type fs from "node:fs";
import { folderOf, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Disk, Folder, folderFlags } from "./disk";

/** So many folders of a walk are open at once; of the others the way back is known. */
const mostOpen = 48;

/** An entry that a walk comes to: a folder before what lies in it, and once more after. */
export interface Visit {
  inside: Folder;
  name: Raw;
  stat: fs.BigIntStats;
  /** How many folders below the thing itself, which is 0. */
  depth: number;
  /** Its path below the thing, asked while the walk waits there; empty for the thing itself. */
  rel(): Raw;
  when: "before" | "after";
}

interface Frame {
  folder: Folder;
  open: boolean;
  /** Of the folder, to know it by on the way back. */
  dev: bigint;
  ino: bigint;
  /** The entry of the folder above that it is. */
  name: Raw;
  stat: fs.BigIntStats;
  rest: Raw[];
}

/**
 * Walks a thing, its entries by name, without following links and with a bounded number of open folders, however deep it is:
 * the way back up leads by `..`, and is believed only where it leads to the very folder that was left. What is done with an
 * entry while the walk waits there is done in the opened folder.
 *
 * @throws Problem "vanished", "changed" where a folder was swapped on the way
 */
export function* walkTree(disk: Disk, path: Raw): Generator<Visit, void, void> {
  const { calls } = disk;
  const top = disk.openApart(folderOf(path));
  const frames: Frame[] = [];
  const swapped = (name: Raw) => new Problem("changed", { name: shownName(name), detail: "it was swapped for another folder" });
  const rel = (...last: Raw[]) => [...frames.slice(1).map((frame) => frame.name), ...last].join("/") as Raw;

  const enter = (inside: Folder, name: Raw, stat: fs.BigIntStats) => {
    const fd = calls.open(inside.at(name), folderFlags);
    const folder = new Folder(calls, `${inside.path}/${name}` as Raw, fd);
    frames.push({ folder, open: true, dev: stat.dev, ino: stat.ino, name, stat, rest: [] });
    const opened = calls.fstat(fd);
    if (opened.ino !== stat.ino || opened.dev !== stat.dev) throw swapped(name);
    frames.at(-1)!.rest = folder
      .list()
      .map((entry) => entry.name)
      .sort()
      .reverse();
    const oldest = frames[frames.length - 1 - mostOpen];
    if (oldest?.open) {
      calls.close(oldest.folder.fd);
      oldest.open = false;
    }
  };
  const leave = (): Folder => {
    const left = frames.at(-1)!;
    const above = frames.at(-2);
    if (above && !above.open) {
      const fd = calls.open(Buffer.from(`/proc/self/fd/${left.folder.fd}/..`), folderFlags);
      above.folder = new Folder(calls, above.folder.path, fd);
      above.open = true;
      const back = calls.fstat(fd);
      if (back.ino !== above.ino || back.dev !== above.dev) throw swapped(above.name);
    }
    calls.close(left.folder.fd);
    left.open = false;
    frames.pop();
    return above?.folder ?? top;
  };

  try {
    const name = nameOf(path);
    const stat = top.stat(name);
    if (!stat) throw new Problem("vanished", { name: shownName(name) });
    yield { inside: top, name, stat, depth: 0, rel: () => "" as Raw, when: "before" };
    if (!stat.isDirectory()) return;
    enter(top, name, stat);
    for (let frame = frames.at(-1); frame; frame = frames.at(-1)) {
      const next = frame.rest.pop();
      if (next === undefined) {
        const depth = frames.length - 1;
        const place = depth === 0 ? ("" as Raw) : rel();
        const inside = leave();
        yield { inside, name: frame.name, stat: frame.stat, depth, rel: () => place, when: "after" };
        continue;
      }
      const inside = frame.folder;
      const found = inside.stat(next);
      if (!found) throw new Problem("vanished", { name: shownName(next) });
      yield { inside, name: next, stat: found, depth: frames.length, rel: () => rel(next), when: "before" };
      if (found.isDirectory()) enter(inside, next, found);
    }
  } finally {
    for (const frame of frames) if (frame.open) calls.close(frame.folder.fd);
    calls.close(top.fd);
  }
}
