import fs from "node:fs";
import { parse } from "csv-parse/sync";
import type { LookView } from "@/contract/looks";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { openQuietly } from "../../disk/open-quietly";
import { isText } from "./read-words";

export interface LookAtText {
  path: Raw;
  asTable: boolean;
}

/** The beginning of a text or a table. The rows are counted where it was read whole. */
type TextLook = Extract<LookView, { form: "text" | "table" }>;

const most = 2_000_000;
const shownRows = 60;
const shownColumns = 12;
const shownCell = 60;
const shownLines = 120;

/** Reads the beginning of a file as text or as a table (RFC 4180, or with another delimiter); undefined where it is none. Never follows a link. */
export async function lookAtText({ path, asTable }: LookAtText): Promise<TextLook | undefined> {
  const place = Buffer.from(bytesOfRaw(path));
  const fd = openQuietly(place);
  let content: Buffer;
  let whole: boolean;
  try {
    const stat = fs.fstatSync(fd);
    if (!stat.isFile()) return undefined;
    const buffer = Buffer.alloc(Math.min(stat.size, most));
    content = buffer.subarray(0, fs.readSync(fd, buffer, 0, buffer.length, 0));
    whole = stat.size <= most;
  } finally {
    fs.closeSync(fd);
  }
  if (!isText(content)) return undefined;
  const text = content.toString("utf8").replace(/^\ufeff/, "");
  const table = asTable ? readTable(text, whole) : undefined;
  return table ?? { form: "text", lines: text.split(/\r\n|\r|\n/, shownLines).map((line) => line.slice(0, 400)), whole };
}

function readTable(text: string, whole: boolean): TextLook | undefined {
  const first = text.slice(0, text.search(/[\r\n]|$/));
  const delimiter = [",", ";", "\t"].toSorted((a, b) => first.split(b).length - first.split(a).length)[0]!;
  try {
    const rows: string[][] = parse(whole ? text : text.slice(0, text.lastIndexOf("\n")), {
      delimiter,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: true,
    });
    const columns = rows.reduce((width, row) => Math.max(width, row.length), 0);
    if (columns < 2) return undefined;
    const cells = rows.slice(0, shownRows).map((row) => row.slice(0, shownColumns).map((cell) => cell.slice(0, shownCell)));
    return { form: "table", sheets: [{ name: "", cells, columns, rows: whole ? rows.length : undefined }] };
  } catch {
    return undefined;
  }
}
