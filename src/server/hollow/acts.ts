import { randomUUID } from "node:crypto";
import type { HollowInput, MakeHollowInput, OpenHollowInput, SeenHollowInput } from "@/contract/hollow";
import type { ReportJson } from "@/contract/items";
import { type BlanksMeasured, bestBlanks, blankName, isBlankName } from "@/core/hollow/blanks";
import { clearPicture, type Hollow, isHiddenName, metadataFile, metadataText, pictureFile } from "@/core/hollow/hollow";
import type { Json } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { freeName } from "@/core/names/free-name";
import { folderOf, isName, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { fromAccount } from "../account";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import { itemAt } from "../survey/items";
import { type HollowNow, hollowMeant, hollowThere, listHollows, wrongWith } from "./hollows";
import { blanksMeasured } from "./measured";

const keyOf = (id: string) => `hollow:${id}`;
const remembered = (hollow: Hollow): Json => ({ ...hollow }) as unknown as Json;

async function acted(
  engine: Engine,
  doing: string,
  makePlan: (measured: BlanksMeasured | undefined) => Plan,
  trial?: boolean,
): Promise<ReportJson> {
  const measured = await blanksMeasured(engine);
  const report = await perform(engine, doing, () => makePlan(measured), { trial });
  if (!trial) await listHollows(engine);
  return report;
}

const called = (note: string) => (note === "" ? "" : ` “${note}”`);

/** Makes a folder on the desktop whose name and picture are drawn as nothing. */
export function makeHollow(engine: Engine, input: MakeHollowInput): Promise<ReportJson> {
  return acted(engine, "Making a hollow", (measured) => planMake(engine, input, measured), input.dryRun);
}

/** A name for a hollow in a folder: of blanks, or with a dot in front. @throws Problem "name-taken", "bad-name" */
function undrawnName(
  { disk, account }: Engine,
  folder: Raw,
  { hidden, called: title }: { hidden?: true; called: string },
  measured: BlanksMeasured | undefined,
): Raw {
  const isTaken = (one: Raw) => disk.stat(joinRaw(folder, one)) !== undefined;
  if (hidden) {
    const name = rawFromText(`.${title || "hollow"}`);
    if (!isName(name)) throw new Problem("bad-name", { name: title });
    return freeName(name, isTaken);
  }
  const name = blankName(isTaken, bestBlanks(measured));
  if (!name) throw new Problem("name-taken", { name: "Every blank name", place: fromAccount(account, shownName(folder)) });
  return name;
}

function planMake(engine: Engine, { x, y, note = "", hidden }: MakeHollowInput, measured: BlanksMeasured | undefined): Plan {
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop");
  if (!desktop) throw new Problem("no-desktop");
  const folder = joinRaw(desktop.folder, undrawnName(engine, desktop.folder, { hidden, called: note }, measured));
  const id = randomUUID();
  const hollow: Hollow = { folder, x: x ?? null, y: y ?? null, note, ...(hidden && { hidden }), at: engine.now(), seen: null };
  return {
    act: "hollow",
    words: () => `Made a hollow${called(note)} on the desktop`,
    steps: [
      { type: "make-folder", folder },
      { type: "write", file: joinRaw(folder, metadataFile), before: null, after: { content: metadataText(id) } },
      { type: "write", file: joinRaw(folder, pictureFile), before: null, after: { content: clearPicture } },
      { type: "set", key: keyOf(id), from: null, to: remembered(hollow) },
    ],
    left: [],
  };
}

/** Puts a file of a hollow in order: the one that is meant, or none. */
function fileStep(engine: Engine, file: Raw, content: Raw | null): Step[] {
  const before = engine.disk.readFile(file);
  if ((before?.content ?? null) === content) return [];
  return [{ type: "write", file, before, after: content === null ? null : { ...before, content } }];
}

/** Gives a folder another name where it lies. */
function renamed(engine: Engine, path: Raw, name: Raw): Step {
  const identity = engine.disk.identity(path);
  if (!identity) throw new Problem("vanished", { name: shownName(nameOf(path)) });
  const { type, ino, bytes, mtimeNs } = identity;
  const item = itemAt(engine.db, path)?.id;
  return { type: "move", item, from: path, to: joinRaw(folderOf(path), name), identity: { type, ino, bytes, mtimeNs } };
}

/** Makes a hollow undrawn again, where it lies now. */
export function repairHollow(engine: Engine, input: HollowInput): Promise<ReportJson> {
  return acted(
    engine,
    "Repairing a hollow",
    (measured) => planRepair(engine, hollowThere(engine, input.hollow), measured),
    input.dryRun,
  );
}

function planRepair(engine: Engine, hollow: HollowNow & { path: Raw }, measured: BlanksMeasured | undefined): Plan {
  const { id, path, number, ...kept } = hollow;
  const wrong = wrongWith(engine, hollow, measured);
  const { hidden } = kept;
  const name = wrong.name
    ? undrawnName(engine, folderOf(path), { hidden, called: shownName(nameOf(path)) }, measured)
    : nameOf(path);
  const steps: Step[] = [
    ...fileStep(engine, joinRaw(path, metadataFile), metadataText(id)),
    ...fileStep(engine, joinRaw(path, pictureFile), clearPicture),
    ...(wrong.name ? [renamed(engine, path, name)] : []),
  ];
  const folder = joinRaw(folderOf(path), name);
  if (folder !== kept.folder || kept.seen !== null)
    steps.push({
      type: "set",
      key: keyOf(id),
      from: readRecord<Json>(engine.db, keyOf(id)),
      to: remembered({ ...kept, folder, seen: null }),
    });
  return {
    act: "hollow",
    words: () => `The hollow${called(kept.note)} is ${hidden ? "hidden" : "drawn as nothing"} again`,
    steps,
    left: [],
  };
}

/** Makes an ordinary folder of a hollow: with a name, and without what made it undrawn. */
export function openHollow(engine: Engine, input: OpenHollowInput): Promise<ReportJson> {
  return acted(engine, "Making a folder of a hollow", () => planOpen(engine, input), input.dryRun);
}

function planOpen(engine: Engine, input: OpenHollowInput): Plan {
  const wanted = rawFromText(input.name);
  if (!isName(wanted) || isBlankName(wanted) || isHiddenName(wanted)) throw new Problem("bad-name", { name: input.name });
  const { id, note, path } = hollowMeant(engine, input.hollow);
  const forget: Step = { type: "set", key: keyOf(id), from: readRecord<Json>(engine.db, keyOf(id)), to: null };
  // What is not found is at least no longer on the list.
  if (path === undefined)
    return {
      act: "hollow",
      words: () => `Took the hollow${called(note)} off the list: it was not found`,
      steps: [forget],
      left: [],
    };
  const { disk } = engine;
  const name = freeName(wanted, (one) => disk.stat(joinRaw(folderOf(path), one)) !== undefined);
  const ours = (file: Raw, content: Raw) => (disk.readFile(file)?.content === content ? fileStep(engine, file, null) : []);
  return {
    act: "hollow",
    words: () => `Made an ordinary folder of the hollow${called(note)}: ${shownName(name)}`,
    steps: [
      ...ours(joinRaw(path, metadataFile), metadataText(id)),
      ...ours(joinRaw(path, pictureFile), clearPicture),
      renamed(engine, path, name),
      forget,
    ],
    left: [],
  };
}

/** Keeps what the person saw in its place. */
export function seenHollow(engine: Engine, input: SeenHollowInput): Promise<ReportJson> {
  return acted(
    engine,
    "Keeping what was seen",
    () => {
      const { id, note } = hollowMeant(engine, input.hollow);
      const from = readRecord<Hollow>(engine.db, keyOf(id))!;
      const to = remembered({ ...from, seen: input.seen });
      const words = () => `At the place of the hollow${called(note)} you see ${input.seen}`;
      return { act: "hollow", words, steps: [{ type: "set", key: keyOf(id), from: remembered(from), to }], left: [] };
    },
    input.dryRun,
  );
}
