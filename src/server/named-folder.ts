import os from "node:os";
import { folderOf, isWithin, joinRaw, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { dataOf } from "./account";
import { groupIsOwn, realFolder } from "./disk/around";
import type { Engine } from "./engine";
import { install } from "./install";

/**
 * The folder that the person names for a depot, a home, a protected place or what is restored, by its own path. What is put
 * there must not come to be run, or to be changed by somebody else. It need not exist yet: then the one that it would lie in
 * is looked at. `alone`: one file is put in it, so that what else lies below it does not matter.
 *
 * @throws Problem "place-unsuitable" where it, or one on the way to it, may not be named
 */
export function namedFolder(engine: Engine, asked: Raw, { alone = false } = {}): Raw {
  const folder = resolved(asked);
  const why = byPath(engine, folder, alone) ?? byOwners(engine, folder);
  if (why) throw new Problem("place-unsuitable", { place: shownName(folder), detail: why });
  return folder;
}

/** Without links on the way, as far as it exists. */
function resolved(folder: Raw): Raw {
  if (folder === "/") return folder;
  return realFolder(folder) ?? joinRaw(resolved(folderOf(folder)), folder.slice(folder.lastIndexOf("/") + 1));
}

function byPath({ account }: Engine, folder: Raw, alone: boolean): string | undefined {
  if (isWithin(account.root, folder) && folder.slice(account.root.length).includes("/."))
    return "a folder on the way to it begins with a dot, where programs keep what they run by";
  const programs = [
    ...(process.env.PATH ?? "").split(":").map(rawFromText),
    joinRaw(account.root, "bin"),
    ...["/usr", "/boot", "/etc", "/proc", "/sys"].map(rawFromText),
  ].flatMap((place) => (place.startsWith("/") ? [place, realFolder(place) ?? place] : []));
  const touches = (place: Raw) => isWithin(place, folder) || (!alone && isWithin(folder, place));
  if (touches(dataOf(account))) return "Vuoto's own record lies there";
  if (programs.some(touches)) return "it is, lies in, or holds a folder from which programs are run";
  const program = rawFromText(install());
  // The sample account lies in the folder of the program itself.
  if (touches(program) && !isWithin(joinRaw(program, "sample"), folder)) return "Vuoto itself lies there";
  if ([account.trash, ...account.otherTrashes].some(touches)) return "it is, lies in, or holds a trash";
  return undefined;
}

/** Each folder on the way is opened, and it is the opened one that is looked at. */
function byOwners({ disk }: Engine, folder: Raw): string | undefined {
  const own = process.geteuid?.() ?? os.userInfo().uid;
  const way: Raw[] = [];
  for (let at = folder; ; at = folderOf(at)) {
    way.unshift(at);
    if (at === "/") break;
  }
  for (const place of way) {
    const opened = disk.opened(place);
    // What does not exist yet is made by us, in the last one that does.
    if (!opened) return undefined;
    const { uid, mode, gid, listed } = opened;
    const named = shownName(place);
    if (uid !== own && uid !== 0) return `${named} belongs to another user`;
    if (mode & 0o1000) continue;
    const others = (mode & 0o002) !== 0 || ((mode & 0o020) !== 0 && (listed || !groupIsOwn(gid)));
    if (others) return `other users can change what lies in ${named}`;
  }
  return undefined;
}
