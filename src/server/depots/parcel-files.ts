import type { Db } from "../db/db";
import { prepared } from "../db/prepared";

/** How far a file of a parcel is: it waits, lies in the depot, or was read back from there and is the same. */
export type FileState = "waiting" | "written" | "proven";

export interface ParcelFile {
  /** In the parcel, beginning with data/. */
  path: string;
  item: string;
  bytes: number;
  state: FileState;
  sha256: string | null;
}

/** The files of one parcel, as the record knows them. */
export class ParcelFiles {
  constructor(
    private readonly db: Db,
    private readonly parcel: string,
  ) {}

  all(): ParcelFile[] {
    return prepared<[string], ParcelFile>(
      this.db,
      "SELECT path, item, bytes, state, sha256 FROM parcel_file WHERE parcel = ? ORDER BY path",
    ).all(this.parcel);
  }

  /** The files of a thing that is about to be sent. */
  await(item: string, files: readonly { path: string; bytes: number }[]): void {
    const add = prepared<[string, string, string, number]>(
      this.db,
      "INSERT INTO parcel_file (parcel, path, item, bytes, state) VALUES (?, ?, ?, ?, 'waiting')",
    );
    this.db.transaction(() => {
      for (const { path, bytes } of files) add.run(this.parcel, path, item, bytes);
    })();
  }

  written(sums: ReadonlyMap<string, string>): void {
    const mark = prepared<[string, string, string]>(
      this.db,
      "UPDATE parcel_file SET state = 'written', sha256 = ? WHERE parcel = ? AND path = ?",
    );
    this.db.transaction(() => {
      for (const [path, sum] of sums) mark.run(sum, this.parcel, path);
    })();
  }

  proven(paths: Iterable<string>): void {
    const mark = prepared<[string, string]>(
      this.db,
      "UPDATE parcel_file SET state = 'proven' WHERE parcel = ? AND path = ? AND state = 'written'",
    );
    this.db.transaction(() => {
      for (const path of paths) mark.run(this.parcel, path);
    })();
  }

  /** A thing that does not go with it, or all of them. */
  forget(item?: string): void {
    if (item === undefined) prepared<[string]>(this.db, "DELETE FROM parcel_file WHERE parcel = ?").run(this.parcel);
    else prepared<[string, string]>(this.db, "DELETE FROM parcel_file WHERE parcel = ? AND item = ?").run(this.parcel, item);
  }
}
