import fs from "node:fs";
import path from "node:path";
import { type Raw, rawFromBytes } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { bytes } from "./disk";
import { answers, type Mount, mounts } from "./mounts";

/** A folder's own path with all links resolved, or undefined where there is no such folder. */
export function realFolder(folder: Raw): Raw | undefined {
  if (!answers(folder)) return undefined;
  try {
    const real = fs.realpathSync(bytes(folder), { encoding: "buffer" });
    return fs.statSync(real).isDirectory() ? rawFromBytes(real) : undefined;
  } catch {
    return undefined;
  }
}

export function canRead(folder: Raw): boolean {
  if (!answers(folder)) return false;
  try {
    fs.readdirSync(bytes(folder));
    return true;
  } catch {
    return false;
  }
}

/** A small configuration file's text; undefined where there is none. */
export function readText(file: Raw): string | undefined {
  try {
    return fs.readFileSync(bytes(file), "utf8");
  } catch {
    return undefined;
  }
}

/** The path of a program that can be run: by its path, or by its name in PATH. */
export function canRun(word: string): string | undefined {
  const candidates = word.includes("/")
    ? [word]
    : (process.env["PATH"] ?? "").split(":").map((folder) => path.join(folder, word));
  return candidates.find((file) => {
    try {
      fs.accessSync(file, fs.constants.X_OK);
      return path.isAbsolute(file) && fs.statSync(file).isFile();
    } catch {
      return false;
    }
  });
}

/** What Vuoto keeps in its data folder, and nothing else does. */
const ownFiles = ["lock.sqlite", "server.json", "open.html", "sample", "sign-ins.json"];
const ownFolders = ["pictures", "backups"];

/**
 * Vuoto's own folder: made where missing, and brought to what only the person can read where it was not. Answers its own
 * path. A folder that holds other things is refused, so that their rights are not changed and they are not taken for ours.
 */
export function ensurePrivateFolder(folder: string): string {
  fs.mkdirSync(folder, { recursive: true, mode: 0o700 });
  const real = fs.realpathSync(folder);
  const stat = fs.statSync(real);
  if (stat.uid !== process.geteuid?.())
    throw new Problem("data-unsuitable", { place: real, detail: "it belongs to another user" });
  const names = fs.readdirSync(real);
  const isOwn = (name: string) => ownFiles.includes(name) || name.startsWith("vuoto.sqlite");
  if (names.length > 0 && !names.some((name) => isOwn(name) || ownFolders.includes(name)))
    throw new Problem("data-unsuitable", { place: real, detail: "it holds other things" });
  const open = (mode: number) => (mode & 0o077) !== 0;
  if (open(stat.mode)) {
    fs.chmodSync(real, 0o700);
    for (const name of ownFolders) closeBelow(path.join(/* turbopackIgnore: true */ real, name));
  }
  for (const name of names) {
    const file = path.join(/* turbopackIgnore: true */ real, name);
    const is = isOwn(name) ? fs.lstatSync(file) : undefined;
    if (is?.isFile() && open(is.mode)) fs.chmodSync(file, 0o600);
  }
  return real;
}

function closeBelow(folder: string): void {
  if (!fs.existsSync(folder)) return;
  fs.chmodSync(folder, 0o700);
  for (const entry of fs.readdirSync(folder, { withFileTypes: true, recursive: true }))
    if (!entry.isSymbolicLink()) fs.chmodSync(path.join(entry.parentPath, entry.name), entry.isDirectory() ? 0o700 : 0o600);
}

/** Where file systems are mounted. */
export function mountPoints(): Raw[] {
  try {
    return [...new Set(mounts().map(({ point }) => point))];
  } catch {
    return ["/" as Raw];
  }
}

/** Where the system itself lies, or nothing that lasts. */
const systemMounts = /^\/(proc|sys|dev|run(?!\/media\/)|boot|snap|etc|usr|var|tmp|opt|nix)?(\/|$)/;

/** A drive that is there: where it is mounted, and the UUID of its file system where it has one. */
export interface MountedDrive {
  point: Raw;
  uuid: string | null;
}

/** The drives that are mounted, of this computer or reached over a network; none that no longer answers. None is touched. */
export function mountedDrives(): MountedDrive[] {
  try {
    const isDrive = ({ point, source }: Mount) => !systemMounts.test(point) && /^\/dev\/|:|^\/\//.test(source);
    const byPoint = new Map(mounts().flatMap((mount) => (isDrive(mount) ? [[mount.point, mount.source] as const] : [])));
    return [...byPoint].flatMap(([point, source]) => (answers(point) ? [{ point, uuid: uuidOf(source) }] : []));
  } catch {
    return [];
  }
}

/** Where folders of drives are to be found. */
export const drivePoints = (): Raw[] =>
  mountedDrives().flatMap(({ point }) => (fs.statSync(bytes(point), { throwIfNoEntry: false })?.isDirectory() ? [point] : []));

const byUuid = "/dev/disk/by-uuid";

/** What the system calls the file system on a device, by the links that udev(7) keeps. */
function uuidOf(source: string): string | null {
  try {
    const device = fs.realpathSync(source);
    return fs.readdirSync(byUuid).find((uuid) => fs.realpathSync(path.join(byUuid, uuid)) === device) ?? null;
  } catch {
    return null;
  }
}

/** The device a path lies on, following links; undefined where there is nothing. */
export function deviceOf(place: Raw): bigint | undefined {
  if (!answers(place)) return undefined;
  try {
    return fs.statSync(bytes(place), { bigint: true }).dev;
  } catch {
    return undefined;
  }
}

/** Free bytes on the file system of a folder, for this user. */
export function capacityOf(folder: Raw): { free?: number; total?: number } {
  if (!answers(folder)) return {};
  try {
    const stat = fs.statfsSync(bytes(folder));
    return { free: stat.bavail * stat.bsize, total: stat.blocks * stat.bsize };
  } catch {
    return {};
  }
}

/**
 * Whether a group is the person's alone (group(5), passwd(5)): many systems make one for each user, and let it write. Where
 * that cannot be told it is not.
 */
export function groupIsOwn(gid: number): boolean {
  const rows = (file: string) =>
    fs
      .readFileSync(file, "utf8")
      .split("\n")
      .map((line) => line.split(":"));
  try {
    const own = String(process.geteuid?.());
    const users = rows("/etc/passwd");
    const name = users.find(([, , uid]) => uid === own)?.[0];
    const isPrimaryOfOthers = users.some(([, , uid, primary]) => primary === String(gid) && uid !== own);
    const group = rows("/etc/group").find(([, , id]) => id === String(gid));
    const members = group?.[3]?.split(",").filter((member) => member !== "" && member !== name) ?? [];
    return name !== undefined && group !== undefined && !isPrimaryOfOthers && members.length === 0;
  } catch {
    return false;
  }
}
