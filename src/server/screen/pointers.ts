import { joinRaw, normalRaw, type Raw } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { isDesktopEntry, leadsInto, markFiles, marksIn, namesOneOf, type Pointers, pathOfUri } from "@/core/screen/pointers";
import type { Engine } from "../engine";
import { itemsOn } from "../survey/items";

/** So many shortcuts are read, so large ones at most. */
const mostShortcuts = 5000;
const mostBytes = 64 * 1024;

/** What leads by its path to a thing on the desktop, and will not find it where that is tucked away. */
export function pointersToDesktop(engine: Engine): Pointers {
  const { disk, account, db } = engine;
  const desktop = account.worktops.find(({ id }) => id === "desktop");
  if (!desktop) return { links: 0, shortcuts: 0, marks: 0 };
  const { folder } = desktop;
  const names = new Set(itemsOn(db, "desktop").map(({ name }) => name));
  const items = account.worktops.flatMap(({ id }) => itemsOn(db, id));
  const read = (path: Raw) => unlessProblem(() => disk.readSmall(path, mostBytes))?.toString("latin1") as Raw | undefined;
  const links = items.filter((item) => {
    const target = item.identity.type === "link" ? unlessProblem(() => disk.target(item.path)) : undefined;
    return (
      target !== undefined && leadsInto(normalRaw(target.startsWith("/") ? target : joinRaw(item.folder, target)), folder, names)
    );
  }).length;
  const programs = unlessProblem(() => disk.list(account.launchers)) ?? [];
  const entries = [
    ...items.flatMap(({ path, identity }) => (identity.type === "file" ? [path] : [])),
    ...programs.map(({ name }) => joinRaw(account.launchers, name)),
  ].filter(isDesktopEntry);
  const shortcuts = entries.slice(0, mostShortcuts).filter((path) => namesOneOf(read(path) ?? ("" as Raw), folder, names)).length;
  const marks = markFiles
    .flatMap((file) => marksIn(read(joinRaw(account.root, file)) ?? ("" as Raw)))
    .filter((uri) => {
      const path = pathOfUri(uri);
      return path !== undefined && leadsInto(path, folder, names);
    }).length;
  return { links, shortcuts, marks };
}
