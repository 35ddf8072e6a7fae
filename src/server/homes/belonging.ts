import type { FiledThing, Fit } from "@/core/homes/belongs";
import type { Thing } from "@/core/homes/traits";
import type { Step } from "@/core/ledger/step";
import { folderOf } from "@/core/names/raw";
import { writeLazily } from "../db/db";
import type { Belonging, Engine, Reading } from "../engine";
import { filedThings } from "../jobs/work/filed-things";
import type { AskedThing } from "../jobs/work/learn-homes";
import type { ReadingWords } from "../jobs/work/read-words";
import { type Item, itemById, thingsOn } from "../survey/items";
import { isGrowing } from "../survey/refresh";
import { finerItems } from "./areas";
import { homeId, homes } from "./homes";

export const nothingLearned = (): Belonging => ({ total: 0, undone: new Map(), fits: new Map() });

/** What was undone counts at once, also where learning anew waits. */
export const belongingAfterUndo = (engine: Engine): Belonging => ({
  ...engine.belonging,
  undone: undoneHomes(putAwayAndUndone(engine)),
});

function undoneHomes(undone: { item: Item; home: string }[]): Belonging["undone"] {
  const byItem: Belonging["undone"] = new Map();
  for (const { item, home } of undone) byItem.set(item.id, (byItem.get(item.id) ?? new Set()).add(home));
  return byItem;
}

/** Reads what has no words yet, and learns from what lies in the homes and from what was undone. Throws "cancelled". */
export async function learnBelonging(engine: Engine): Promise<Belonging> {
  await readUnread(engine);
  const undone = putAwayAndUndone(engine);
  const from = {
    account: accountOf(engine),
    record: engine.db.name,
    waiting: waitingIn(engine),
    against: undone.map(({ item, home }): FiledThing => ({ ...asThing(item), home, against: true })),
    titles: titlesOf(engine),
  };
  const items = lyingThere(engine);
  const things = items.map((item) => ({ thing: asThing(item) }));
  const { total, fits } = await engine.jobs.run("Learning what belongs in the homes", "things", 0, (job) => {
    const part = ({ done, of }: { done: number; of: number }) => job.progress(done, of);
    return engine.workers.run("learnHomes", { ...from, things }, { part, signal: job.signal });
  });
  return { total, undone: undoneHomes(undone), fits: new Map(items.map((item, n) => [item.id, ranked(item, fits[n]!)])) };
}

const accountOf = ({ account }: Reading) => account.data;
const lyingThere = ({ account, db }: Reading) => account.worktops.flatMap((worktop) => thingsOn(db, worktop.id));
const calledOf = ({ label, kind }: Item) => `${kind} ${label}`;
/** What a ranking rests on, and what came of it. */
const ranked = (item: Item, fits: Fit[]) => ({ of: calledOf(item), mtimeNs: item.identity.mtimeNs, fits });

/** Looks for the homes of what has come, or changed, since the learning. */
export async function rankNew(engine: Engine): Promise<void> {
  if (!(await rankInto(engine, lyingThere(engine)))) return;
  engine.events.emit({ type: "changed", what: "homes" });
}

/** Looks for the homes of those of these things that have none yet. Answers whether there were any. */
export async function rankInto(engine: Engine, items: readonly Item[]): Promise<boolean> {
  const { belonging } = engine;
  const fresh = belonging.total === 0 ? [] : items.filter((item) => !isRanked(engine, item));
  if (fresh.length === 0) return false;
  const fits = await rankAmong(engine, fresh);
  for (const [n, item] of fresh.entries()) belonging.fits.set(item.id, ranked(item, fits[n]!));
  return true;
}

/** Whether its homes were looked for as it is now; one that grows is not looked at again before it rests. */
function isRanked(engine: Engine, item: Item): boolean {
  const known = engine.belonging.fits.get(item.id);
  if (known?.of !== calledOf(item)) return false;
  return known.mtimeNs === item.identity.mtimeNs || isGrowing(engine, item.id);
}

/** The homes of each thing by what was learned, on the thread that learned it; of some homes only, where these are named. */
export async function rankAmong(engine: Engine, items: Item[], options: Omit<AskedThing, "thing"> = {}): Promise<Fit[][]> {
  const things = items.map((item) => ({ thing: asThing(item), ...options }));
  const fits = await engine.workers.run("rankThings", { account: accountOf(engine), things });
  return fits ?? items.map(() => []);
}

/** The files that lie in the homes, those that only wait there aside, with the words in them, and the homes' titles by id. */
export async function whatIsLearnedFrom(engine: Engine): Promise<{ files: FiledThing[]; titles: Map<string, string> }> {
  await readUnread(engine);
  return { files: filedThings(engine.db, waitingIn(engine)), titles: titlesOf(engine) };
}

const titlesOf = (engine: Reading) => new Map(homes(engine).map((home) => [home.id, home.title]));
const waitingIn = (engine: Engine) => new Set([...finerItems(engine).values()].flat().map((item) => item.path));

async function readUnread(engine: Engine): Promise<void> {
  const save = engine.db.prepare("UPDATE filed SET words = ?, sender = ? WHERE id = ?");
  await engine.jobs.run("Reading words in the homes", "things", 0, async (job) => {
    let read = 0;
    const part = (told: ReadingWords) => {
      if ("of" in told) return job.progress(0, told.of);
      writeLazily(engine.db, () => {
        for (const [id, words, sender] of told.read) save.run(words, sender, id);
      });
      read += told.read.length;
      job.progress(read);
    };
    await engine.workers.run(
      "readWords",
      { record: engine.db.name },
      { part: part as (part: never) => void, signal: job.signal },
    );
  });
}

const asThing = (item: Item): Thing => ({
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
         SELECT step.plan, count(*) OVER (PARTITION BY step.entry) AS together
         FROM step JOIN step_state USING (entry, n) JOIN entry ON entry.id = step.entry
         WHERE entry.state = 'undone' AND entry.act IN ('put', 'sweep') AND step_state.state = 'undone'
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

/** The homes that fit an item, best first; none before they were looked for. */
export function fitsOf(belonging: Belonging, item: Item): Fit[] {
  const known = belonging.fits.get(item.id);
  // Saved anew, it has the homes that it had until they are looked for again.
  const fits = known?.of === calledOf(item) ? known.fits : [];
  const not = belonging.undone.get(item.id);
  return not ? fits.filter(({ home }) => !not.has(home)) : fits;
}
