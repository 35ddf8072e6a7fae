import type { Raw } from "@/core/names/raw";
import { type Account, tuckedPath } from "../account";
import { realFolder } from "../disk/around";

/** Where a home lies now: one on a worktop may be out of sight with the rest. */
export function whereHomeLies({ account }: { account: Account }, folder: Raw): Raw {
  const tucked = tuckedPath(account, folder);
  return tucked !== undefined && realFolder(folder) !== folder && realFolder(tucked) === tucked ? tucked : folder;
}
