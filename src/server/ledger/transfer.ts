import type { Identity, Json, TreeEntry } from "@/core/ledger/step";
import { folderOf, joinRaw, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem, type ProblemCode } from "@/core/problem";
import { sameState } from "../disk/disk";
import { useOf } from "../disk/in-use";
import type { Located } from "../disk/statx";
import { copyTree, isUnchanged, removeTemporary, removeTree, scanTree, treeState, verifyTree } from "../disk/tree";
import { movedTo } from "./relocate";
import type { StepContext } from "./step-kind";

/** What moving across file systems leaves for settling: the copy's inode, known before it takes its name. */
type Crossing = { from: Raw; to: Raw; copyIno: string; tree: TreeEntry[]; identity: Identity };

/**
 * Throws unless the very thing that was seen lies at `path` in the state that was seen, and nothing has it in use. Of an
 * item also the state will do in which the ledger itself put it there. Answers its identity.
 */
export function expectThing(path: Raw, identity: Identity, context: StepContext, item?: string): Located {
  const now = context.disk.identity(path);
  const refuse = (code: ProblemCode, detail?: string) => new Problem(code, { name: shownName(nameOf(path)), detail });
  if (!now) throw refuse("vanished");
  if (now.type === "special") throw refuse("special-file");
  if (!sameState(now, identity)) {
    const moved = movedTo(item, path, context);
    if (!moved || !sameState(now, moved)) throw refuse("changed");
  }
  const use = useOf(context.disk, path, context.inUse, now);
  if (use) throw refuse("in-use", use);
  return now;
}

export function expectFree(path: Raw, context: StepContext): void {
  if (context.disk.identity(path))
    throw new Problem("name-taken", { name: shownName(nameOf(path)), place: shownName(nameOf(folderOf(path))) });
}

/**
 * Moves one thing to a free name, without ever replacing. On one file system a rename; what arrived is looked at and,
 * should it be another thing than was checked, given back. Across file systems a durable, verified copy takes the name
 * before the original goes. Answers the thing's identity at its new place.
 */
export async function transfer(from: Raw, to: Raw, expected: Identity, context: StepContext, item?: string): Promise<Located> {
  const { disk } = context;
  const identity = expectThing(from, expected, context, item);
  try {
    disk.rename(from, to);
  } catch (error) {
    if (!(error instanceof Problem && error.code === "cannot-cross")) throw error;
    return cross(from, to, context);
  }
  const arrived = disk.identity(to);
  if (!arrived || arrived.ino !== identity.ino || arrived.type !== identity.type) {
    disk.rename(to, from);
    throw new Problem("changed", { name: shownName(nameOf(from)), detail: "another thing took its name" });
  }
  context.changed(folderOf(from));
  context.changed(folderOf(to));
  return arrived;
}

async function cross(from: Raw, to: Raw, context: StepContext): Promise<Located> {
  const { disk, pace } = context;
  const temporary = joinRaw(folderOf(to), context.temporary);
  removeTemporary(disk, temporary);
  try {
    const before = treeState(disk, from);
    const tree = scanTree(disk, from);
    const sums = await copyTree(disk, tree, temporary, pace);
    await verifyTree(disk, temporary, sums, pace);
    disk.syncFolder(folderOf(to));
    if (treeState(disk, from) !== before)
      throw new Problem("changed", { name: shownName(nameOf(from)), detail: "while it was copied" });
    const identity = disk.identity(temporary);
    if (!identity) throw new Problem("vanished", { name: shownName(nameOf(from)) });
    context.keep({ from, to, copyIno: identity.ino, tree, identity } satisfies Crossing as unknown as Json);
    disk.rename(temporary, to);
    disk.syncFolder(folderOf(to));
    removeTree(disk, from, tree);
    context.changed(folderOf(from));
    return identity;
  } catch (error) {
    if (disk.identity(from)) removeTemporary(disk, temporary);
    throw error;
  }
}

/**
 * After a crash: on which side a transferred thing lies. Finishes what was half done: a second name of the same file is
 * taken away, a copy without a name too, and an original whose proven copy has its name.
 */
export function settleTransfer(
  from: Raw,
  to: Raw,
  ino: string,
  note: Json,
  context: StepContext,
  item?: string,
): "from" | "to" | "neither" {
  const { disk } = context;
  const crossing = asCrossing(note, from, to);
  // A folder that has become a link holds nothing of ours, and is not entered.
  const reached = <T>(work: () => T): T | undefined => {
    try {
      return work();
    } catch (error) {
      if (error instanceof Problem && error.code === "link-on-the-way") return undefined;
      throw error;
    }
  };
  for (const folder of [folderOf(to), folderOf(from)]) reached(() => removeTemporary(disk, joinRaw(folder, context.temporary)));
  const source = reached(() => disk.identity(from));
  const target = reached(() => disk.identity(to));
  if (crossing && target?.ino === crossing.copyIno) {
    // Before an original goes, its copy's name is durable; and one that was worked on since does not go.
    disk.syncFolder(folderOf(to));
    context.changed(folderOf(from));
    context.changed(folderOf(to));
    if (source && !removeRest(from, crossing.tree, context)) return "from";
    return "to";
  }
  if (target && (target.ino === ino || target.ino === movedTo(item, from, context)?.ino)) {
    // Linked, and not yet unlinked: where renaming without replacing is unknown.
    if (source?.ino === target.ino && source.type === "file" && target.type === "file") disk.unlink(from);
    context.changed(folderOf(from));
    context.changed(folderOf(to));
    return "to";
  }
  return source ? "from" : "neither";
}

/**
 * What is left of an original after its copy crossed: taken away where it is still what was copied. Where it was worked on
 * since, or something was added, it stays as it is beside the copy: twice there rather than once lost.
 */
function removeRest(from: Raw, tree: TreeEntry[], context: StepContext): boolean {
  const copied = new Map(tree.map((entry) => [entry.rel, entry]));
  const left = scanTree(context.disk, from).map((entry) => entry.rel);
  const rest = left.flatMap((rel) => copied.get(rel) ?? []);
  if (rest.length !== left.length || !isUnchanged(context.disk, from, rest)) return false;
  removeTree(context.disk, from, rest);
  return true;
}

function asCrossing(note: Json, from: Raw, to: Raw): Crossing | undefined {
  if (typeof note !== "object" || note === null || Array.isArray(note) || !("copyIno" in note)) return undefined;
  const crossing = note as unknown as Crossing;
  return crossing.from === from && crossing.to === to ? crossing : undefined;
}

/** What a step notes of a transfer: the identity at the new place, where it is another than was planned. */
export const identityNote = (identity: Identity, planned: Identity): Json =>
  sameState(identity, planned) ? null : ({ identity } as unknown as Json);

/** The identity under which a thing is known after a transfer, from the step's note. */
export function identityAfter(note: Json, planned: Identity): Identity {
  return typeof note === "object" && note !== null && !Array.isArray(note) && "identity" in note
    ? (note.identity as unknown as Identity)
    : planned;
}
