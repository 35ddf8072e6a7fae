import fs from "node:fs";
import path from "node:path";
import { isWithin, type Raw } from "@/core/names/raw";
import { asProblem, Problem } from "@/core/problem";
import { makeWords, type Words } from "@/core/words/words";
import { type Account, type AccountPlace, dataFolderFor, isOfVuoto, openAccount, type WorktopId } from "./account";
import { openRecord, recordIsThere } from "./db/backup";
import type { Db } from "./db/db";
import { takeFolderLocks, takeLock } from "./db/lock";
import { type DepotRecord, readRecords } from "./db/record";
import { type Calls, realCalls } from "./disk/calls";
import { Disk } from "./disk/disk";
import { scanOpenFiles, UseLooks } from "./disk/in-use";
import { syncAll } from "./disk/sync";
import { Events } from "./events";
import { type Belonging, belongingAfterUndo, learnBelonging, nothingLearned } from "./homes/belonging";
import { followMovedHomes } from "./homes/follow";
import { homeRoots, homes, walkHomes } from "./homes/homes";
import { carrierApart, carrierHere } from "./jobs/carriers";
import { Jobs } from "./jobs/jobs";
import type { FoundElsewhere } from "./jobs/work/find-elsewhere";
import { Workers } from "./jobs/workers";
import { Ledger } from "./ledger/ledger";
import { refreshTrashSizes } from "./ledger/trash-sizes";
import { keepFigures } from "./survey/figures-of-day";
import { lookElsewhere } from "./survey/protection";
import { prove } from "./survey/prove";
import { refreshWorktops } from "./survey/refresh";
import { compareArchives } from "./survey/spent";
import { hashLikelyTwins } from "./survey/twins";

/** All that exists once for an account: its record, ledger, jobs, events and threads. Holds the account's lock while open. */
export interface Engine {
  account: Account;
  db: Db;
  disk: Disk;
  ledger: Ledger;
  events: Events;
  jobs: Jobs;
  workers: Workers;
  /** What other programs have open. */
  inUse: UseLooks;
  now(): number;
  /** How the person writes numbers and dates. */
  wordsOf: { locale: string; timeZone: string };
  words(): Words;
  /** Worktops that could not be read at the last look. */
  unreadable: WorktopId[];
  /** Folders in the homes, protected places and on the worktops that were not looked into at the last walk. */
  unwalked: Unwalked[];
  /** Grows with each walk or comparing that found another state of what lies in the folders that are known. */
  walked: number;
  /** What of the things has a copy in a backed-up place, as of the last look; undefined where no place is marked so. */
  elsewhere?: FoundElsewhere;
  /** Why the last look at what lies there failed, where it did. */
  trouble?: Problem;
  /** What recovery did at start, in words. */
  recovered: string[];
  /** What was last learned of the homes. */
  belonging: Belonging;
  /** Reads worktops and homes and compares files; once at a time, and again if asked meanwhile. */
  lookAgain(what?: "worktops" | "all"): Promise<void>;
  /** The same, once a few moments have passed without another act. */
  lookLater(): void;
  /** Nothing more is begun. */
  closing: boolean;
  close(): Promise<void>;
}

export interface Unwalked {
  folder: Raw;
  why: "unreadable" | "left out";
}

export interface EngineOptions {
  /** Another set of system calls, for tests. */
  calls?: Calls;
  now?: () => number;
  /** It serves for long: an answer may rest on what was learned a moment ago. One that answers a single command learns first. */
  lasting?: true;
}

const lookAfterMs = 1500;
const longestWaitMs = 30_000;
/** Learning that takes no longer is done after every look. */
const quickMs = 1000;

/** Entries may be changed below worktops, homes, trash and depots; and the folders that lead to the trash. */
function boundsOf({ account, db }: Pick<Engine, "account" | "db">): (target: Raw) => boolean {
  const homes = homeRoots({ account, db });
  const depots = [...readRecords<DepotRecord>(db, "depot").values()].map((depot) => depot.folder as Raw);
  const whole = [...homes, ...account.otherTrashes];
  const below = [...account.worktops.map((w) => w.folder), account.trash, account.launchers, ...depots];
  return (target) =>
    !isOfVuoto(account, target) &&
    (below.some((folder) => target !== folder && isWithin(folder, target)) ||
      whole.some((folder) => isWithin(folder, target)) ||
      (target !== account.root &&
        isWithin(account.root, target) &&
        (isWithin(target, account.trash) || isWithin(target, account.launchers))));
}

export const recordName = "vuoto.sqlite";

