import type { ParcelThingJson } from "@/contract/parcel";
import { type Raw, rawFromBytes } from "@/core/names/raw";
import { asProblem, type ProblemCode, type ProblemFacts } from "@/core/problem";
import { type Db, writeLazily } from "../db/db";
import { prepared } from "../db/prepared";
import { bytes } from "../disk/disk";
import type { Pace } from "../disk/tree";

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
  /** In which it was packed; null of one that was not sent from here. Read by {@link stateIn}. */
  state: string | null;
}

/** A packed thing's state as it is kept: of all of it where it lay, of it wherever it lies, and its own time of change of state. */
export const keptState = (state: string, anywhere: string, ctimeNs: string): string => `${state}|${anywhere}|${ctimeNs}`;

/** Of a kept state its parts; an older Vuoto kept the first alone. */
export function stateIn(kept: string): { state: string; anywhere?: string; ctimeNs?: string } {
  const [state = "", anywhere, ctimeNs] = kept.split("|");
  return { state, anywhere, ctimeNs };
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

/** So many rows are written at once. */
const part = 1000;

/** How many files are how far, and bytes likewise; and how many things: looked at, all of whose files lie in the depot, and were read back. */
export interface HowFar {
  files: number;
  bytes: number;
  written: number;
  writtenBytes: number;
  proven: number;
  provenBytes: number;
  packed: number;
  sent: number;
  readBack: number;
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

  /** What is made of each file, what is undefined aside; a part of them after the other, as they may be very many. */
  async collect<T>(breath: Pace["breath"], make: (file: ParcelFile) => T | undefined): Promise<T[]> {
    const page = prepared<[string, string, number], ParcelFile>(
      this.db,
      `SELECT path, item, bytes, state, sha256, seen, tries FROM parcel_file WHERE parcel = ? AND path > ? ORDER BY path LIMIT ?`,
    );
    const made: T[] = [];
    for (let after = ""; ; ) {
      const files = page.all(this.parcel, after, part);
      for (const file of files) {
        const one = make(file);
        if (one !== undefined) made.push(one);
      }
      if (files.length < part) return made;
      after = files.at(-1)!.path;
      await breath();
    }
  }

  of(item: string): ParcelFile[] {
    return prepared<[string, string], ParcelFile>(
      this.db,
      "SELECT path, item, bytes, state, sha256, seen, tries FROM parcel_file WHERE parcel = ? AND item = ? ORDER BY path",
    ).all(this.parcel, item);
  }

  howFar(): HowFar {
    const far: HowFar = {
      files: 0,
      bytes: 0,
      written: 0,
      writtenBytes: 0,
      proven: 0,
      provenBytes: 0,
      packed: 0,
      sent: 0,
      readBack: 0,
    };
    const states = prepared<[string], { item: string; state: FileState; files: number; bytes: number }>(
      this.db,
      "SELECT item, state, count(*) AS files, sum(bytes) AS bytes FROM parcel_file WHERE parcel = ? GROUP BY item, state",
    ).all(this.parcel);
    const waiting = new Set<string>();
    const unproven = new Set<string>();
    for (const { item, state, files, bytes } of states) {
      far.files += files;
      far.bytes += bytes;
      if (state === "waiting") waiting.add(item);
      else {
        far.written += files;
        far.writtenBytes += bytes;
      }
      if (state === "proven") {
        far.proven += files;
        far.provenBytes += bytes;
      } else unproven.add(item);
    }
    const packed = prepared<[string], string>(
      this.db,
      "SELECT item FROM parcel_thing WHERE parcel = ? AND entries IS NOT NULL",
    ).pluck();
    for (const item of packed.iterate(this.parcel)) {
      far.packed++;
      if (!waiting.has(item)) far.sent++;
      if (!unproven.has(item)) far.readBack++;
    }
    return far;
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

  /** How many files are in each, and of how many bytes. */
  sizes(): { name: Raw; folder: Raw; files: number; bytes: number }[] {
    return prepared<[string], { name: Buffer; folder: Buffer; files: number; bytes: number }>(
      this.db,
      `SELECT thing.name, thing.folder, count(file.path) AS files, coalesce(sum(file.bytes), 0) AS bytes
       FROM parcel_thing AS thing LEFT JOIN parcel_file AS file ON file.parcel = thing.parcel AND file.item = thing.item
       WHERE thing.parcel = ? AND thing.problem IS NULL AND thing.entries IS NOT NULL
       GROUP BY thing.item ORDER BY thing.payload`,
    )
      .all(this.parcel)
      .map(({ name, folder, ...size }) => ({ ...size, name: rawFromBytes(name), folder: rawFromBytes(folder) }));
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
   * A thing that goes with it, with all its files. What is there of it already, in the same state of its original, stays as far as
   * it is. A part of them after the other, as they may be very many: what was cut short is looked at anew.
   */
  async await(
    thing: ThingContents,
    files: readonly { path: string; bytes: number; seen: string }[],
    breath: Pace["breath"],
  ): Promise<void> {
    const { db, parcel } = this;
    const addThing = prepared<[string, string, string, Buffer, Buffer, string | null, string]>(
      db,
      `INSERT OR REPLACE INTO parcel_thing (parcel, item, payload, name, folder, state, entries, problem)
       VALUES (?, ?, ?, ?, ?, ?, ?, NULL)`,
    );
    const row = [
      parcel,
      thing.item,
      thing.payload,
      bytes(thing.name),
      bytes(thing.folder),
      thing.state,
      JSON.stringify(thing.entries),
    ] as const;
    writeLazily(db, () => addThing.run(...row));
    const before = new Map(this.of(thing.item).map((file) => [file.path, file]));
    const add = prepared<[string, string, string, number, string]>(
      db,
      `INSERT OR REPLACE INTO parcel_file (parcel, path, item, bytes, state, sha256, seen, tries)
       VALUES (?, ?, ?, ?, 'waiting', NULL, ?, 0)`,
    );
    const drop = prepared<[string, string]>(db, "DELETE FROM parcel_file WHERE parcel = ? AND path = ?");
    const inParts = async <T>(all: readonly T[], each: (one: T) => unknown) => {
      for (let at = 0; at < all.length; at += part) {
        writeLazily(db, () => all.slice(at, at + part).forEach(each));
        await breath();
      }
    };
    const paths = new Set(files.map(({ path }) => path));
    await inParts(
      [...before.keys()].filter((path) => !paths.has(path)),
      (path) => drop.run(parcel, path),
    );
    await inParts(
      files.filter(({ path, seen }) => before.get(path)?.seen !== seen),
      ({ path, bytes, seen }) => add.run(parcel, path, thing.item, bytes, seen),
    );
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

  /** A thing lies elsewhere now, and is what was packed. */
  restate(item: string, state: string): void {
    prepared<[string, string, string]>(this.db, "UPDATE parcel_thing SET state = ? WHERE parcel = ? AND item = ?").run(
      state,
      this.parcel,
      item,
    );
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
