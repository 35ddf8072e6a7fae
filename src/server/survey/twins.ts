import { writeLazily } from "../db/db";
import type { Engine } from "../engine";
import { breathing } from "../jobs/gentle";
import type { FindingTwins } from "../jobs/work/find-twins";
import { stateOf } from "../jobs/work/read-worktop";
import { type Item, itemsOn } from "./items";
import { protectedPlaces } from "./protection";

/** Groups of files that were compared, by size, path and state, since this start. */
const compared = new WeakMap<Engine, Map<number, string>>();
/** What was there at the last look: while it is the same, nothing has come that could be identical. */
const lastSeen = new WeakMap<Engine, string>();

const savedAtOnce = 200;
/** Of what lies in folders on the worktops smaller files are not compared: there is little to win. */
const leastInside = 64 * 1024;

/**
 * Computes the SHA-256 of every file that can be identical with another: of those on the worktops, in the homes and in
 * protected places that share their size, then their first and last bytes, then all bytes with another of these. The others
 * are read no further than that.
 */
export async function hashLikelyTwins(engine: Engine): Promise<void> {
  const { db, account } = engine;
  const done = compared.get(engine) ?? new Map<number, string>();
  compared.set(engine, done);
  const items = account.worktops.flatMap((w) => itemsOn(db, w.id)).filter(({ identity }) => identity.type === "file");
  const places = protectedPlaces(engine);
  const seen = JSON.stringify([engine.walked, places, items.map((item) => [item.id, stateOf(item.identity), item.sha256])]);
  if (lastSeen.get(engine) === seen) return;
  const asked = {
    record: db.name,
    things: items.map(({ path, identity, sha256 }) => ({
      path,
      bytes: identity.bytes,
      state: stateOf(identity),
      sha256: sha256 ?? null,
    })),
    inFolders: account.worktops.map((worktop) => worktop.folder),
    // To say what exists nowhere else every file counts, however small.
    leastInFolders: places.length > 0 ? 1 : leastInside,
    done,
  };
  await engine.jobs.run("Comparing files of one size", "bytes", 0, async (job) => {
    const part = (told: FindingTwins) => (typeof told === "number" ? job.more(told) : job.progress(0, told.of));
    const found = await engine.workers.run("findTwins", asked, { part: part as (part: never) => void, signal: job.signal });
    if (job.signal.aborted) return;
    for (const [bytes, state] of found.done) done.set(bytes, state);
    const breath = breathing();
    const byPath = new Map(items.map((item) => [item.path, item]));
    const saveThing = db.prepare("UPDATE item SET sha256 = ? WHERE id = ? AND ino = ? AND bytes = ? AND mtime_ns = ?");
    const saveFiled = db.prepare("UPDATE filed SET sha256 = ? WHERE id = ?");
    const save = async <T>(rows: T[], one: (row: T) => void) => {
      for (let at = 0; at < rows.length; at += savedAtOnce) {
        writeLazily(db, () => {
          for (const row of rows.slice(at, at + savedAtOnce)) one(row);
        });
        const pause = breath();
        if (pause) await pause;
      }
    };
    await save(found.things, ([path, sum]) => {
      const { id, identity } = byPath.get(path) as Item;
      saveThing.run(sum, id, identity.ino, identity.bytes, identity.mtimeNs);
    });
    await save(found.filed, ([id, sum]) => saveFiled.run(sum, id));
    if (found.filed.length > 0) engine.walked++;
    lastSeen.set(engine, seen);
    if (found.things.length + found.filed.length > 0) engine.events.emit({ type: "changed", what: "items" });
  });
}
