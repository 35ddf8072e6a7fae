import { isDeepStrictEqual } from "node:util";
import type { Json, Point } from "@/core/ledger/shapes";
import { firstScreen, type ScreenPart, type ScreenState, screenVersion } from "@/core/screen/state";
import type { Db } from "./db";
import { prepared } from "./prepared";
import { kept } from "./revision";

/** What the person decided, by key. Changed by ledger steps only. */
export type DepotRecord = {
  title: string;
  /** Whether it is read over in turn by itself; a cloud only where that was said, and so many bytes a month at most. */
  checks?: { on: boolean; bytesAMonth?: number };
} & (
  | { kind: "folder" /** As a byte string. */; folder: string }
  | {
      kind: "drive";
      /** Where it was mounted when it was added, as a byte string. */
      folder: string;
      /** What our file on it says, and the UUID of its file system. */
      mark: string;
      uuid: string | null;
    }
  | {
      kind: "cloud";
      url: string;
      /** SHA-256 of the certificate that the person accepted, in hex. */
      pin?: string;
    }
);

export interface ParcelRecord {
  title: string;
  depot: string | null;
  state: "collecting" | "sent";
  madeAt: number;
  /** Made for what lay in a project or a home: nothing else goes into it without being told to. */
  apart?: true;
  sentAt?: number;
  /** The bag's folder in the depot, as a byte string. */
  bag?: string;
  things?: number;
  files?: number;
  bytes?: number;
  /** SHA-256 of its tag manifest when it was sent: a parcel with another one was changed by somebody, or is a stranger's. */
  tags?: string;
}

export interface VerdictRecord {
  verdict: "stay" | "wait" | "archive";
  at: number;
  until?: number;
  parcel?: string;
  /** It lies in a home, and was collected from there. */
  fromHome?: true;
  /** The project while which it stays. */
  project?: string;
  /** Of what waits: since when, over all its dates, and the state in which it was put off. */
  since?: number;
  state?: string;
}

/** Things that belong together while something is under way. */
export interface ProjectRecord {
  title: string;
  startedAt: number;
  endedAt?: number;
  /** The things that were left of it when it ended. */
  things?: string[];
}

/** The home in which notes lie, as a byte string. */
export interface NotesRecord {
  folder: string;
}

/** A place of which the person said how it is protected; "synchronised" is the weaker mark, as a deletion is too. */
export interface PlaceRecord {
  /** The folder as a byte string. */
  folder: string;
  protection: "backed up" | "synchronised";
  at: number;
}

export interface HomeRecord {
  folder: string;
  at: number;
}

/** Things gathered into one folder, to be set out again exactly. What of them still lies in it is told by looking. */
export interface GatheringRecord {
  title: string;
  /** The folder as a byte string. When it was renamed or moved it is found by what lies in it. */
  folder: string;
  /** Whether it was made for gathering, and goes when all is set out. */
  made: boolean;
  at: number;
  /** Each item: where it lay, under what name it was put into the folder, as byte strings, and how it is told from others. */
  things: { item: string; from: string; name: string; mark: string }[];
}

export function readRecord<T>(db: Db, key: string): T | null {
  const value = prepared<[string], string>(db, "SELECT value FROM record WHERE key = ?").pluck().get(key);
  return value === undefined ? null : (JSON.parse(value) as T);
}

const recordsOf = kept("records", ["record"], (db, kind): ReadonlyMap<string, unknown> => {
  const rows = prepared<[string, string], { key: string; value: string }>(
    db,
    "SELECT key, value FROM record WHERE key >= ? AND key < ?",
  ).all(`${kind}:`, `${kind};`);
  return new Map(rows.map((row) => [row.key.slice(kind.length + 1), JSON.parse(row.value) as unknown]));
});

/** All records whose key begins with `kind:`, by the rest of the key. */
export const readRecords = <T>(db: Db, kind: string) => recordsOf(db, kind) as ReadonlyMap<string, Readonly<T>>;

export function writeRecord(db: Db, key: string, value: Json): void {
  if (value === null) prepared(db, "DELETE FROM record WHERE key = ?").run(key);
  else
    prepared(db, "INSERT INTO record (key, value) VALUES (?, ?) ON CONFLICT (key) DO UPDATE SET value = excluded.value").run(
      key,
      JSON.stringify(value),
    );
}

interface ScreenRecord {
  version: number;
  parts: Partial<ScreenState>;
}

/** What the screen is like: as was decided, and where nothing was, as it is at first. */
export function readScreen(db: Db): ScreenState {
  return { ...firstScreen, ...readRecord<ScreenRecord>(db, "screen")?.parts };
}

/** Changes one part; one that is as at first again is not kept. */
export function writeScreenPart<P extends ScreenPart>(db: Db, part: P, state: ScreenState[P]): void {
  const { [part]: _, ...parts } = readRecord<ScreenRecord>(db, "screen")?.parts ?? {};
  const kept = isDeepStrictEqual(state, firstScreen[part]) ? parts : { ...parts, [part]: state };
  writeRecord(db, "screen", Object.keys(kept).length === 0 ? null : ({ version: screenVersion, parts: kept } as unknown as Json));
}

export function readPosition(db: Db, item: string): Point | null {
  return prepared<[string], Point>(db, "SELECT x, y FROM position WHERE item = ?").get(item) ?? null;
}

export function writePosition(db: Db, item: string, at: Point | null): void {
  if (at === null) prepared(db, "DELETE FROM position WHERE item = ?").run(item);
  else
    prepared(
      db,
      "INSERT INTO position (item, x, y) VALUES (?, ?, ?) ON CONFLICT (item) DO UPDATE SET x = excluded.x, y = excluded.y",
    ).run(item, at.x, at.y);
}
