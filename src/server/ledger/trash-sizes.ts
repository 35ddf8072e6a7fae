import { readTrashSizes, type TrashSize, writeTrashSizes } from "@/core/ledger/trash-sizes";
import { joinRaw, type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { bytes, type Folder } from "../disk/disk";
import { removeTemporary } from "../disk/tree";
import type { Engine } from "../engine";
import { filesPath, infoPath } from "./steps/trash";
import { trashes } from "./trash-list";

const sizesName = rawFromText("directorysizes");
const temporaryName = rawFromText(".vuoto-sizes.part");
/** Entries between two moments at which other work has its turn. */
const atOnce = 500;

/**
 * Brings the sizes of the folders in the trash up to date, which other programs read instead of counting (Trash
 * specification 1.0, "The directorysizes file"). What is known and still right is kept. A trash that cannot be written has
 * none: they only save time.
 */
export async function refreshTrashSizes(engine: Engine): Promise<void> {
  for (const { trash } of trashes(engine)) {
    const names = unlessProblem(() => engine.disk.list(joinRaw(trash, "files")));
    if (!names) continue;
    unlessProblem(() => removeTemporary(engine.disk, joinRaw(trash, temporaryName)));
    const file = joinRaw(trash, sizesName);
    const before = unlessProblem(() => engine.disk.readSmall(file));
    const known = readTrashSizes(before ? rawFromBytes(before) : "");
    const sizes: TrashSize[] = [];
    for (const { name, type } of names) {
      const info = type === "folder" ? unlessProblem(() => engine.disk.stat(infoPath(trash, name))) : undefined;
      if (!info) continue;
      const infoSeconds = Number(info.mtimeNs / 1_000_000_000n);
      const size = known.get(name);
      if (size?.infoSeconds === infoSeconds) sizes.push(size);
      else {
        const counted = await diskUse(engine, filesPath(trash, name));
        if (counted !== undefined) sizes.push({ name, bytes: counted, infoSeconds });
      }
    }
    const after = writeTrashSizes(sizes.sort((a, b) => (a.name < b.name ? -1 : 1)));
    if (after !== (before ? rawFromBytes(before) : "")) unlessProblem(() => replace(engine, trash, after));
  }
}

/** Bytes of the blocks that a folder and all in it take; undefined where it cannot be counted. */
async function diskUse(engine: Engine, path: Raw): Promise<number | undefined> {
  const waiting = [path];
  let blocks = 0n;
  let since = 0;
  for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
    const folder = next;
    blocks += unlessProblem(() => engine.disk.stat(folder))?.blocks ?? 0n;
    const counted = unlessProblem(() =>
      engine.disk.inFolder(folder, (inside: Folder) => {
        for (const { name, type } of inside.list()) {
          since++;
          if (type === "folder") waiting.push(joinRaw(folder, name));
          else blocks += inside.stat(name)?.blocks ?? 0n;
        }
        return true;
      }),
    );
    if (!counted) return undefined;
    if (since < atOnce) continue;
    since = 0;
    await new Promise((turn) => setImmediate(turn));
  }
  return Number(blocks * 512n);
}

/** Written whole under another name first, so that a reader never meets half of it. */
function replace(engine: Engine, trash: Raw, text: string): void {
  const { disk } = engine;
  const temporary = joinRaw(trash, temporaryName);
  disk.createSmall(temporary, bytes(text as Raw), 0o600);
  try {
    if (disk.stat(joinRaw(trash, sizesName))) disk.writing(temporary, (inside) => inside.exchange(temporaryName, sizesName));
    else disk.rename(temporary, joinRaw(trash, sizesName));
  } finally {
    removeTemporary(disk, temporary);
  }
  if (text === "") disk.unlink(joinRaw(trash, sizesName));
}
