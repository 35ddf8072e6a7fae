import { createHash } from "node:crypto";
import type { ParcelThingJson, ParcelThings } from "@/contract/parcel";
import { rawToJson } from "@/contract/raw-json";
import { bagDeclaration, bagInfoText, manifestLine, pageFile, pageText, tagManifestFile, thingsFile } from "@/core/depots/bagit";
import type { Db } from "../db/db";
import { readPosition } from "../db/record";
import { ParcelFiles } from "./parcel-files";

/** A file that a bag has of itself. */
export interface TagFile {
  path: string;
  text: string;
  /** Of the text as UTF-8. */
  bytes: number;
  sha256: string;
}

/** The tag files of a parcel all of whose files were read (RFC 8493), the tag manifest last. `at`: when it was begun. */
export function tagFilesOf(db: Db, { id, title, at }: { id: string; title: string; at: number }): TagFile[] {
  const known = new ParcelFiles(db, id);
  const madeAt = new Date(at).toISOString();
  const files = known.all();
  const sums = new Map(files.map((file) => [file.path, file.sha256!]));
  const things = known.contents().map(
    ({ item, name, folder, entries }): ParcelThingJson => ({
      item,
      name: rawToJson(name),
      folder: rawToJson(folder),
      position: readPosition(db, item),
      entries: entries.map((entry) => (entry.payload === undefined ? entry : { ...entry, sha256: sums.get(entry.payload) })),
    }),
  );
  const list: ParcelThings = { version: 1, parcel: { id, title, madeAt }, things };
  const bytes = files.reduce((sum, file) => sum + file.bytes, 0);
  const info = { id, title, date: madeAt.slice(0, 10), bytes, files: files.length };
  const tagged = [
    tagFile("bagit.txt", bagDeclaration),
    tagFile("bag-info.txt", bagInfoText(info)),
    tagFile(pageFile, pageText(info)),
    tagFile("manifest-sha256.txt", files.map(({ path, sha256 }) => manifestLine(sha256!, path)).join("")),
    tagFile(thingsFile, `${JSON.stringify(list, null, 1)}\n`),
  ];
  return [...tagged, tagFile(tagManifestFile, tagged.map(({ path, sha256 }) => manifestLine(sha256, path)).join(""))];
}

function tagFile(path: string, text: string): TagFile {
  return { path, text, bytes: Buffer.byteLength(text), sha256: createHash("sha256").update(text).digest("hex") };
}
