import { folderOf, nameOf, type Raw } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import type { Disk } from "../disk/disk";

/**
 * Whether a trash folder on another mount is this user's own (Trash specification 1.0, "Trash directories"): a folder and no
 * link, theirs, which nobody else may write; and where it lies in a shared `.Trash`, that is a folder, sticky and no link.
 * Anybody can make a folder of that name on a shared disk.
 */
export function isOwnTrash(disk: Disk, trash: Raw): boolean {
  const own = unlessProblem(() => disk.stat(trash));
  if (!own?.isDirectory() || Number(own.uid) !== process.geteuid?.() || (own.mode & 0o022n) !== 0n) return false;
  if (nameOf(folderOf(trash)) !== ".Trash") return true;
  const shared = unlessProblem(() => disk.stat(folderOf(trash)));
  return shared?.isDirectory() === true && (shared.mode & 0o1000n) !== 0n;
}
