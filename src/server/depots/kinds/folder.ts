import { joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { capacityOf } from "../../disk/around";
import type { Disk } from "../../disk/disk";
import { diskProblem } from "../../disk/disk-problem";
import { contentOnDevice, removeMade, writeContent } from "../../disk/tree";
import { bounded, type DepotStore, type StoredEntry } from "../store";

/** A depot that is a folder of this computer. */
export function folderStore({ folder, title }: { folder: Raw; title?: string }, disk: Disk): DepotStore {
  const at = (path: Raw) => (path === "" ? folder : joinRaw(folder, path));
  const place = title ?? shownName(nameOf(folder));
  const isThere = () => disk.identity(folder)?.type === "folder";
  /** What fails for the depot as a whole is said of the depot. */
  const ofDepot = (error: unknown): unknown => {
    const problem = diskProblem(error, { place });
    if (!(problem instanceof Problem)) return error;
    const { code } = problem;
    if ((code === "folder-gone" || code === "vanished") && !isThere()) return new Problem("depot-gone", { place });
    return code === "no-space" || code === "read-only" ? new Problem(code, { place }) : problem;
  };
  const said = async <T>(work: () => T | Promise<T>): Promise<T> => {
    try {
      return await work();
    } catch (error) {
      throw ofDepot(error);
    }
  };
  const entryOf = (path: Raw): StoredEntry | undefined => {
    const there = disk.identity(at(path));
    return there && { name: nameOf(path), type: kindOf(there.type), bytes: there.bytes };
  };
  return {
    lanes: 1,
    async reach() {
      let there = false;
      try {
        there = isThere();
      } catch {
        // Nor is what cannot be looked at.
      }
      if (!there) throw new Problem("depot-gone", { place, detail: `${shownName(folder)} is not there` });
    },
    capacity: async () => capacityOf(folder),
    stat: (path) => said(() => entryOf(path)),
    list: (path) =>
      said(() =>
        (disk.list(at(path)) ?? []).map(({ name, type }) => {
          const known = kindOf(type);
          return { name, type: known, bytes: known === "file" ? (entryOf(joinRaw(path, name))?.bytes ?? 0) : 0 };
        }),
      ),
    async *read(path, most = Number.MAX_SAFE_INTEGER) {
      try {
        yield* bounded(contentOnDevice(disk, at(path)), path, most);
      } catch (error) {
        throw ofDepot(error);
      }
    },
    makeFolder: (path) => said(() => disk.makeFolder(at(path), 0o755)),
    write: (path, content, { mtimeNs, replaces } = {}) =>
      said(async () => {
        if (replaces) await removeMade(disk, at(path));
        await writeContent(disk, at(path), content.content());
        if (mtimeNs !== undefined) disk.writing(at(path), (inside, name) => inside.calls.setMtime(inside.at(name), mtimeNs));
      }),
    settle: (path) =>
      said(() => {
        disk.syncFolder(at(path));
        disk.syncFileSystem(at(path));
      }),
    commit: (part, bag) =>
      said(() => {
        disk.rename(at(part), at(bag));
        try {
          disk.syncFolder(folder);
        } catch (error) {
          // Not known to be durable, so not sent.
          disk.rename(at(bag), at(part));
          throw error;
        }
      }),
    remove: (path) => said(() => removeMade(disk, at(path))),
    close: async () => {},
  };
}

const kindOf = (type: string): StoredEntry["type"] => (type === "file" || type === "folder" ? type : "other");
