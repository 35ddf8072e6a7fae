import type { ReportJson } from "@/contract/items";
import type { Fit } from "@/core/homes/belongs";
import type { Raw } from "@/core/names/raw";
import type { Problem, ProblemCode, ProblemFacts } from "@/core/problem";
import type { Words } from "@/core/words/words";
import type { Account, WorktopId } from "./account";
import type { Clock } from "./clock";
import type { Db } from "./db/db";
import type { Disk } from "./disk/disk";
import type { UseLooks } from "./disk/in-use";
import type { Events } from "./events";
import type { CarrierLink } from "./jobs/carriers";
import type { Jobs } from "./jobs/jobs";
import type { FoundElsewhere } from "./jobs/work/find-elsewhere";
import type { FoundInside } from "./jobs/work/find-inside";
import type { Workers } from "./jobs/workers";
import type { Ledger } from "./ledger/ledger";
import type { LookingApart } from "./looks/looking-apart";

/** What a question about an account needs: its places, its record, the time, and words. */
export interface Reading {
  account: Account;
  db: Db;
  now(): number;
  /** How the person writes numbers and dates. */
  wordsOf: { locale: string; timeZone: string };
  words(): Words;
}

export interface Unwalked {
  folder: Raw;
  why: "unreadable" | "left out";
}

/** What was learned from the homes: how they rank for each thing. The learned itself stays on its thread. */
export interface Belonging {
  /** How many files it was learned from, the homes' own names counted in; 0 where nothing was learned yet. */
  total: number;
  /** Homes from which each item was brought back by an undo: not proposed for it again. */
  undone: Map<string, Set<string>>;
  /** The homes that fit each thing, best first, by what of it was looked at. */
  fits: Map<string, { of: string; mtimeNs: string; fits: Fit[] }>;
}

/** How a parcel on its way stands just now, beside what the record knows. */
export interface UnderWay {
  running: boolean;
  /** Bytes a second, where some moved lately. */
  rate?: number;
  /** When it is tried again, and why it waits; milliseconds since 1970. */
  waitsUntil?: number;
  waitsFor?: { code: ProblemCode; facts: ProblemFacts };
}

/** The parcels on their way. */
export interface Sendings {
  /** Begins to send a parcel, or goes on with it. @throws Problem "on-its-way" where it is on its way to another depot */
  begin(parcel: string, depot: string): void;
  /** Starts whatever waits for its turn. */
  goOn(): void;
  /** What waits to be tried again is tried now. */
  hurry(parcel?: string): void;
  /** What comes of a parcel; rejects where it stops, or for long does not get on. */
  arrival(parcel: string): Promise<ReportJson>;
  /** Answers false where it had arrived at that very moment. */
  pauseParcel(parcel: string): Promise<boolean>;
  /** Whether it had arrived, and is not cancelled; or what was sent of it is gone, or goes later. */
  cancelParcel(parcel: string): Promise<"arrived" | "gone" | "goes">;
  /** Answers whether what is to be taken away in a depot is gone by now. */
  removed(removal: string): Promise<boolean>;
  underWay(parcel: string): UnderWay;
  end(): Promise<void>;
}

/** All that exists once for an account: its record, ledger, jobs, events and threads. Holds the account's lock while open. */
export interface Engine extends Reading {
  clock: Clock;
  disk: Disk;
  ledger: Ledger;
  events: Events;
  jobs: Jobs;
  workers: Workers;
  /** The parcels on their way. */
  sendings: Sendings;
  /** Something that moves bytes, until its end. */
  carrier(): CarrierLink;
  /** Where files are looked at whose form could do harm. */
  looking: LookingApart;
  /** What other programs have open. */
  inUse: UseLooks;
  /** How many things on each worktop are hidden by agreement, and no icons. */
  hidden: Map<WorktopId, number>;
  /** Worktops that could not be read at the last look. */
  unreadable: WorktopId[];
  /** Folders in the homes, protected places and on the worktops that were not looked into at the last walk. */
  unwalked: Unwalked[];
  /** Grows with each walk or comparing that found another state of what lies in the folders that are known. */
  walked: number;
  /** When the last walk or comparing began, whatever it found. */
  walkedAt?: number;
  /** What of the things has a copy in a backed-up place, as of the last look; undefined where no place is marked so. */
  elsewhere?: FoundElsewhere;
  /** Of the folders on the worktops, the files in them that lie elsewhere too, as of the last look. */
  inside: ReadonlyMap<Raw, FoundInside>;
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
  /** Aborts once it closes: nobody waits for another computer any more. */
  ending: AbortSignal;
  close(): Promise<void>;
}
