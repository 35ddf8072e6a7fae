import fs from "node:fs";
import path from "node:path";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { makeWords } from "@/core/words/words";
import { type Account, type AccountPlace, dataFolderFor, openAccount } from "./account";
import { boundsOf } from "./bounds";
import { type Clock, realClock } from "./clock";
import { openRecord, recordIsThere } from "./db/backup";
import type { Db } from "./db/db";
import { takeFolderLocks, takeLock } from "./db/lock";
import { Sendings } from "./depots/sendings";
import { forgetStraySignIns } from "./depots/sign-ins";
import { type Calls, realCalls } from "./disk/calls";
import { Disk } from "./disk/disk";
import { scanOpenFiles, UseLooks } from "./disk/in-use";
import { askMounts } from "./disk/mounts";
import { syncAll } from "./disk/sync";
import type { Engine } from "./engine";
import { Events } from "./events";
import { nothingLearned } from "./homes/belonging";
import { carrierApart, carrierHere } from "./jobs/carriers";
import { Jobs } from "./jobs/jobs";
import { readWorktop } from "./jobs/work/read-worktop";
import { syncFolders } from "./jobs/work/sync-folders";
import { Workers } from "./jobs/workers";
import { Ledger } from "./ledger/ledger";
import { Looking } from "./looking";
import { LookingApart } from "./looks/looking-apart";
import { prove } from "./survey/prove";

export interface EngineOptions {
  /** Another set of system calls, for tests. */
  calls?: Calls;
  /** Another clock, for tests. */
  clock?: Clock;
  /**
   * It serves for long: an answer may rest on what was learned a moment ago. One that answers a single command learns first.
   * "small": it takes little memory; homes and copies are looked at only when that is asked for.
   */
  lasting?: true | "small";
}

export const recordName = "vuoto.sqlite";

/** Opens an account: takes its locks, brings its record up to date, and takes back what a crash left half done. */
export async function openEngine(place: AccountPlace, options: EngineOptions = {}): Promise<Engine> {
  await askMounts();
  const account = openAccount(place);
  const lock = takeLock(account.data);
  if (!lock) throw new Problem("account-busy");
  let locks: ReturnType<typeof takeFolderLocks>;
  let db: Db | undefined;
  const release = () => {
    locks?.release();
    lock.release();
  };
  try {
    locks = takeFolderLocks([account.root, ...account.worktops.map((w) => w.folder)]);
    if (!locks) throw new Problem("record-apart");
    const opened = openRecord(account.data, recordName);
    db = opened.db;
    forgetStraySignIns(db);
    const engine = makeEngine(account, db, options, release);
    engine.recovered = [...opened.said, ...otherRecord(account), ...(await engine.ledger.recover())];
    return engine;
  } catch (error) {
    db?.close();
    release();
    throw error;
  }
}

/** Where the account has a record at the usual place too, and this is another one, that is said. */
function otherRecord(account: Account): string[] {
  const usual = dataFolderFor(account.root);
  if (usual === account.data || !fs.existsSync(path.join(usual, recordName))) return [];
  return [`There is another record of this account, in ${usual}. What was done with it can only be undone with it.`];
}

function makeEngine(account: Account, db: Db, options: EngineOptions, release: () => void): Engine {
  const clock = options.clock ?? realClock;
  const { now } = clock;
  const events = new Events();
  const calls = options.calls ?? realCalls;
  const bounds = () => boundsOf({ account, db });
  const disk = new Disk(calls, bounds);
  const small = options.lasting === "small";
  const workers = new Workers(small ? { readWorktop, syncFolders, scanOpenFiles } : {});
  const [locale, { timeZone }] = [localeOf(), Intl.DateTimeFormat().resolvedOptions()];
  // Calls that a test makes fail are met on this thread, and a small process has no other.
  const carrier = () => (options.calls || small ? carrierHere(new Disk(calls, bounds)) : carrierApart(disk));
  const ending = new AbortController();
  const engine: Engine = {
    account,
    db,
    disk,
    events,
    jobs: new Jobs(events, clock),
    workers,
    carrier,
    sendings: undefined as unknown as Sendings,
    looking: new LookingApart(),
    // A single command is done before a thread would have begun.
    inUse: new UseLooks(options.lasting === true ? () => workers.scanOpenFiles() : scanOpenFiles, now),
    ledger: new Ledger({
      account,
      db,
      disk,
      apartDisk: () => new Disk(calls, bounds),
      carrier,
      now,
      ending: ending.signal,
      sync: async (what) => (options.calls ? syncAll(disk, what) : workers.sync(what)),
      expectRecord: () => {
        if (!recordIsThere(db)) throw new Problem("record-gone", { place: db.name });
      },
      scanInUse: () => engine.inUse.now(),
      prove: (path, proof) => prove(engine, path, proof),
      changed: () => events.emit({ type: "changed", what: "ledger" }),
    }),
    now,
    clock,
    wordsOf: { locale, timeZone },
    words: () => makeWords(locale, timeZone, now()),
    hidden: new Map(),
    unreadable: [],
    unwalked: [],
    walked: 0,
    inside: new Map(),
    closing: false,
    ending: ending.signal,
    recovered: [],
    belonging: nothingLearned(),
    lookAgain: (what) => looking.again(what),
    lookLater: () => looking.soon(),
    async close() {
      engine.closing = true;
      ending.abort();
      engine.looking.end();
      await looking.end();
      await engine.sendings.end();
      engine.jobs.cancelAll();
      await engine.ledger.idle();
      await engine.workers.stop();
      db.close();
      release();
    },
  };
  engine.sendings = new Sendings(engine, options.lasting === true);
  const looking = new Looking(engine, options.lasting);
  return engine;
}

/** The interface speaks English: the person's own kind of it where theirs is one, else a neutral one. */
function localeOf(): string {
  const said = process.env.LC_ALL || process.env.LC_TIME || process.env.LANG || "";
  const english = /^en_([A-Z]{2})\b/.exec(said);
  return english ? `en-${english[1]}` : "en-GB";
}

const held = globalThis as typeof globalThis & { vuotoEngine?: Promise<Engine>; vuotoOpened?: (engine: Engine) => void };

/**
 * The engine of this server's account. Modules are bundled more than once; globalThis is shared. An opening that failed is
 * tried again when somebody asks the next time.
 */
export function theEngine(): Promise<Engine> {
  held.vuotoEngine ??= openServerEngine().then(
    (engine) => {
      held.vuotoOpened?.(engine);
      return engine;
    },
    (error: unknown) => {
      held.vuotoEngine = undefined;
      throw error;
    },
  );
  return held.vuotoEngine;
}

/** Says what is to be done once the account is opened, now or later. */
export function whenOpened(work: (engine: Engine) => void): void {
  held.vuotoOpened = work;
}

async function openServerEngine(): Promise<Engine> {
  const { VUOTO_ACCOUNT: account, VUOTO_DATA: data } = process.env;
  if (!account) throw new Problem("bad-words", { detail: "Start Vuoto with vuoto start." });
  return openEngine({ root: atob(account) as Raw, data: data || undefined }, { lasting: true });
}
