import type { MakeFolderStep } from "@/core/ledger/steps/make-folder";
import type { TrashStep } from "@/core/ledger/steps/trash";
import { deletionDate, trashInfo } from "@/core/ledger/trash-info";
import { freeName } from "@/core/names/free-name";
import { folderOf, joinRaw, type Raw } from "@/core/names/raw";
import { deviceOf } from "../disk/around";
import type { Engine } from "../engine";
import type { Item } from "../survey/items";
import { isOwnTrash } from "./own-trash";
import { filesPath, infoPath } from "./steps/trash";

/** The trash for things on one file system, and the folder to which its info files' paths are relative, if they are. */
interface TrashPlace {
  trash: Raw;
  top?: Raw;
}

/**
 * Which trash a thing goes to (Trash specification 1.0): the account's own for its file system; on another mount
 * `.Trash/$uid` where `.Trash` is sticky and no link, else `.Trash-$uid`.
 */
function trashFor(engine: Engine, path: Raw): TrashPlace {
  const { account, disk } = engine;
  const device = deviceOf(folderOf(path));
  const near = (folder: Raw): bigint | undefined =>
    folder === "/" ? deviceOf(folder) : (deviceOf(folder) ?? near(folderOf(folder)));
  if (device === undefined || near(account.trash) === device) return { trash: account.trash };
  let top = folderOf(path);
  while (top !== "/" && deviceOf(folderOf(top)) === device) top = folderOf(top);
  const uid = String(process.getuid?.() ?? 0);
  const shared = disk.stat(joinRaw(top, ".Trash"));
  const inShared = joinRaw(top, ".Trash", uid);
  // One of that name which is somebody else's is passed over.
  const isFree = !disk.stat(inShared) || isOwnTrash(disk, inShared);
  if (shared?.isDirectory() && (shared.mode & 0o1000n) !== 0n && isFree) return { trash: inShared, top };
  return { trash: joinRaw(top, `.Trash-${uid}`), top };
}

/** Steps that let things go: trash folders made where missing, a free name for each thing, its info file's text. */
export function trashSteps(engine: Engine, items: Item[], sentBy?: number): (MakeFolderStep | TrashStep)[] {
  const { disk } = engine;
  const at = engine.now();
  const date = deletionDate(at, new Date(at).getTimezoneOffset());
  const folders: MakeFolderStep[] = [];
  const made = new Set<Raw>();
  const ensure = (folder: Raw) => {
    if (made.has(folder) || folder === "/" || disk.stat(folder)) return;
    ensure(folderOf(folder));
    made.add(folder);
    folders.push({ type: "make-folder", folder, mode: 0o700, shared: true });
  };
  const planned = new Set<Raw>();
  const steps: TrashStep[] = [];
  for (const item of items) {
    const { trash, top } = trashFor(engine, item.path);
    ensure(joinRaw(trash, "files"));
    ensure(joinRaw(trash, "info"));
    // The info file's ending must fit the name too.
    const wanted = item.name.length > 240 ? (item.name.slice(0, 240) as Raw) : item.name;
    const name = freeName(
      wanted,
      (n) =>
        planned.has(joinRaw(trash, n)) || n.length > 245 || !!disk.stat(filesPath(trash, n)) || !!disk.stat(infoPath(trash, n)),
    );
    planned.add(joinRaw(trash, name));
    const path = top === undefined ? item.path : (item.path.slice(top === "/" ? 1 : top.length + 1) as Raw);
    steps.push({
      type: "trash",
      item: item.id,
      from: item.path,
      trash,
      name,
      info: trashInfo(path, date),
      identity: item.identity,
      sentBy,
    });
  }
  return [...folders, ...steps];
}
