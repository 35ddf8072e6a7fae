import type { ParcelRestoreInput } from "@/contract/depots";
import type { FolderRef } from "@/contract/folders";
import type { ReportJson } from "@/contract/items";
import type { ParcelThingJson } from "@/contract/parcel";
import { rawFromJson } from "@/contract/raw-json";
import type { ParcelRef, TreeEntry } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { shownPlace } from "@/core/ledger/step-type";
import type { CopyStep } from "@/core/ledger/steps/copy";
import type { MakeFolderStep } from "@/core/ledger/steps/make-folder";
import { freeName } from "@/core/names/free-name";
import { folderOf, isName, isWithin, joinRaw, nameOf, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { realFolder } from "../disk/around";
import { knownPlace } from "../elsewhere";
import type { Engine, Reading } from "../engine";
import { folderMeant } from "../folders";
import { homeRoots } from "../homes/homes";
import { breathing } from "../jobs/gentle";
import { namedFolder } from "../named-folder";
import { newItemId } from "../survey/items";
import { expectOwn } from "./add";
import { layOf } from "./address";
import { isDamaged, lastCheck, noteDamage } from "./checks";
import { bagOf, isAsSent, type Parcel, parcelMeant, thingsIn } from "./depots";
import { whileRead } from "./in-hand";

/**
 * Brings everything in a parcel back, and the parcel stays: to where it lay, under a free name where the old one is taken, or
 * into one new folder. A parcel that is not, byte for byte by its tag manifest, the one that was sent may be a stranger's:
 * it only goes into a new folder. What can be run is asked about first.
 */
export async function restoreParcel(engine: Engine, input: ParcelRestoreInput): Promise<ReportJson> {
  const parcel = await parcelMeant(engine, input.parcel);
  return whileRead(engine, parcel, () => restoreNow(engine, parcel, input));
}

async function restoreNow(engine: Engine, parcel: Parcel, input: ParcelRestoreInput): Promise<ReportJson> {
  const restore = (read: ReadParcel) =>
    perform(engine, `Restoring “${parcel.title}”`, () => planRestore(engine, parcel, input, read), {
      trial: input.dryRun,
      bytes: 2 * (parcel.bytes ?? 0),
    });
  const read = await engine.jobs.run(`Reading the list of “${parcel.title}”`, "things", 0, () =>
    readParcel(engine, parcel, input),
  );
  const report = await restore(read);
  // What was not known to be damaged before: all else of these things comes back without it.
  const worse = input.dryRun ? undefined : await foundDamaged(engine, parcel, read, report);
  if (!worse) return report;
  const { read: rest, names } = worse;
  // Into the folder that was made for the others.
  const more = rest.things.length > 0 ? await restore({ ...rest, goesOn: report.done > 0 }) : undefined;
  return {
    ...report,
    entry: more?.entry ?? report.entry,
    done: report.done + (more?.done ?? 0),
    words: report.done > 0 || !more ? report.words : more.words,
    refused: [
      ...report.refused.filter(({ name }) => !names.has(name)),
      ...(more?.refused ?? saidOfDamaged(engine, parcel, rest)),
    ],
  };
}

/** What a parcel holds, as it was read once: this and nothing else is what is restored. */
interface ReadParcel {
  ref: ParcelRef;
  /** The things that are wanted, without the files that are known to be damaged. */
  things: ParcelThingJson[];
  /** Names that are not in it. */
  missing: string[];
  /** Files of these things that are damaged in the parcel, by their path there, and as they are called. */
  damaged: { path: string; name: string }[];
  /** It is the one that was sent from here. */
  asSent: boolean;
  /** The rest of what was begun: the new folder is there. */
  goesOn?: boolean;
}

async function readParcel(engine: Engine, parcel: Parcel, { names }: ParcelRestoreInput): Promise<ReadParcel> {
  const bag = await bagOf(engine, parcel);
  expectOwn(engine, bag.depot.address);
  const ref: ParcelRef = { depot: bag.depot.id, lay: layOf(bag.depot.address), name: bag.folder };
  const asSent = await isAsSent(bag, parcel);
  const { things, missing } = await thingsIn(engine, bag, names);
  const check = parcel.id ? lastCheck(engine.db, parcel.id) : undefined;
  return withoutDamaged({ ref, things, missing, damaged: [], asSent }, (path) => check !== undefined && isDamaged(check, path));
}

/** The same without files that are damaged. */
function withoutDamaged(read: ReadParcel, isBad: (path: string) => boolean): ReadParcel {
  const damaged: ReadParcel["damaged"] = [];
  const things = read.things.flatMap((thing): ParcelThingJson[] => {
    const name = shownName(rawFromJson(thing.name));
    const entries = thing.entries.filter(({ payload, rel }) => {
      if (payload === undefined || !isBad(payload)) return true;
      const inside = shownName(rawFromJson(rel));
      damaged.push({ path: payload, name: inside === "" ? name : `${name}/${inside}` });
      return false;
    });
    return entries.length === 0 ? [] : [{ ...thing, entries }];
  });
  return { ...read, things, damaged: [...read.damaged, ...damaged] };
}

/** Where things were refused as files of them are not what was sent: which these are, written down, and those things without them. */
async function foundDamaged(
  engine: Engine,
  parcel: Parcel,
  read: ReadParcel,
  report: ReportJson,
): Promise<{ read: ReadParcel; names: ReadonlySet<string> } | undefined> {
  const refused = new Set(
    report.refused.filter(({ code }) => code === "sent-differs" || code === "vanished").map(({ name }) => name),
  );
  const things = read.things.filter(({ name }) => refused.has(shownName(rawFromJson(name))));
  if (things.length === 0) return undefined;
  const bad = new Set<string>();
  await engine.jobs.run(`Looking for what of “${parcel.title}” is whole`, "bytes", 0, async (job) => {
    const link = engine.carrier();
    try {
      const bag = await bagOf(engine, parcel);
      const files = things.flatMap(({ entries }) =>
        entries.flatMap(({ payload, sha256, bytes }) => (payload && sha256 ? [{ path: payload, sha256, bytes }] : [])),
      );
      await link.carry(
        "prove",
        { parcel: { depot: bag.depot.address, folder: bag.folder }, files },
        {
          signal: job.signal,
          breath: () => job.breath(),
          step: (n) => job.step(n),
          told: (file) => void ("problem" in file && bad.add(file.path)),
        },
      );
    } finally {
      await link.end();
    }
  });
  if (bad.size === 0) return undefined;
  if (parcel.id) noteDamage(engine.db, parcel.id, engine.now(), bad);
  engine.events.emit({ type: "changed", what: "parcels" });
  return {
    read: withoutDamaged({ ...read, things, missing: [], damaged: [] }, (path) => bad.has(path)),
    names: new Set(things.map(({ name }) => shownName(rawFromJson(name)))),
  };
}

async function planRestore(engine: Engine, parcel: Parcel, input: ParcelRestoreInput, read: ReadParcel): Promise<Plan> {
  const { account, disk } = engine;
  const { ref, things, missing, damaged } = read;
  const into =
    input.into === undefined ? undefined : read.goesOn ? folderMeant(account, input.into) : newFolder(engine, input.into);
  if (into === undefined && !read.asSent) throw new Problem("parcel-stranger", { place: parcel.title });
  const programs = things.flatMap(programsIn);
  if (programs.length > 0 && !input.programs && !input.dryRun)
    throw new Problem("asks-programs", { place: parcel.title, detail: listed(engine, programs) });

  const reachable = [...account.worktops.map((w) => w.folder), ...homeRoots(engine)];
  const made = new Set<Raw>();
  const taken = new Set<Raw>();
  const steps: Step[] = into === undefined || read.goesOn ? [] : [{ type: "make-folder", folder: into, named: true }];
  const left: Plan["left"] = [
    ...missing.map((name) => ({ name, ...said(new Problem("not-in-parcel", { name, place: parcel.title })) })),
    ...saidOfDamaged(engine, parcel, read),
  ];
  for (const thing of things) {
    const wanted = rawFromJson(thing.name);
    if (!isName(wanted))
      throw new Problem("parcel-damaged", { place: parcel.title, detail: `${shownName(wanted)} cannot be a name` });
    const folder = into ?? rawFromJson(thing.folder);
    if (into === undefined && !reachable.some((root) => isWithin(root, folder))) {
      left.push({ name: shownName(wanted), ...said(new Problem("out-of-bounds", { name: shownName(joinRaw(folder, wanted)) })) });
      continue;
    }
    if (into === undefined) steps.push(...missingFolders(engine, folder, made));
    const name = freeName(wanted, (n) => taken.has(joinRaw(folder, n)) || disk.stat(joinRaw(folder, n)) !== undefined);
    const to = joinRaw(folder, name);
    taken.add(to);
    const item = newItemId();
    steps.push({ type: "copy", item, to, parcel: ref, tree: await treeOf(thing, parcel.title, read.asSent) } satisfies CopyStep);
    if (thing.position && into === undefined) steps.push({ type: "place", item, from: null, to: thing.position });
  }
  return {
    act: "parcel-restore",
    words: (done) => {
      const copies = done.filter((step) => step.type === "copy");
      const what = copies.length === 1 ? shownName(nameOf(copies[0]!.to)) : engine.words().counted(copies.length, "thing");
      const where = into === undefined ? "" : `, into ${shownPlace(into, account.root)}`;
      const without = damaged.length === 0 ? "" : `, without ${engine.words().counted(damaged.length, "damaged file")}`;
      return `Brought ${what} back from the parcel “${parcel.title}”${where}${without}`;
    },
    steps,
    left,
  };
}

/** What is said of files that are damaged, with where their content still lies. */
const saidOfDamaged = (engine: Engine, parcel: Parcel, { damaged }: ReadParcel): Plan["left"] =>
  damaged.map(({ path, name }) => {
    const place = parcel.id ? knownPlace(engine, parcel.id, path) : undefined;
    return { name, ...said(new Problem("file-damaged", { name, place: parcel.title, detail: place })) };
  });

const said = ({ code, message }: Problem) => ({ code, why: message });

/** The folder that the person names for what is restored: one that is not there yet, in one that is. */
function newFolder(engine: Engine, ref: FolderRef): Raw {
  const folder = namedFolder(engine, folderMeant(engine.account, ref));
  if (engine.disk.stat(folder))
    throw new Problem("name-taken", { name: shownName(nameOf(folder)), place: shownName(folderOf(folder)) });
  if (!realFolder(folderOf(folder))) throw new Problem("folder-gone", { place: shownName(folderOf(folder)) });
  return folder;
}

/** The files of a thing that can be run, and the launchers, which run others. */
function programsIn(thing: ParcelThingJson): string[] {
  const name = shownName(rawFromJson(thing.name));
  return thing.entries.flatMap((entry) => {
    const runs = (entry.mode & 0o111) !== 0;
    // Of very many files hardly one is a program: those whose name says as much are not taken apart.
    if (entry.type !== "file" || (!runs && typeof entry.rel === "string" && /[^p]$/i.test(entry.rel))) return [];
    const rel = shownName(rawFromJson(entry.rel));
    const isLauncher = /\.desktop$/i.test(rel === "" ? name : rel);
    return runs || isLauncher ? [rel === "" ? name : `${name}/${rel}`] : [];
  });
}

const mostNamed = 3;

function listed(engine: Reading, names: string[]): string {
  const rest = names.length - mostNamed;
  const first = names.slice(0, mostNamed).join(", ");
  return rest > 0 ? `${first} and ${engine.words().counted(rest, "more", "more")}` : first;
}

function missingFolders(engine: Engine, folder: Raw, made: Set<Raw>): MakeFolderStep[] {
  if (folder === "/" || made.has(folder) || engine.disk.stat(folder)) return [];
  const above = missingFolders(engine, folderOf(folder), made);
  made.add(folder);
  return [...above, { type: "make-folder", folder }];
}

/**
 * A thing's entries as they are to be written; a list that names anything outside its own tree is refused. What is in a stranger's
 * parcel gives nobody else a right to change it.
 */
export async function treeOf(thing: Pick<ParcelThingJson, "entries">, title: string, asSent = true): Promise<TreeEntry[]> {
  const wrong = (detail: string) => new Problem("parcel-damaged", { place: title, detail });
  const inside = (path: string) => path.split("/").every((part) => isName(part as Raw));
  const breath = breathing();
  const tree: TreeEntry[] = [];
  for (const [n, entry] of thing.entries.entries()) {
    const pause = breath();
    if (pause) await pause;
    const rel = rawFromJson(entry.rel);
    if (n === 0 ? rel !== "" : !inside(rel)) throw wrong(`${shownName(rel)} is no place in it`);
    if (entry.type === "file" && (!entry.payload || !entry.sha256 || !inside(rawFromText(entry.payload))))
      throw wrong(`${shownName(rel)} has no payload`);
    tree.push({
      rel,
      type: entry.type,
      // Never the right to run as somebody else, nor what the system itself keeps on a file.
      mode: entry.mode & (asSent ? 0o777 : 0o755),
      mtimeNs: entry.mtimeNs,
      bytes: entry.bytes,
      sha256: entry.sha256,
      payload: entry.payload,
      target: entry.target === undefined ? undefined : rawFromJson(entry.target),
      xattrs: entry.xattrs
        ?.map(([key, value]): [Raw, Raw] => [rawFromJson(key), rawFromJson(value)])
        .filter(([key]) => key.startsWith("user.")),
    });
  }
  return tree;
}
