import type Database from "better-sqlite3";
import type { FiledThing } from "@/core/homes/belongs";
import { joinRaw, type Raw, rawFromBytes, shownName } from "@/core/names/raw";
import type { Kind } from "@/core/survey/kinds";

/** Learned from at most so many files of one home, the newest, and of all homes. */
const mostOfHome = 400;
const mostOfAll = 20_000;

/** The newest of each home, as many as are learned from. */
const chosenFiles = `
  SELECT * FROM (
    SELECT filed.id, folder.key, folder.place, filed.name, filed.kind, filed.mtime_ns, filed.words, filed.sender,
      row_number() OVER (PARTITION BY filed.folder ORDER BY filed.mtime_ns DESC) AS place_in_home
    FROM filed JOIN folder ON folder.id = filed.folder WHERE folder.home = 1
  ) WHERE place_in_home <= ${mostOfHome} ORDER BY place_in_home LIMIT ${mostOfAll}`;

interface Chosen {
  id: number;
  key: string;
  place: Buffer;
  name: Buffer;
  kind: Kind;
  mtime_ns: string;
  words: string | null;
  sender: string | null;
}

const pathOf = ({ place, name }: Chosen) => joinRaw(rawFromBytes(place), rawFromBytes(name));

/** Those of the files in the homes that are learned from, and whose words were not read yet. */
export const unreadFiles = (db: Database.Database): { id: number; path: Raw }[] =>
  db
    .prepare<[], Chosen>(chosenFiles)
    .all()
    .flatMap((row) => (row.words === null ? [{ id: row.id, path: pathOf(row) }] : []));

/** The files in the homes that are learned from. What went only to an area, and waits there, says nothing of where it belongs. */
export const filedThings = (db: Database.Database, waiting: ReadonlySet<Raw>): FiledThing[] =>
  db
    .prepare<[], Chosen>(chosenFiles)
    .all()
    .filter((row) => waiting.size === 0 || !waiting.has(pathOf(row)))
    .map((row) => ({
      home: row.key,
      name: shownName(rawFromBytes(row.name)),
      kind: row.kind,
      mtimeMs: Number(BigInt(row.mtime_ns) / 1_000_000n),
      words: row.words ? row.words.split(" ") : undefined,
      sender: row.sender ?? undefined,
    }));
