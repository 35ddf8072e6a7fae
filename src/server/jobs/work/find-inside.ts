import Database from "better-sqlite3";
import { joinRaw, type Raw, rawFromBytes } from "@/core/names/raw";
import { itemAbove } from "./find-elsewhere";

export interface FindInside {
  /** The record, which is only read. */
  record: string;
  /** The things on the worktops that are folders. */
  folders: Raw[];
  /** Of the things that are files: where each lies, by its checksum. */
  files: Map<string, Raw>;
}

/** Of a folder on a worktop: the files in it that are identical with one outside of it. */
export interface FoundInside {
  /** How many they are, of how many that are not empty; and their bytes. */
  same: number;
  of: number;
  bytes: number;
  /** One of them, by its name, and where the other lies. */
  name: Raw;
  other: Raw;
}

/** Looks which of the files in the folders on the worktops lie elsewhere too: in a home, on a worktop, or in another such folder. */
export async function findInside({ record, folders, files }: FindInside): Promise<Map<Raw, FoundInside>> {
  const db = new Database(record, { readonly: true, fileMustExist: true });
  try {
    const places = db.prepare<[], { id: number; place: Buffer; home: number }>("SELECT id, place, home FROM folder").all();
    const filesIn = db.prepare<[number], { name: Buffer; bytes: number; sha256: string | null }>(
      "SELECT name, bytes, sha256 FROM filed WHERE folder = ? AND bytes > 0",
    );
    const wanted = new Set(folders);
    const inside: { item: Raw; folder: Raw; name: Buffer; bytes: number; sha256: string | null }[] = [];
    for (const { id, place } of places) {
      const folder = rawFromBytes(place);
      const item = itemAbove(folder, wanted);
      if (item !== undefined) for (const file of filesIn.iterate(id)) inside.push({ item, folder, ...file });
    }
    const copies = new Copies(files);
    for (const file of inside) if (file.sha256 !== null) copies.lieIn(file.item, file.sha256, file);
    const inHomes = db.prepare<[], { folder: number; name: Buffer; sha256: string }>(
      "SELECT filed.folder, name, sha256 FROM filed JOIN folder ON folder.id = filed.folder WHERE home = 1 AND sha256 IS NOT NULL",
    );
    const placeOf = new Map(places.map(({ id, place }) => [id, place]));
    for (const { folder, name, sha256 } of inHomes.iterate()) copies.lieAtHome(sha256, placeOf.get(folder)!, name);
    const found = new Map<Raw, FoundInside>();
    for (const { item, name, bytes, sha256 } of inside) {
      const of = found.get(item) ?? { same: 0, of: 0, bytes: 0, name: "" as Raw, other: "" as Raw };
      found.set(item, of);
      of.of++;
      const other = sha256 === null ? undefined : copies.outside(item, sha256);
      if (other === undefined) continue;
      if (of.same === 0) Object.assign(of, { name: rawFromBytes(name), other });
      of.same++;
      of.bytes += bytes;
    }
    for (const [item, { same }] of found) if (same === 0) found.delete(item);
    return found;
  } finally {
    db.close();
  }
}

/** Where the copies of files lie, by checksum; of those inside folders on the worktops two are enough to know. */
class Copies {
  private readonly inside = new Map<string, { item: Raw; folder: Raw; name: Buffer }[]>();
  private readonly atHome = new Map<string, { place: Buffer; name: Buffer }>();

  constructor(private readonly loose: ReadonlyMap<string, Raw>) {}

  lieIn(item: Raw, sum: string, { folder, name }: { folder: Raw; name: Buffer }): void {
    const known = this.inside.get(sum);
    if (!known) this.inside.set(sum, [{ item, folder, name }]);
    else if (known.length < 2 && known[0]!.item !== item) known.push({ item, folder, name });
  }

  lieAtHome(sum: string, place: Buffer, name: Buffer): void {
    if (this.inside.has(sum)) this.atHome.set(sum, { place, name });
  }

  /** Where one lies that is not in this thing: one in a home before all others. */
  outside(item: Raw, sum: string): Raw | undefined {
    const home = this.atHome.get(sum);
    if (home) return joinRaw(rawFromBytes(home.place), rawFromBytes(home.name));
    const other = this.inside.get(sum)?.find((one) => one.item !== item);
    return this.loose.get(sum) ?? (other && joinRaw(other.folder, rawFromBytes(other.name)));
  }
}
