import type { Identity, Json } from "@/core/ledger/shapes";
import type { Proof, TrashStep } from "@/core/ledger/steps/trash";
import { folderOf, joinRaw, nameOf, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Packed } from "../../depots/packed";
import { bytes, sameState } from "../../disk/disk";
import type { Located } from "../../disk/statx";
import { watchedIn } from "../../disk/tree";
import { isOwnTrash } from "../own-trash";
import { movedTo, relocate } from "../relocate";
import type { StepContext, StepKind } from "../step-kind";
import { expectThing, identityAfter, identityNote, settleTransfer, transfer } from "../transfer";

interface InTrash {
  item?: string;
  trash: Raw;
  name: Raw;
  info: string;
}

export const filesPath = (trash: Raw, name: Raw) => joinRaw(trash, "files", name);
export const infoPath = (trash: Raw, name: Raw) => joinRaw(trash, "info", `${name}.trashinfo`);

/** The trash's folders were taken away, when the act that made them was undone or by hand, since a step counted on them. */
function makeFolderAgain(folder: Raw, context: StepContext): void {
  if (context.disk.deviceOf(folder) !== undefined) return;
  makeFolderAgain(folderOf(folder), context);
  context.disk.makeFolder(folder, 0o700);
  context.changed(folderOf(folder));
}

/** The info file first and exclusively, then the thing itself (Trash specification 1.0, "Trash directories"). */
async function putIn(from: Raw, place: InTrash, identity: Identity, context: StepContext): Promise<Located> {
  const { disk } = context;
  const info = infoPath(place.trash, place.name);
  for (const folder of [folderOf(info), joinRaw(place.trash, "files")]) makeFolderAgain(folder, context);
  expectOwnTrash(place.trash, context);
  try {
    disk.createSmall(info, bytes(place.info as Raw), 0o600);
  } catch (error) {
    // Somebody else's info file of that name, perhaps still empty, is not ours to clear up.
    if (error instanceof Problem && error.code === "name-taken") error.untouched = true;
    throw error;
  }
  context.wrote(folderOf(info));
  context.changed(folderOf(info));
  try {
    return await transfer(from, filesPath(place.trash, place.name), identity, context, { item: place.item });
  } catch (error) {
    disk.unlink(info);
    throw error;
  }
}

/** The thing first, then its info file: in between it is back and merely still listed. */
async function takeOut(place: InTrash, to: Raw, identity: Identity, context: StepContext): Promise<Located> {
  const arrived = await transfer(filesPath(place.trash, place.name), to, identity, context, { item: place.item });
  removeInfo(place, context);
  return arrived;
}

/** Takes the info file away if it is this one, whole or torn; another program's is left. */
function removeInfo(place: InTrash, context: StepContext): void {
  const path = infoPath(place.trash, place.name);
  const found = context.disk.readSmall(path);
  if (found === undefined) return;
  const text = rawFromBytes(found);
  if (text === place.info || place.info.startsWith(text)) {
    context.disk.unlink(path);
    context.changed(folderOf(path));
  }
}

/** The info file is made whole again where a crash or a lost disk cache tore it. */
function mendInfo(place: InTrash, context: StepContext): void {
  const path = infoPath(place.trash, place.name);
  const found = context.disk.readSmall(path);
  if (found !== undefined && rawFromBytes(found) === place.info) return;
  if (found !== undefined && !place.info.startsWith(rawFromBytes(found))) return;
  if (found !== undefined) context.disk.unlink(path);
  context.disk.createSmall(path, bytes(place.info as Raw), 0o600);
  context.wrote(folderOf(path));
  context.changed(folderOf(path));
}

/** Where the thing is after a crash, with the info file to match. `original` is its place outside the trash. */
async function settleInTrash(
  place: InTrash,
  original: Raw,
  identity: Identity,
  note: Json,
  context: StepContext,
  goingIn: boolean,
): Promise<"in" | "out" | "gone"> {
  const files = filesPath(place.trash, place.name);
  const [from, to] = goingIn ? [original, files] : [files, original];
  const side = await settleTransfer(from, to, identity.ino, note, context, place.item);
  const there = context.disk.identity(files)?.ino;
  const known = there !== undefined && (there === identity.ino || there === movedTo(place.item, files, context)?.ino);
  const isIn = goingIn ? side === "to" : side !== "to" && known;
  if (isIn) mendInfo(place, context);
  else if (!context.disk.stat(files)) removeInfo(place, context);
  if (isIn) return "in";
  return side === "neither" || (!goingIn && side === "from") ? "gone" : "out";
}

/** Of a thing that was sent: throws unless its copy was proven and it is still what was copied. */
async function expectProof(step: TrashStep, context: StepContext): Promise<void> {
  if (step.sentBy === undefined) return;
  const note = context.noteOf(step.sentBy) as unknown as Packed | null;
  const name = shownName(nameOf(step.from));
  const failed = note?.failed[step.item ?? ""];
  if (failed) throw new Problem(failed.code, failed.facts);
  const proven = note?.proven[step.item ?? ""];
  if (proven === undefined) throw new Problem("not-verified", { name });
  const now = await context.carry("state", { path: step.from, watched: watchedIn(proven) });
  if (now !== proven) throw new Problem("changed", { name, detail: "after it was copied" });
}

/** In another mount's trash only what this user alone may change is safe (Trash specification 1.0, "Trash directories"). */
function expectOwnTrash(trash: Raw, context: StepContext): void {
  if (trash !== context.account.trash && !isOwnTrash(context.disk, trash))
    throw new Problem("trash-foreign", { place: shownName(trash) });
}

/** A proof is looked at anew outside the turn; then what it rests on must still lie there, in the same state. */
async function proveAgain(from: Raw, proof: Proof, context: StepContext): Promise<void> {
  const restsOn = proof.kind === "twins" ? proof.other : proof.kind === "spent archive" ? proof.folder : undefined;
  const look = () => restsOn && context.disk.identity(restsOn);
  const before = look();
  await context.prove(from, proof);
  const after = look();
  if (restsOn && (!before || !after || !sameState(before, after)))
    throw new Problem("proof-gone", { name: shownName(nameOf(from)), detail: "what stays has changed meanwhile" });
}

/** Lets a thing go: into the trash, from which it comes back to its exact place. */
export const trash: StepKind<TrashStep> = {
  check(step, context) {
    expectThing(step.from, step.identity, context, { item: step.item });
  },
  async do(step, context) {
    await expectProof(step, context);
    if (step.proof) await proveAgain(step.from, step.proof, context);
    const identity = await putIn(step.from, step, step.identity, context);
    relocate(step.item, filesPath(step.trash, step.name), context, identity);
    return identityNote(identity, step.identity);
  },
  async undo(step, note, context) {
    if (!context.disk.stat(filesPath(step.trash, step.name)))
      throw new Problem("not-in-trash", { name: shownName(nameOf(step.from)) });
    const identity = await takeOut(step, step.from, identityAfter(note, step.identity), context);
    relocate(step.item, step.from, context, identity);
  },
  async settle(step, note, context, direction) {
    const side = await settleInTrash(step, step.from, identityAfter(note, step.identity), note, context, direction === "do");
    if (side === "gone") return "gone";
    relocate(step.item, side === "in" ? filesPath(step.trash, step.name) : step.from, context);
    return side === "in" ? "done" : "undone";
  },
};

export { mendInfo, putIn, removeInfo, settleInTrash, takeOut };
