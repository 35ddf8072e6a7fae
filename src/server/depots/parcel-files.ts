import type { ParcelThingJson } from "@/contract/parcel";
import { type Raw, rawFromBytes } from "@/core/names/raw";
import { asProblem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import type { Db } from "../db/db";
import { prepared } from "../db/prepared";
import { bytes } from "../disk/disk";

/** How far a file of a parcel is: it waits, lies in the depot, or was read back from there and is the same. */
export type FileState = "waiting" | "written" | "proven";

export interface ParcelFile {
  /** In the parcel, beginning with data/. */
  path: string;
  item: string;
  bytes: number;
  state: FileState;
  sha256: string | null;
  /** The state of the original when it was read. */
  seen: string | null;
  /** How often it was given back otherwise than sent. */
  tries: number;
}

export interface Said {
  code: ProblemCode;
  facts: ProblemFacts;
}

/** A thing of a parcel. */
export interface PackedThing {
  item: string;
  /** Its name below data/. */
  payload: string;
  /** In which it was packed; null of one that was not sent from here. */
  state: string | null;
}

export interface ThingContents extends PackedThing {
  /** What it is called, and the folder that it lay in. */
  name: Raw;
  folder: Raw;
  /** All that is in it; of files, where they go. */
  entries: ParcelThingJson["entries"];
}

interface StoredContents extends Omit<ThingContents, "name" | "folder" | "entries"> {
  name: Buffer;
  folder: Buffer;
  entries: string;
}

/** A thing that does not go along, and why. */
export interface LeftOut {
  item: string;
  said: Said;
}

/** How many files are how far, and bytes likewise. */
export interface HowFar {
  files: number;
  bytes: number;
  written: number;
  writtenBytes: number;
  proven: number;
  provenBytes: number;
}

/** The things and files of one parcel, as the record knows them. */
export class ParcelFiles {
  constructor(
    private readonly db: Db,
    private readonly parcel: string,
  ) {}

  all(): ParcelFile[] {
    return prepared<[string], ParcelFile>(
      this.db,
      "SELECT path, item, bytes, state, sha256, seen, tries FROM parcel_file WHERE parcel = ? ORDER BY path",
    ).all(this.parcel);
  }

  of(item: string): ParcelFile[] {
    return prepared<[string, string], ParcelFile>(
      this.db,
      "SELECT path, item, bytes, state, sha256, seen, tries FROM parcel_file WHERE parcel = ? AND item = ? ORDER BY path",
    ).all(this.parcel, item);
  }

  howFar(): HowFar {
    return prepared<[string], HowFar>(
      this.db,
      `SELECT count(*) AS files, coalesce(sum(bytes), 0) AS bytes,
         coalesce(sum(state <> 'waiting'), 0) AS written, coalesce(sum(iif(state <> 'waiting', bytes, 0)), 0) AS writtenBytes,
         coalesce(sum(state = 'proven'), 0) AS proven, coalesce(sum(iif(state = 'proven', bytes, 0)), 0) AS provenBytes
       FROM parcel_file WHERE parcel = ?`,
    ).get(this.parcel)!;
  }

  /** How many things are how far: looked at, all of whose files lie in the depot, and were read back. */
  thingsHowFar(): { packed: number; sent: number; readBack: number } {
    return prepared<[string], { packed: number; sent: number; readBack: number }>(
      this.db,
      `SELECT count(*) AS packed, coalesce(sum(waiting = 0), 0) AS sent, coalesce(sum(unproven = 0), 0) AS readBack FROM (
         SELECT thing.item, coalesce(sum(file.state = 'waiting'), 0) AS waiting, coalesce(sum(file.state <> 'proven'), 0) AS unproven
         FROM parcel_thing AS thing LEFT JOIN parcel_file AS file ON file.parcel = thing.parcel AND file.item = thing.item
         WHERE thing.parcel = ? AND thing.entries IS NOT NULL GROUP BY thing.item)`,
    ).get(this.parcel)!;
  }

  leftOut(): LeftOut[] {
    return prepared<[string], { item: string; problem: string }>(
      this.db,
      "SELECT item, problem FROM parcel_thing WHERE parcel = ? AND problem IS NOT NULL ORDER BY payload",
    )
      .all(this.parcel)
      .map(({ item, problem }) => ({ item, said: JSON.parse(problem) }));
  }

  /** The things as they were packed, without all that is in them. */
  things(): PackedThing[] {
    return prepared<[string], PackedThing>(
      this.db,
      "SELECT item, payload, state FROM parcel_thing WHERE parcel = ? AND problem IS NULL ORDER BY payload",
    ).all(this.parcel);
  }

  /** The same with all that is in them: much to read of many. */
  contents(): ThingContents[] {
    return prepared<[string], StoredContents>(
      this.db,
      `SELECT item, payload, state, name, folder, entries FROM parcel_thing
       WHERE parcel = ? AND problem IS NULL AND entries IS NOT NULL ORDER BY payload`,
    )
      .all(this.parcel)
      .map(({ name, folder, entries, ...thing }) => ({
        ...thing,
        name: rawFromBytes(name),
        folder: rawFromBytes(folder),
        entries: JSON.parse(entries),
      }));
  }

  /**
   * A thing that goes with it, with all its files. What is there of it already, in the same state of its original, stays as
   * far as it is; answers the paths of files that no longer belong to it.
   */
  await(thing: ThingContents, files: readonly { path: string; bytes: number; seen: string }[]): string[] {
    const { db, parcel } = this;
    return db.transaction(() => {
      prepared<[string, string, string, Buffer, Buffer, string | null, string]>(
        db,
        `INSERT OR REPLACE INTO parcel_thing (parcel, item, payload, name, folder, state, entries, problem)
         VALUES (?, ?, ?, ?, ?, ?, ?, NULL)`,
      ).run(
        parcel,
        thing.item,
        thing.payload,
        bytes(thing.name),
        bytes(thing.folder),
        thing.state,
        JSON.stringify(thing.entries),
      );
      const before = new Map(this.of(thing.item).map((file) => [file.path, file]));
      const add = prepared<[string, string, string, number, string]>(
        db,
        `INSERT OR REPLACE INTO parcel_file (parcel, path, item, bytes, state, sha256, seen, tries)
         VALUES (?, ?, ?, ?, 'waiting', NULL, ?, 0)`,
      );
      for (const { path, bytes, seen } of files) {
        if (before.get(path)?.seen !== seen) add.run(parcel, path, thing.item, bytes, seen);
        before.delete(path);
      }
      const gone = [...before.keys()];
      const drop = prepared<[string, string]>(db, "DELETE FROM parcel_file WHERE parcel = ? AND path = ?");
      for (const path of gone) drop.run(parcel, path);
      return gone;
    })();
  }

  /** Files lie in the depot, or were read back; `at`: when. */
  mark(state: "written" | "proven", sums: Iterable<readonly [path: string, sha256: string]>, at: number): void {
    const mark = prepared<[string, string, number | null, string, string]>(
      this.db,
      "UPDATE parcel_file SET state = ?, sha256 = ?, proven_at = ? WHERE parcel = ? AND path = ?",
    );
    this.db.transaction(() => {
      for (const [path, sum] of sums) mark.run(state, sum, state === "proven" ? at : null, this.parcel, path);
    })();
  }

  /** What was read back before then is to be read back once more. */
  doubt(before: number): void {
    prepared<[string, number]>(
      this.db,
      "UPDATE parcel_file SET state = 'written' WHERE parcel = ? AND state = 'proven' AND coalesce(proven_at, 0) < ?",
    ).run(this.parcel, before);
  }

  /** Files that are to be sent once more; `again`: as they were given back otherwise. */
  wait(paths: Iterable<string>, again = false): void {
    const mark = prepared<[number, string, string]>(
      this.db,
      "UPDATE parcel_file SET state = 'waiting', tries = tries + ? WHERE parcel = ? AND path = ?",
    );
    this.db.transaction(() => {
      for (const path of paths) mark.run(again ? 1 : 0, this.parcel, path);
    })();
  }

  /** A thing does not go with it, and why: its files are no longer known. */
  leaveOut(item: string, payload: string, thrown: unknown): void {
    const { code, facts } = asProblem(thrown);
    this.db.transaction(() => {
      prepared<[string, string, string, string]>(
        this.db,
        "INSERT OR REPLACE INTO parcel_thing (parcel, item, payload, state, entries, problem) VALUES (?, ?, ?, NULL, NULL, ?)",
      ).run(this.parcel, item, payload, JSON.stringify({ code, facts }));
      prepared<[string, string]>(this.db, "DELETE FROM parcel_file WHERE parcel = ? AND item = ?").run(this.parcel, item);
    })();
  }

  /** What was left out is looked at anew. */
  forgetLeftOut(): void {
    prepared<[string]>(this.db, "DELETE FROM parcel_thing WHERE parcel = ? AND problem IS NOT NULL").run(this.parcel);
  }

  /** A thing that is no longer to be sent. */
  drop(item: string): void {
    for (const table of ["parcel_thing", "parcel_file"])
      prepared<[string, string]>(this.db, `DELETE FROM ${table} WHERE parcel = ? AND item = ?`).run(this.parcel, item);
  }

  forget(): void {
    for (const table of ["parcel_thing", "parcel_file"])
      prepared<[string]>(this.db, `DELETE FROM ${table} WHERE parcel = ?`).run(this.parcel);
  }
}