/** Opens an account: takes its locks, brings its record up to date, and takes back what a crash left half done. */
export async function openEngine(place: AccountPlace, options: EngineOptions = {}): Promise<Engine> {
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
  const now = options.now ?? Date.now;
  const events = new Events();
  const calls = options.calls ?? realCalls;
  const bounds = () => boundsOf({ account, db });
  const disk = new Disk(calls, bounds);
  const workers = new Workers();
  const [locale, { timeZone }] = [localeOf(), Intl.DateTimeFormat().resolvedOptions()];
  let learnedIn: number | undefined;
  let learnLater: NodeJS.Timeout | undefined;
  let looking: Promise<void> | undefined;
  let later: NodeJS.Timeout | undefined;
  let lookAfter: "worktops" | "all" | undefined;
  const learn = async () => {
    const began = performance.now();
    try {
      engine.belonging = await learnBelonging(engine);
    } catch (error) {
      // What was learned before still holds; the next look learns anew.
      if (!(error instanceof Problem) || error.code !== "cancelled") throw error;
      learnedIn = undefined;
      return;
    }
    learnedIn = performance.now() - began;
    events.emit({ type: "changed", what: "homes" });
  };
  /** Learns anew: at once where that is quick or wanted, else a while after, once for all that changed until then. */
  const learnAnew = async () => {
    if (!options.lasting || learnedIn === undefined || learnedIn < quickMs) return learn();
    engine.belonging = belongingAfterUndo(engine);
    learnLater ??= setTimeout(
      () => {
        learnLater = undefined;
        if (!engine.closing) learn().catch(() => {});
      },
      Math.min(5 * learnedIn, longestWaitMs),
    );
    learnLater.unref();
  };
  const engine: Engine = {
    account,
    db,
    disk,
    events,
    jobs: new Jobs(events),
    workers,
    // A single command is done before a thread would have begun.
    inUse: new UseLooks(options.lasting ? () => workers.scanOpenFiles() : scanOpenFiles),
    ledger: new Ledger({
      account,
      db,
      disk,
      apartDisk: () => new Disk(calls, bounds),
      // Calls that a test makes fail are met on this thread.
      carrier: () => (options.calls ? carrierHere(new Disk(calls, bounds)) : carrierApart(disk)),
      now,
      sync: async (what) => (options.calls ? syncAll(disk, what) : workers.sync(what)),
      expectRecord: () => {
        if (!recordIsThere(db)) throw new Problem("record-gone", { place: db.name });
      },
      scanInUse: () => engine.inUse.now(),
      prove: (path, proof) => prove(engine, path, proof),
      changed: () => events.emit({ type: "changed", what: "ledger" }),
    }),
    now,
    wordsOf: { locale, timeZone },
    words: () => makeWords(locale, timeZone, now()),
    unreadable: [],
    unwalked: [],
    walked: 0,
    closing: false,
    recovered: [],
    belonging: nothingLearned(),
    async lookAgain(what = "worktops") {
      if (what === "all") clearTimeout(later);
      if (looking) {
        lookAfter = lookAfter === "all" || what === "all" ? "all" : "worktops";
        return looking;
      }
      const look = async () => {
        for (let next: typeof lookAfter = what; next; ) {
          lookAfter = undefined;
          await refreshWorktops(engine);
          if (next === "all") {
            // What was read at an earlier start is learned from before the walk, which takes a while.
            if (options.lasting && learnedIn === undefined && homes(engine).length > 0) await learn();
            await followMovedHomes(engine);
            if ((await walkHomes(engine)) || learnedIn === undefined) await learnAnew();
            await refreshTrashSizes(engine);
          }
          await hashLikelyTwins(engine);
          await lookElsewhere(engine);
          await compareArchives(engine);
          keepFigures(engine);
          next = lookAfter;
        }
      };
      looking = look()
        .then(
          () => {
            engine.trouble = undefined;
          },
          (error: unknown) => {
            // Said on every view until a look goes well again.
            engine.trouble = asProblem(error);
            if (!engine.closing) events.emit({ type: "changed", what: "items" });
            throw error;
          },
        )
        .finally(() => {
          looking = undefined;
        });
      return looking;
    },
    lookLater() {
      clearTimeout(later);
      later = setTimeout(() => {
        if (!engine.closing) engine.lookAgain("all").catch(() => {});
      }, lookAfterMs);
      later.unref();
    },
    async close() {
      engine.closing = true;
      clearTimeout(later);
      clearTimeout(learnLater);
      await looking?.catch(() => {});
      await engine.ledger.idle();
      await engine.workers.stop();
      db.close();
      release();
    },
  };
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

/** Writes a small file of Vuoto's own, for the person alone. */
export function writeDataFile(account: Account, name: string, text: string): void {
  const file = path.join(account.data, name);
  fs.writeFileSync(`${file}.new`, text, { mode: 0o600 });
  fs.renameSync(`${file}.new`, file);
}
