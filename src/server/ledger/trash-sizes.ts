import { readTrashSizes, type TrashSize, writeTrashSizes } from "@/core/ledger/trash-sizes";
import { folderOf, joinRaw, type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";
import { Problem, unlessProblem } from "@/core/problem";
import { bytes } from "../disk/disk";
import { errorCode } from "../disk/disk-problem";
import { removeMade } from "../disk/tree";
import type { Engine } from "../engine";
import { gentle } from "../jobs/gentle";
import { filesPath, infoPath } from "./steps/trash";
import { Temporaries } from "./temporaries";
import { trashes } from "./trash-list";

const sizesName = rawFromText("directorysizes");

/**
 * Brings the sizes of the folders in the trash up to date, which other programs read instead of counting (Trash
 * specification 1.0, "The directorysizes file"). What is known and still right is kept. A trash that cannot be written has
 * none: they only save time.
 */
export async function refreshTrashSizes(engine: Engine): Promise<void> {
  const temporaries = new Temporaries(engine.db);
  for (const [n, { trash }] of trashes(engine).entries()) {
    const left = temporaries.of(0, n, "copy");
    if (left && folderOf(left.path) === trash) await removeMade(engine.disk, left.path, left.ino).catch(ofNoConsequence);
    const names = unlessProblem(() => engine.disk.list(joinRaw(trash, "files")));
    if (!names) continue;
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
        const counted = await roomOf(engine, filesPath(trash, name));
        if (counted !== undefined) sizes.push({ name, bytes: counted, infoSeconds });
      }
    }
    const after = writeTrashSizes(sizes.sort((a, b) => (a.name < b.name ? -1 : 1)));
    if (after !== (before ? rawFromBytes(before) : ""))
      unlessProblem(() => replace(engine, trash, temporaries.make(0, n, "copy", trash), after));
  }
}

/** Counted on a thread of its own. */
async function roomOf(engine: Engine, path: Raw): Promise<number | undefined> {
  const link = engine.carrier();
  try {
    return await link.carry("room", { path }, { ...gentle(), signal: engine.ending }).catch((error: unknown) => {
      if (error instanceof Problem || errorCode(error) !== undefined) return undefined;
      throw error;
    });
  } finally {
    await link.end();
  }
}

/** Sizes only save time: what cannot be cleared up now is so at the next look. */
function ofNoConsequence(error: unknown): void {
  if (!(error instanceof Problem)) throw error;
}

/** Written whole under another name first, so that a reader never meets half of it. */
function replace(engine: Engine, trash: Raw, temporary: Raw, text: string): void {
  const { disk } = engine;
  disk.createSmall(temporary, bytes(text as Raw), 0o600);
  try {
    if (disk.stat(joinRaw(trash, sizesName))) disk.writing(temporary, (inside, name) => inside.exchange(name, sizesName));
    else disk.rename(temporary, joinRaw(trash, sizesName));
  } finally {
    if (disk.identity(temporary)) disk.unlink(temporary);
  }
  if (text === "") disk.unlink(joinRaw(trash, sizesName));
}
