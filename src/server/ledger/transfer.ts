import type { Identity, Json } from "@/core/ledger/shapes";
import { folderOf, nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem, type ProblemCode } from "@/core/problem";
import { sameState } from "../disk/disk";
import { useOf } from "../disk/in-use";
import type { Located } from "../disk/statx";
import { watchedIn } from "../disk/tree";
import { movedTo } from "./relocate";
import type { StepContext } from "./step-kind";

/** What moving across file systems leaves for settling: the inodes of the copy, known before it takes its name, and of the original. */
type Crossing = { from: Raw; to: Raw; copyIno: string; ino?: string };

export interface TransferOptions {
  item?: string;
  /** Also while a program has it open; what it writes meanwhile is no other thing. */
  evenInUse?: true;
}

/**
 * Throws unless the very thing that was seen lies at `path` in the state that was seen, and nothing has it in use. Of an
 * item also the state will do in which the ledger itself put it there. Answers its identity.
 */
export function expectThing(
  path: Raw,
  identity: Identity,
  context: StepContext,
  { item, evenInUse }: TransferOptions = {},
): Located {
  const now = context.disk.identity(path);
  const refuse = (code: ProblemCode, detail?: string) => new Problem(code, { name: shownName(nameOf(path)), detail });
  if (!now) throw refuse("vanished");
  if (now.type === "special") throw refuse("special-file");
  // What is worked on just now has mostly changed as well: that it is in use says why.
  const use = evenInUse ? undefined : useOf(context.disk, path, context.inUse, now);
  if (use) throw refuse("in-use", use);
  if (!sameState(now, identity)) {
    const moved = movedTo(item, path, context);
    const goesOn = evenInUse && now.ino === identity.ino && now.type === identity.type;
    if (!goesOn && !(moved && sameState(now, moved))) throw refuse("changed");
  }
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
export async function transfer(
  from: Raw,
  to: Raw,
  expected: Identity,
  context: StepContext,
  options: TransferOptions = {},
): Promise<Located> {
  const { disk } = context;
  const identity = expectThing(from, expected, context, options);
  try {
    disk.rename(from, to);
  } catch (error) {
    if (!(error instanceof Problem && error.code === "cannot-cross")) throw error;
    const use = options.evenInUse && useOf(disk, from, context.inUse, identity);
    if (use) throw new Problem("in-use", { name: shownName(nameOf(from)), detail: use });
    return cross(from, to, expected, identity, context, options.item);
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

/**
 * The copy is made and read back outside the turn. Back in it the original is looked at again, all of it and its times of
 * change of state; the copy takes the name, the original is put aside, and goes entry by entry, each only in the state in
 * which it was copied.
 */
async function cross(
  from: Raw,
  to: Raw,
  expected: Identity,
  { ino }: Located,
  context: StepContext,
  item?: string,
): Promise<Located> {
  const { disk } = context;
  const copy = context.temporary("copy", folderOf(to));
  const changed = () => new Problem("changed", { name: shownName(nameOf(from)), detail: "while it was copied" });
  try {
    const { identity, state } = await context.apart("copyThing", { from, to: copy });
    context.made("copy", identity.ino);
    if (expectThing(from, expected, context, { item }).ino !== ino) throw changed();
    if ((await context.carry("state", { path: from, watched: watchedIn(state) })) !== state) throw changed();
    context.keep({ from, to, copyIno: identity.ino, ino } satisfies Crossing);
    disk.rename(copy, to);
    disk.syncFolder(folderOf(to));
    await takeOriginal(from, ino, context);
    context.changed(folderOf(from));
    return identity;
  } catch (error) {
    await context.clear();
    throw error;
  }
}

/** Puts the original of a proven copy aside and takes it away; what was worked on in this moment gets its name back. */
async function takeOriginal(from: Raw, ino: string, context: StepContext): Promise<void> {
  const { disk } = context;
  const aside = context.temporary("aside", folderOf(from));
  context.made("aside", ino);
  disk.rename(from, aside);
  try {
    if (disk.identity(aside)?.ino !== ino)
      throw new Problem("changed", { name: shownName(nameOf(from)), detail: "another thing took its name" });
    await context.carry("removeCopied", { from, path: aside });
  } catch (error) {
    if (disk.identity(aside)) disk.rename(aside, from);
    throw error;
  }
}

/** A folder that has become a link holds nothing of ours, and is not entered. */
async function reached<T>(work: () => T | Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Problem && (error.code === "link-on-the-way" || error.code === "folder-gone")) return undefined;
    throw error;
  }
}

/**
 * After a crash: on which side a transferred thing lies. Finishes what was half done: a second name of the same file is
 * taken away, a copy without a name too, and an original whose proven copy has its name.
 */
export async function settleTransfer(
  from: Raw,
  to: Raw,
  ino: string,
  note: Json,
  context: StepContext,
  item?: string,
): Promise<"from" | "to" | "neither"> {
  const { disk } = context;
  const crossing = asCrossing(note, from, to);
  const look = (path: Raw) => reached(() => disk.identity(path));
  const target = await look(to);
  const aside = context.known("aside");
  const putAside = aside?.ino !== undefined && (await look(aside.path))?.ino === aside.ino ? aside.path : undefined;
  const changed = () => {
    context.changed(folderOf(from));
    context.changed(folderOf(to));
  };
  if (crossing && target?.ino === crossing.copyIno) {
    // Before an original goes, its copy's name is durable; and one that was worked on since does not go.
    disk.syncFolder(folderOf(to));
    changed();
    const source = await look(from);
    const original = putAside ?? (source?.ino === crossing.ino ? from : undefined);
    if (!original || (await context.carry("removeRest", { path: original, copy: to }))) return "to";
    if (putAside && !source) disk.rename(putAside, from);
    return "from";
  }
  if (putAside && !(await look(from))) disk.rename(putAside, from);
  await reached(() => context.clear());
  const source = await look(from);
  const moved = movedTo(item, from, context)?.ino;
  if (target && (target.ino === ino || target.ino === moved)) {
    // Linked, and not yet unlinked: where renaming without replacing is unknown.
    if (source?.ino === target.ino && source.type === "file" && target.type === "file") disk.unlink(from);
    changed();
    return "to";
  }
  return source ? "from" : "neither";
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
