import { pino } from "pino";
import { watchFolders } from "./disk/watching";
import { theEngine, writeDataFile } from "./engine";

const log = pino({ name: "vuoto" });

/**
 * What a server does beside answering: writes the key file for commands, looks at the account once, and again when
 * something on a worktop changes. Where the account cannot be opened every answer says why.
 */
export async function startServing(): Promise<void> {
  let engine: Awaited<ReturnType<typeof theEngine>>;
  try {
    engine = await theEngine();
  } catch (error) {
    log.error(error instanceof Error ? error.message : String(error));
    return;
  }
  writeDataFile(
    engine.account,
    "server.json",
    JSON.stringify({ port: Number(process.env.VUOTO_PORT), key: process.env.VUOTO_KEY }),
  );
  // Ends by itself, open streams or not: running jobs are cancelled between two steps, and acts come to their end.
  const end = async () => {
    for (const job of engine.jobs.list()) engine.jobs.cancel(job.id);
    await engine.close();
    process.exit(0);
  };
  process.once("SIGTERM", () => void end());
  process.once("SIGINT", () => void end());

  const lookAgain = (what?: "all") =>
    engine.lookAgain(what).catch((error: unknown) => log.error(error instanceof Error ? error.message : String(error)));
  void lookAgain("all");

  let soon: NodeJS.Timeout | undefined;
  const changed = () => {
    clearTimeout(soon);
    soon = setTimeout(() => void lookAgain(), 250);
  };
  watchFolders(
    engine.account.worktops.map((worktop) => worktop.folder),
    changed,
    (error) => log.warn(error.message),
  );
}
