import type { BackupAnswer, BackupInput } from "@/contract/settings";
import { copies, copyOfDay, forgetOldCopies } from "../db/backup";
import type { Engine } from "../engine";
import { dayOf } from "../survey/figures-of-day";

/** Writes a copy of what cannot be made anew of Vuoto's record to a file. */
export async function backup(engine: Engine, { file }: BackupInput): Promise<BackupAnswer> {
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
