import { type FiledThing, type Fit, rank } from "@/core/homes/belongs";
import type { Thing } from "@/core/homes/traits";
import type { Step } from "@/core/ledger/step";
import { folderOf, joinRaw, rawFromBytes, shownName } from "@/core/names/raw";
import type { Kind } from "@/core/survey/kinds";
import type { Belonging, Engine, Reading } from "../engine";
import { type Item, itemById } from "../survey/items";
import { finerItems } from "./areas";
import { homeId, homes } from "./homes";

export const nothingLearned = (): Belonging => ({
  learned: { homes: [], counts: new Map(), total: 0, calibration: [] },
  undone: new Map(),
  fits: new Map(),
});

/** Learned from at most so many files of one home, the newest, and of all homes. */
const mostOfHome = 400;
const mostOfAll = 20_000;

/** What was undone counts at once, also where learning anew waits. */
export const belongingAfterUndo = (engine: Engine): Belonging => ({
  ...engine.belonging,
  undone: undoneHomes(putAwayAndUndone(engine)),
  fits: new Map(),
});

function undoneHomes(undone: { item: Item; home: string }[]): Belonging["undone"] {
  const byItem: Belonging["undone"] = new Map();
  for (const { item, home } of undone) byItem.set(item.id, (byItem.get(item.id) ?? new Set()).add(home));
  return byItem;
}

/** Reads what has no words yet, and learns from what lies in the homes and from what was undone. Throws "cancelled". */
export async function learnBelonging(engine: Engine): Promise<Belonging> {
  const { files: filed, titles } = await whatIsLearnedFrom(engine);
  const undone = putAwayAndUndone(engine);
  const files = [...filed, ...undone.map(({ item, home }): FiledThing => ({ ...asThing(item), home, against: true }))];
  const learned = await engine.jobs.run("Learning what belongs in the homes", "things", files.length, (job) => {
    const part = ({ done, of }: { done: number; of: number }) => job.progress(done, of);
    return engine.workers.run("learnHomes", { files, titles }, { part, signal: job.signal });
  });
  return { learned, undone: undoneHomes(undone), fits: new Map() };
}

/** The files that lie in the homes, those that only wait there aside, with the words in them, and the homes' titles by id. */
export async function whatIsLearnedFrom(engine: Engine): Promise<{ files: FiledThing[]; titles: Map<string, string> }> {
  await readUnread(engine);
  return { files: filedThings(engine), titles: new Map(homes(engine).map((home) => [home.id, home.title])) };
}

/** The newest of each home, as many as are learned from. */
const chosenFiles = `
  SELECT * FROM (
    SELECT filed.folder, folder.key, folder.place, filed.name, filed.kind, filed.mtime_ns, filed.words, filed.sender,
      row_number() OVER (PARTITION BY filed.folder ORDER BY filed.mtime_ns DESC) AS place_in_home
    FROM filed JOIN folder ON folder.id = filed.folder WHERE folder.home = 1
  ) WHERE place_in_home <= ${mostOfHome} ORDER BY place_in_home LIMIT ${mostOfAll}`;

interface Chosen {
  folder: number;
  key: string;
  place: Buffer;
  name: Buffer;
  kind: Kind;
  mtime_ns: string;
  words: string | null;
  sender: string | null;
}

async function readUnread(engine: Engine): Promise<void> {
  const byFolder = new Map<number, { place: Buffer; names: Buffer[] }>();
  let unread = 0;
  for (const row of engine.db.prepare<[], Chosen>(chosenFiles).all()) {
    if (row.words !== null) continue;
    unread++;
    const of = byFolder.get(row.folder);
    if (of) of.names.push(row.name);
    else byFolder.set(row.folder, { place: row.place, names: [row.name] });
  }
  if (unread === 0) return;
  const folders = [...byFolder];
  await engine.jobs.run("Reading words in the homes", "things", unread, async (job) => {
    const found = await engine.workers.run(
      "readWords",
      folders.map(([, { place, names }]) => ({ folder: rawFromBytes(place), names: names.map(rawFromBytes) })),
      { part: job.more, signal: job.signal },
    );
    if (job.signal.aborted) return;
    const save = engine.db.prepare("UPDATE filed SET words = ?, sender = ? WHERE folder = ? AND name = ?");
    engine.db.transaction(() => {
      for (const [n, [folder, { names }]] of folders.entries())
        for (const [k, name] of names.entries()) save.run(found[n]![k]!.words, found[n]![k]!.sender, folder, name);
    })();
  });
}

function filedThings(engine: Engine): FiledThing[] {
  // What went only to an area says nothing of where it belongs.
  const waiting = new Set([...finerItems(engine).values()].flat().map((item) => item.path));
  return engine.db
    .prepare<[], Chosen>(chosenFiles)
    .all()
    .filter((row) => waiting.size === 0 || !waiting.has(joinRaw(rawFromBytes(row.place), rawFromBytes(row.name))))
    .map((row) => ({
      home: row.key,
      name: shownName(rawFromBytes(row.name)),
      kind: row.kind,
      mtimeMs: Number(BigInt(row.mtime_ns) / 1_000_000n),
      words: row.words ? row.words.split(" ") : undefined,
      sender: row.sender ?? undefined,
    }));
}

export const asThing = (item: Item): Thing => ({
  name: item.label,
  kind: item.kind,
  mtimeMs: item.mtimeMs,
  words: item.facts.words,
  sender: item.facts.sender,
});

/** To undo more than this at once says that the person thought better of all of it, and nothing of a single thing. */
const fewEnoughToTell = 5;

/** What was put into a home by itself or with a few others, brought back by an undo, and lies on a worktop still. */
function putAwayAndUndone(engine: Reading): { item: Item; home: string }[] {
  const plans = engine.db
    .prepare<[number], string>(
      `SELECT plan FROM (
         SELECT step.plan, count(*) OVER (PARTITION BY step.entry) AS together FROM step JOIN entry ON entry.id = step.entry
         WHERE entry.state = 'undone' AND entry.act IN ('put', 'sweep') AND step.state = 'undone'
           AND json_extract(step.plan, '$.type') = 'move' ORDER BY entry.id DESC
       ) WHERE together <= ? LIMIT 2000`,
    )
    .pluck()
    .all(fewEnoughToTell);
  const put = engine.db
    .prepare<[string], Buffer>("SELECT folder FROM item WHERE id = ? AND worktop IS NOT NULL AND seen = 1")
    .pluck();
  return plans.flatMap((plan) => {
    const step = JSON.parse(plan) as Step;
    if (step.type !== "move" || !step.item || !put.get(step.item)) return [];
    return [{ item: itemById(engine.db, step.item)!, home: homeId(folderOf(step.to)) }];
  });
}

/** The homes that fit an item, best first. */
export function fitsOf(belonging: Belonging, item: Item): Fit[] {
  const key = `${item.id}:${item.label}:${item.kind}:${item.identity.mtimeNs}`;
  const known = belonging.fits.get(key);
  if (known) return known;
  const not = belonging.undone.get(item.id);
  const fits = rank(asThing(item), belonging.learned).filter(({ home }) => !not?.has(home));
  belonging.fits.set(key, fits);
  return fits;
}
