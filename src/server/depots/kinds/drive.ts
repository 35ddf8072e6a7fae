import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Disk } from "../../disk/disk";
import { markFile, markOn } from "../drives";
import { bytesOnSample } from "../standins";
import type { DepotAddress, DepotStore } from "../store";
import { folderStore } from "./folder";

export type DriveAddress = DepotAddress & { kind: "drive" };

/**
 * A depot on a drive that comes and goes. Each time before anything is done there our file is looked for: where a drive was
 * pulled out, its empty mount point may still be there, on another disk.
 */
export function driveStore(address: DriveAddress, disk: Disk): DepotStore {
  const { folder, title: place, mark, bound } = address;
  const away = () =>
    new Problem("depot-gone", {
      place,
      detail: address.other ? "a drive with its mark is there, and it is another" : "it is not plugged in",
    });
  const there = (): Raw => {
    if (folder === undefined || markOn(folder, disk) !== mark) throw away();
    return folder;
  };
  const inner = folderStore({ folder: folder ?? ("/" as Raw), title: place }, disk);
  const meanwhile = async <T>(work: () => Promise<T>): Promise<T> => {
    there();
    try {
      return await work();
    } catch (error) {
      // Pulled out in the middle, many things go wrong; that is what is to be said.
      there();
      throw error;
    }
  };
  let held: number | undefined;
  const capacity = async () => {
    if (bound === undefined) return inner.capacity();
    held = bytesOnSample(there());
    return { free: Math.max(0, bound - held), total: bound };
  };
  return {
    lanes: inner.lanes,
    reach: async () => {
      there();
    },
    capacity: () => meanwhile(capacity),
    stat: (path) => meanwhile(() => inner.stat(path)),
    list: (path) =>
      meanwhile(async () => {
        const all = await inner.list(path);
        return path === "" ? all.filter(({ name }) => name !== markFile) : all;
      }),
    async *read(path, most) {
      there();
      try {
        yield* inner.read(path, most);
      } catch (error) {
        there();
        throw error;
      }
    },
    makeFolder: (path) => meanwhile(() => inner.makeFolder(path)),
    write: (path, content, how) =>
      meanwhile(async () => {
        if (bound !== undefined) {
          if (how?.replaces) {
            await inner.remove(path);
            held = undefined;
          }
          if (held === undefined) await capacity();
          if (held! + content.bytes > bound) throw new Problem("no-space", { place });
          held! += content.bytes;
        }
        return inner.write(path, content, how);
      }),
    settle: (path) => meanwhile(() => inner.settle(path)),
    commit: (part, bag) => meanwhile(() => inner.commit(part, bag)),
    remove: (path) =>
      meanwhile(async () => {
        await inner.remove(path);
        held = undefined;
      }),
    close: inner.close,
  };
}
