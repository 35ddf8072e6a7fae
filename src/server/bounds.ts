import { isWithin, type Raw } from "@/core/names/raw";
import { isOfVuoto } from "./account";
import { type DepotRecord, readRecords } from "./db/record";
import type { Reading } from "./engine";
import { homeRoots } from "./homes/homes";

/** Entries may be changed below worktops, homes, trash and depots; and the folders that lead to the trash. */
export function boundsOf({ account, db }: Pick<Reading, "account" | "db">): (target: Raw) => boolean {
  const homes = homeRoots({ account, db });
  const depots = [...readRecords<DepotRecord>(db, "depot").values()].map((depot) => depot.folder as Raw);
  const whole = [...homes, ...account.otherTrashes];
  const below = [...account.worktops.map((w) => w.folder), account.trash, account.launchers, ...depots];
  return (target) =>
    !isOfVuoto(account, target) &&
    (below.some((folder) => target !== folder && isWithin(folder, target)) ||
      whole.some((folder) => isWithin(folder, target)) ||
      (target !== account.root &&
        isWithin(account.root, target) &&
        (isWithin(target, account.trash) || isWithin(target, account.launchers))));
}
