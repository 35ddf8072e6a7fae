import { createHash } from "node:crypto";
import os from "node:os";
import path from "node:path";
import { readUserDirs, type StandardFolder, standardFolders } from "@/core/homes/standard";
import { isWithin, joinRaw, normalRaw, type Raw, rawFromBytes, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { canRead, ensurePrivateFolder, mountPoints, readText, realFolder } from "./disk/around";

export type WorktopId = "desktop" | "downloads";

export interface Worktop {
  id: WorktopId;
  folder: Raw;
}

/** One person's files: where the worktops, homes and trash are. */
export interface Account {
  root: Raw;
  /** Vuoto's own folder for this account, by its own path. */
  data: string;
  worktops: Worktop[];
  /** The standard folders that exist, worktops aside. */
  standardHomes: { key: StandardFolder; folder: Raw }[];
  /** The trash folder for the account's own file system. */
  trash: Raw;
  /** Where trash folders of other mounts may be. */
  otherTrashes: Raw[];
  /** Where the account's own launchers lie, among its programs. */
  launchers: Raw;
  /** Where what is started at log-in is named (Desktop Application Autostart Specification). */
  autostart: Raw;
  /** The sample account, which needs no link and draws its own screen. */
  sample: boolean;
}

export interface AccountPlace {
  root: Raw;
  data?: string;
}

/** Where Vuoto keeps the record of an account: below the XDG data folder, one folder an account. */
export function dataFolderFor(root: Raw, base = process.env.XDG_DATA_HOME || path.join(os.homedir(), ".local", "share")): string {
  const mark = createHash("sha256").update(root, "latin1").digest("hex").slice(0, 10);
  const last = shownName(root.slice(root.lastIndexOf("/") + 1) as Raw).replace(/[^A-Za-z0-9_-]/g, "_") || "root";
  return path.join(base, "vuoto", `${last.slice(0, 40)}-${mark}`);
}

/** A path, as it is shown, for a person to read: from the account's own folder on where it lies there, "~/Desktop". */
export function fromAccount({ root }: Pick<Account, "root">, shown: string): string {
  const own = shownName(root);
  return shown === own || shown.startsWith(`${own}/`) ? `~${shown.slice(own.length)}` : shown;
}

/** Finds the account's folders; a problem where there is none or neither worktop. */
export function openAccount(place: AccountPlace): Account {
  const asked = normalRaw(place.root);
  const root = realFolder(asked);
  if (!root) throw new Problem("no-account", { place: shownName(asked) });
  if (!canRead(root)) throw new Problem("account-unreadable", { place: shownName(root) });

  const own = realFolder(rawFromText(os.homedir())) === root;
  const config = own && process.env.XDG_CONFIG_HOME ? rawFromText(process.env.XDG_CONFIG_HOME) : joinRaw(root, ".config");
  const said = readUserDirs(readText(joinRaw(config, "user-dirs.dirs")) ?? "", root);
  const folderOfKey = (key: StandardFolder): Raw | undefined => {
    const value = said.has(key) ? said.get(key) : joinRaw(root, standardFolders[key]);
    const real = value ? realFolder(value) : undefined;
    return real && real !== root ? real : undefined;
  };

  const worktops: Worktop[] = [];
  const desktop = folderOfKey("DESKTOP");
  const downloads = folderOfKey("DOWNLOAD");
  if (desktop) worktops.push({ id: "desktop", folder: desktop });
  if (downloads && downloads !== desktop) worktops.push({ id: "downloads", folder: downloads });
  if (worktops.length === 0) throw new Problem("no-worktop", { place: shownName(root) });

  const standardHomes: Account["standardHomes"] = [];
  for (const key of Object.keys(standardFolders) as StandardFolder[]) {
    if (key === "DESKTOP" || key === "DOWNLOAD") continue;
    const folder = folderOfKey(key);
    if (folder && !worktops.some((w) => w.folder === folder)) standardHomes.push({ key, folder });
  }

  const data = ensurePrivateFolder(place.data ?? dataFolderFor(root));
  const xdgData = own && process.env.XDG_DATA_HOME ? rawFromText(process.env.XDG_DATA_HOME) : joinRaw(root, ".local/share");
  const uid = process.getuid?.() ?? 0;
  return {
    root,
    data,
    worktops,
    standardHomes,
    trash: joinRaw(xdgData, "Trash"),
    launchers: joinRaw(xdgData, "applications"),
    autostart: joinRaw(config, "autostart"),
    otherTrashes: mountPoints().flatMap((mount) => [joinRaw(mount, ".Trash", String(uid)), joinRaw(mount, `.Trash-${uid}`)]),
    sample: readText(joinRaw(rawFromText(data), "sample")) !== undefined,
  };
}

/** The launchers that may be put among the programs: one that opens Vuoto, one for gathering, and one for quiet. */
export const launcherFile = {
  open: rawFromText("vuoto.desktop"),
  gather: rawFromText("vuoto-gather.desktop"),
  quiet: rawFromText("vuoto-quiet.desktop"),
};

/** The entry that starts Vuoto at log-in, where that is wanted. */
export const autostartFile = rawFromText("vuoto.desktop");

/** The folder in which things out of sight lie on a screen that draws whatever is in the worktop. */
export const tuckedName = rawFromText(".out-of-sight");

/** The page in that folder which says how to do without Vuoto; no item. */
export const tuckedPage = rawFromText("HOW-TO-BRING-THEM-BACK.txt");

export function tuckedFolder(worktop: Pick<Worktop, "folder">): Raw {
  return joinRaw(worktop.folder, tuckedName);
}

/** The worktop a path lies on directly, or tucked away in. */
export function worktopOf(account: Account, folder: Raw): Worktop | undefined {
  return account.worktops.find((w) => w.folder === folder || tuckedFolder(w) === folder);
}

/** The path by which the person knows what lies, or lies in something, out of sight. */
export function inSight({ worktops }: { worktops: readonly Pick<Worktop, "folder">[] }, path: Raw): Raw {
  const worktop = worktops.find((w) => path !== tuckedFolder(w) && isWithin(tuckedFolder(w), path));
  return worktop ? ((worktop.folder + path.slice(tuckedFolder(worktop).length)) as Raw) : path;
}

/** The other way round: where it lies while it is out of sight; undefined of what lies on no worktop. */
export function tuckedPath(account: Pick<Account, "worktops">, path: Raw): Raw | undefined {
  const worktop = account.worktops.find((w) => path !== w.folder && isWithin(w.folder, path));
  return worktop && ((tuckedFolder(worktop) + path.slice(worktop.folder.length)) as Raw);
}

/** Vuoto's own folder as a byte string. */
export const dataOf = (account: Pick<Account, "data">): Raw => rawFromBytes(Buffer.from(account.data));

/** Whether a path is Vuoto's own folder, lies in it, or holds it: it is no item, and nothing is done with it. */
export function isOfVuoto(account: Pick<Account, "data">, place: Raw): boolean {
  const data = dataOf(account);
  return isWithin(data, place) || isWithin(place, data);
}

/** Folders never walked: Vuoto's own, wherever it lies. */
export function leftOut(account: Account): Raw[] {
  return [dataOf(account), account.trash, ...account.otherTrashes, ...account.worktops.map((w) => w.folder)];
}

/** Whether a folder may be a home: below the account, in no worktop's hidden part, trash or data folder. */
export function mayBeHome(account: Account, folder: Raw): boolean {
  if (folder === account.root || !isWithin(account.root, folder)) return false;
  if (isWithin(account.trash, folder) || isWithin(dataOf(account), folder)) return false;
  return !account.worktops.some((w) => w.folder === folder || isWithin(tuckedFolder(w), folder));
}
