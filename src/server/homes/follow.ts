import type { Json } from "@/core/ledger/shapes";
import { shownPlace } from "@/core/ledger/step-type";
import type { Raw } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { mayBeHome, worktopOf } from "../account";
import { onBehalfOf } from "../actor";
import { type HomeRecord, readRecords } from "../db/record";
import { realFolder } from "../disk/around";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { stateOf } from "../jobs/work/read-worktop";
import { namedFolder } from "../named-folder";
import { homeId } from "./homes";
import { whereHomeLies } from "./where";

/** Asked about at most this many of the files that lay in a home. */
const mostMarks = 500;

/**
 * Homes that the person named and that were renamed or moved outside Vuoto are looked for in the account by the files that lay
 * in them at the last walk, and followed. Those below the standard folders are simply found there again.
 */
export async function followMovedHomes(engine: Engine): Promise<void> {
  const { db, account } = engine;
  const lying = db.prepare<[Buffer, number], { ino: string; bytes: number; mtime_ns: string }>(
    "SELECT ino, bytes, mtime_ns FROM filed_at WHERE folder = ? LIMIT ?",
  );
  for (const [id, record] of readRecords<HomeRecord>(db, "home")) {
    const folder = whereHomeLies(engine, record.folder as Raw);
    if (realFolder(folder) === folder) continue;
    const marks = lying.all(bytes(folder), mostMarks).map((row) => stateOf({ ...row, mtimeNs: row.mtime_ns }));
    if (marks.length === 0) continue;
    const found = await engine.workers.run("findFolder", { marks, below: [account.root] });
    if (!found || !mayBeHome(account, found) || worktopOf(account, found)) continue;
    if (!unlessProblem(() => namedFolder(engine, found))) continue;
    const perform = () =>
      engine.ledger.perform(
        () => ({
          act: "home-moved",
          words: () => `Found the home ${shownPlace(folder, account.root)} again, as ${shownPlace(found, account.root)}`,
          steps: [
            { type: "set", key: `home:${id}`, from: record as unknown as Json, to: null },
            { type: "set", key: `home:${homeId(found)}`, from: null, to: { folder: found, at: record.at } },
          ],
          left: [],
        }),
        {},
      );
    // Nobody gave it.
    await onBehalfOf("timetable", perform);
  }
}
