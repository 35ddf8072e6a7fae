import type { BackupAnswer, BackupInput } from "@/contract/settings";
import { folderOf, joinRaw, nameOf, shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { copies, copyOfDay, forgetOldCopies } from "../db/backup";
import { realFolder } from "../disk/around";
import type { Engine } from "../engine";
import { folderMeant } from "../folders";
import { namedFolder } from "../named-folder";
import { dayOf } from "../survey/figures-of-day";

/** Writes a copy of what cannot be made anew of Vuoto's record to a new file, in a folder that may be named. */
export async function backup(engine: Engine, { file: typed }: BackupInput): Promise<BackupAnswer> {
  const asked = folderMeant(engine.account, typed);
  const folder = namedFolder(engine, folderOf(asked), { alone: true });
  if (!realFolder(folder)) throw new Problem("folder-gone", { place: shownName(folder) });
  const file = textOfRaw(joinRaw(folder, nameOf(asked)));
  if (file === undefined) throw new Problem("bad-name", { name: shownName(asked) });
  return { file, rows: await write(engine, file) };
}

function write(engine: Engine, file: string): Promise<number> {
  return engine.jobs.run("Copying Vuoto's record", "things", 0, (job) =>
    engine.workers.run("writeBackup", { record: engine.db.name, file, now: engine.now() }, { signal: job.signal }),
  );
}

/** Keeps a copy for each day on which something was done, seven of them. */
export async function keepDailyCopy(engine: Engine): Promise<void> {
  const { data } = engine.account;
  const today = copyOfDay(data, dayOf(engine.now()));
  if (copies(data)[0] === today) return;
  if (engine.db.prepare("SELECT 1 FROM entry LIMIT 1").get() === undefined) return;
  await write(engine, today);
  forgetOldCopies(data);
}
