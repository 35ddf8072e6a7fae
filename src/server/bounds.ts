import { folderOf, isWithin, nameOf, type Raw } from "@/core/names/raw";
import { autostartFile, isOfVuoto, launcherFile } from "./account";
import { type DepotRecord, readRecords } from "./db/record";
import { addressIn } from "./depots/address";
import type { Reading } from "./engine";
import { homeRoots } from "./homes/homes";
import { isTemporaryName } from "./ledger/temporaries";

/** A place in which entries may be made, changed and taken away, and why. */
export interface WritablePlace {
  folder: Raw;
  why: string;
  /** The folder itself, too. */
  itself?: true;
  /** Only these entries of it. */
  only?: readonly Raw[];
  /** The folders that lead to it may have to be made, within the account. */
  way?: true;
}

/** All that may be written, and nothing else is. */
export function placesToWrite({ account, db }: Pick<Reading, "account" | "db">): WritablePlace[] {
  const depots = [...readRecords<DepotRecord>(db, "depot")].flatMap(([id, depot]) => {
    const address = addressIn({ account, db }, id, depot);
    return address.kind === "cloud" || address.folder === undefined ? [] : [{ folder: address.folder, title: depot.title }];
  });
  return [
    ...account.worktops.map(({ folder, id }) => ({
      folder,
      why: id === "desktop" ? "what lies on the desktop" : "what lies in downloads",
    })),
    ...homeRoots({ account, db }).map((folder) => ({ folder, why: "a home, and the homes below it", itself: true as const })),
    { folder: account.trash, why: "the trash", way: true },
    ...account.otherTrashes.map((folder) => ({ folder, why: "the trash of another disk", itself: true as const })),
    ...depots.map(({ folder, title }) => ({ folder, why: `the depot ${title}` })),
    { folder: account.launchers, why: "launchers of Vuoto, where you want them", only: Object.values(launcherFile), way: true },
    { folder: account.autostart, why: "what starts Vuoto at log-in, where you want it", only: [autostartFile], way: true },
  ];
}

/** Whether an entry may be written: it lies in such a place, or leads to one. Vuoto's own record is never in any. */
export function boundsOf(reading: Pick<Reading, "account" | "db">): (target: Raw) => boolean {
  const { account } = reading;
  const places = placesToWrite(reading);
  const within = ({ folder, itself, only, way }: WritablePlace, target: Raw) =>
    (only ? folderOf(target) === folder && isOneOf(only, nameOf(target)) : target !== folder && isWithin(folder, target)) ||
    (itself && target === folder) ||
    (way && target !== account.root && isWithin(account.root, target) && isWithin(target, folder));
  return (target) => !isOfVuoto(account, target) && places.some((place) => within(place, target));
}

/** What is written takes its name last: until then it has one that only Vuoto gives. */
const isOneOf = (names: readonly Raw[], name: Raw) => names.includes(name) || isTemporaryName(name);
