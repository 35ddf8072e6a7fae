import { createHash } from "node:crypto";
import type { Identity } from "@/core/ledger/shapes";
import { readTrashInfo } from "@/core/ledger/trash-info";
import { joinRaw, nameOf, normalRaw, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { asProblem, type Problem } from "@/core/problem";
import { identityOf } from "../disk/disk";
import type { Engine } from "../engine";
import { itemAt } from "../survey/items";
import { isOwnTrash } from "./own-trash";
import { filesPath, infoPath } from "./steps/trash";

/** A thing in the trash, put there by Vuoto or by another program. */
export interface Trashed {
  id: string;
  trash: Raw;
  name: Raw;
  /** Where it lay; undefined where its info file is missing or damaged. */
  original?: Raw;
  label: string;
  deletedAt?: number;
  info: string;
  /** Why its info file cannot be read just now; then it is not known where it lay. */
  unreadable?: Problem;
  identity: Identity;
  item?: string;
}

const mostInfoBytes = 65_536;

/** The id holds the thing's state: what is asked about one that changed meanwhile finds none. */
function idOf(trash: Raw, name: Raw, { ino, bytes, mtimeNs }: Identity): string {
  return createHash("sha256")
    .update(`${trash}\0${name}\0${ino}\0${bytes}\0${mtimeNs}`, "latin1")
    .digest("base64url")
    .slice(0, 20);
}

/** The trash folders that there are: the account's own, and those of other mounts. */
export function trashes(engine: Engine): { trash: Raw; top?: Raw }[] {
  const uid = String(process.getuid?.() ?? 0);
  const others = engine.account.otherTrashes.map((trash) => ({
    trash,
    top: trash.slice(0, trash.endsWith(`/.Trash/${uid}`) ? -`/.Trash/${uid}`.length : -`/.Trash-${uid}`.length) as Raw,
  }));
  const isMine = ({ trash }: { trash: Raw }) => trash !== engine.account.trash && isOwnTrash(engine.disk, trash);
  return [{ trash: engine.account.trash }, ...others.filter(isMine)];
}

/** What lies in the trash, the latest first. Damaged info files are survived: the thing is listed under its name there. */
export function trashList(engine: Engine): Trashed[] {
  const { disk } = engine;
  const found: Trashed[] = [];
  for (const { trash, top } of trashes(engine)) {
    let entries: ReturnType<typeof disk.list>;
    try {
      entries = disk.list(joinRaw(trash, "files"));
    } catch {
      continue;
    }
    for (const { name } of entries ?? []) {
      const stat = disk.stat(filesPath(trash, name));
      if (!stat) continue;
      const { content, unreadable } = readInfo(engine, trash, name);
      const identity = identityOf(stat);
      const info = content === undefined ? undefined : readTrashInfo(content);
      const original = info && placeOf(info.path, top);
      const deletedAt = info?.deletionDate ? Date.parse(info.deletionDate) : Number.NaN;
      found.push({
        id: idOf(trash, name, identity),
        trash,
        name,
        original,
        label: shownName(original ? nameOf(original) : name),
        deletedAt: Number.isNaN(deletedAt) ? undefined : deletedAt,
        info: content ?? "",
        unreadable,
        identity,
        item: itemAt(engine.db, filesPath(trash, name))?.id,
      });
    }
  }
  return found.sort((a, b) => (b.deletedAt ?? 0) - (a.deletedAt ?? 0) || (a.label < b.label ? -1 : 1));
}

/** The paths of another mount's trash are relative to its top folder. */
function placeOf(path: Raw, top?: Raw): Raw | undefined {
  if (path.startsWith("/")) return normalRaw(path);
  return top === undefined ? undefined : normalRaw(joinRaw(top, path));
}

/** The info file as a byte string, as the step writes back exactly these bytes; or why it cannot be read just now. */
function readInfo(engine: Engine, trash: Raw, name: Raw): { content?: string; unreadable?: Problem } {
  try {
    const content = engine.disk.readSmall(infoPath(trash, name), mostInfoBytes);
    return { content: content && rawFromBytes(content) };
  } catch (error) {
    return { unreadable: asProblem(error) };
  }
}
