import { pino } from "pino";
import type { Stop } from "./clock";
import { writeDataFile } from "./data-file";
import { drives } from "./depots/drives";
import { findParcels } from "./depots/found";
import { checkInTurn } from "./depots/turns";
import { askMounts } from "./disk/mounts";
import { soonButNotLate, watchFolders } from "./disk/watching";
import type { Engine } from "./engine";
import { theEngine, whenOpened } from "./opening";
import { operate } from "./operations";
import { Standing } from "./quiet/standing";
import { keepDailyCopy } from "./settings/backup";
import { goOnGiving } from "./sitting/give";

const log = pino({ name: "vuoto" });
const say = (error: unknown) => log.error(error instanceof Error ? error.message : String(error));
/** What was under way when the account was closed has nothing to say. */
const sayOf = (engine: Engine) => (error: unknown) => {
  if (!engine.closing) say(error);
};

/**
 * What a server does beside answering, once its account is open. Where it cannot be opened every answer says why, and it is
 * tried again with the next one.
 */
export async function startServing(): Promise<void> {
  let end = async () => {};
  const stop = () => void end().then(() => process.exit(0));
  process.once("SIGTERM", stop);
  process.once("SIGINT", stop);
  whenOpened((engine) => {
    end = serve(engine);
  });
  await theEngine().catch(say);
}

const soonMs = 250;
/** After the first change it is looked at the latest then, however many follow. */
const latestMs = 1500;
const hourMs = 3_600_000;

/**
 * Writes the key file for commands, does what was given before, looks at the account once, and again when something on a
 * worktop changes. Answers how to end it, open streams or not: running jobs are cancelled between two steps, acts come to
 * their end, and the account is closed.
 */
export function serve(engine: Engine): () => Promise<void> {
  writeDataFile(
    engine.account,
    "server.json",
    JSON.stringify({ port: Number(process.env.VUOTO_PORT), key: process.env.VUOTO_KEY }),
  );
  const say = sayOf(engine);
  goOnGiving(engine, (act, input) => operate(engine, act, input));
  const standing = new Standing(engine);
  const lookAgain = (what?: "all") =>
    void engine
      .lookAgain(what)
      .then(() => standing.tick())
      .catch(say);
  lookAgain("all");
  standing.begin(say);
  const stopSending = goOnSending(engine);
  const stopKeeping = keepCopies(engine);
  const stopAsking = engine.clock.every(askMountsMs, () => void askMounts());

  const stopWatching = watchFolders(
    engine.clock,
    engine.account.worktops.map((worktop) => worktop.folder),
    soonButNotLate(engine.clock, () => lookAgain(), soonMs, latestMs),
    (error) => log.warn(error.message),
  );
  return async () => {
    for (const stop of [stopWatching, stopSending, stopKeeping, stopAsking]) stop();
    standing.stop();
    // Before its jobs are cancelled: a parcel that is cut short by that is not one that the person paused.
    const sendings = engine.sendings.end();
    engine.jobs.cancelAll();
    await sendings;
    await engine.close();
  };
}

const lookForDepotsMs = 10_000;
const askMountsMs = 10_000;
const turnOfChecksMs = 600_000;

/** Goes on with parcels that were on their way, as soon as their depot is there; and reads those over whose turn it is. */
function goOnSending(engine: Engine): Stop {
  const say = sayOf(engine);
  let checking = false;
  let known = "";
  engine.sendings.goOn();
  void findParcels(engine).catch(say);
  const stopLooking = engine.clock.every(lookForDepotsMs, () => {
    // A drive was plugged in or pulled out.
    const now = drives(engine.account)
      .map(({ point }) => point)
      .join("\0");
    if (now === known) return;
    known = now;
    engine.sendings.hurry();
    engine.events.emit({ type: "changed", what: "parcels" });
    void findParcels(engine).catch(say);
  });
  const stopChecking = engine.clock.every(turnOfChecksMs, () => {
    if (checking || engine.closing) return;
    checking = true;
    void checkInTurn(engine)
      .catch(say)
      .finally(() => {
        checking = false;
      });
  });
  return () => {
    stopLooking();
    stopChecking();
  };
}

/** Keeps a copy of the record for each day, also where it serves for days. */
export function keepCopies(engine: Engine): Stop {
  const say = sayOf(engine);
  let underWay = false;
  const keep = () => {
    if (underWay) return;
    underWay = true;
    void keepDailyCopy(engine)
      .catch(say)
      .finally(() => {
        underWay = false;
      });
  };
  keep();
  return engine.clock.every(hourMs, keep);
}
