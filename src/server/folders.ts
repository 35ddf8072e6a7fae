import type { FolderRef, FoldersAnswer, FoldersInput } from "@/contract/folders";
import { folderOf, joinRaw, nameOf, normalRaw, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Account, fromAccount } from "./account";
import { capacityOf, drivePoints, realFolder } from "./disk/around";
import type { Engine } from "./engine";

/** The path of a folder that was meant, as it was typed or by its bytes. It need not exist. */
export function folderMeant({ root }: Pick<Account, "root">, ref: FolderRef): Raw {
  if (typeof ref !== "string") return atob(ref.path) as Raw;
  const typed = rawFromText(ref);
  if (typed.startsWith("/")) return normalRaw(typed);
  const below = typed === "~" ? "" : typed.startsWith("~/") ? typed.slice(2) : typed;
  return below === "" ? root : normalRaw(joinRaw(root, below as Raw));
}

/** What is listed at once: who has more folders in one types the beginning of the name. */
const mostListed = 500;

/** What lies in a folder, for choosing one. Looks, and changes nothing. */
export function folders({ account, disk, words }: Engine, input: FoldersInput): FoldersAnswer {
  const asked = input.folder === undefined ? account.root : folderMeant(account, input.folder);
  const folder = realFolder(asked);
  const entries = folder && disk.list(folder);
  if (!entries) throw new Problem("folder-gone", { place: fromAccount(account, shownName(asked)) });
  const below = entries
    .filter(({ name, type }) => type === "folder" && !name.startsWith("."))
    .map(({ name }) => ({ path: btoa(joinRaw(folder, name)), name: shownName(name) }))
    .sort((a, b) => a.name.localeCompare(b.name));
  const line = (path: Raw) => ({ path: btoa(path), name: fromAccount(account, shownName(path)) });
  const drives = drivePoints().filter((point) => point !== account.root);
  return {
    ...line(folder),
    above: folder === "/" ? undefined : line(folderOf(folder)),
    folders: below.slice(0, mostListed),
    more: Math.max(0, below.length - mostListed),
    starts: [account.root, ...drives].map((point) => {
      const { free } = capacityOf(point);
      return {
        path: btoa(point),
        name: point === account.root ? "your own files" : shownName(nameOf(point)),
        free: free === undefined ? undefined : words().bytes(free),
      };
    }),
  };
}
