import fs from "node:fs";
import { constants, gunzipSync } from "node:zlib";
import type { LookView } from "@/contract/looks";
import type { Raw } from "@/core/names/raw";
import { typeOfZip } from "../jobs/work/container";
import { other, packed, tar, zip } from "./readers/archive";
import { code, isCode } from "./readers/code";
import { deb } from "./readers/deb";
import { font } from "./readers/font";
import { calendar, letter } from "./readers/letter";
import { media } from "./readers/media";
import { docx, odp, ods, odt, pptx, xlsx } from "./readers/office";
import { page, pages } from "./readers/pages";
import { pictureOfTalk, seldomPicture } from "./readers/pictures";
import { rtf } from "./readers/rtf";
import { NotShown, openSource, type Source } from "./readers/source";
import { geojson, gpx } from "./readers/track";

/** What the process is asked: to look at a file, or to draw it, one of its pages, its letters, or a picture in it. */
export interface LookAsked {
  id: number;
  path: Raw;
  page?: { n: number; width: number };
  /** A font's letters, so many pixels wide. */
  font?: { width: number };
  /** A talk's picture, by its name in it. */
  part?: { name: string; width: number };
  picture?: { width: number; height: number };
}

/** What can be drawn of a file. */
export type Drawing = Pick<LookAsked, "page" | "font" | "part" | "picture">;

export interface LookAnswered {
  id: number;
  look?: LookView;
  picture?: Uint8Array;
  /** Why there is neither, in words. */
  why?: string;
}

type Reader = (source: Source) => Promise<LookView> | LookView;

const openXml = "application/vnd.openxmlformats-officedocument.";
const openDocument = "application/vnd.oasis.opendocument.";

/** The reader of a type; of text, by what its beginning says. */
const readers: Record<string, Reader> = {
  "application/pdf": pages,
  [`${openXml}wordprocessingml.document`]: docx,
  [`${openXml}spreadsheetml.sheet`]: xlsx,
  [`${openXml}presentationml.presentation`]: pptx,
  [`${openDocument}text`]: odt,
  [`${openDocument}spreadsheet`]: ods,
  [`${openDocument}presentation`]: odp,
  "application/zip": zip,
  "application/x-tar": (source) => tar(source, false),
  "application/gzip": gzip,
  "application/x-bzip2": packed,
  "application/x-xz": packed,
  "application/zstd": packed,
  "application/x-lzip": packed,
  "application/x-7z-compressed": other,
  "application/x-rar-compressed": other,
  "application/vnd.ms-cab-compressed": other,
  "application/x-rpm": other,
  "application/x-iso9660-image": other,
  "application/x-deb": deb,
  "application/vnd.debian.binary-package": deb,
  "application/rtf": rtf,
  "application/x-cfb": () => {
    throw new NotShown("it has the form that office programs used before 2007, which is not read here");
  },
};

const isTar = (head: Buffer) => head.length >= 262 && head.toString("latin1", 257, 262) === "ustar";

/** A packed tar is listed; anything else that is packed alone is one entry, as long as its end says (RFC 1952). */
function gzip(source: Source): Promise<LookView> | LookView {
  let head: Buffer;
  try {
    head = gunzipSync(source.head(65_536), { finishFlush: constants.Z_SYNC_FLUSH, maxOutputLength: 8_000_000 });
  } catch {
    throw new NotShown("it is damaged, or was cut off");
  }
  if (isTar(head)) return tar(source, true);
  const end = Buffer.alloc(4);
  fs.readSync(source.fd, end, 0, 4, Math.max(0, source.bytes - 4));
  const bytes = end.readUInt32LE(0);
  return { form: "archive", entries: [{ name: source.name.replace(/\.gz$/, ""), bytes }], count: 1, bytes, whole: true };
}

async function readerFor(source: Source): Promise<Reader | undefined> {
  const head = source.head(4100);
  const { fileTypeFromBuffer } = await import("file-type");
  const found = (await fileTypeFromBuffer(head))?.mime as string | undefined;
  const isZip = head.subarray(0, 2).toString("latin1") === "PK";
  // A template is read as what is made from it.
  const mime = (isZip ? ((await typeOfZip(source.fd)) ?? "application/zip") : isTar(head) ? "application/x-tar" : found)?.replace(
    /-template$/,
    "",
  );
  if (mime && Object.hasOwn(readers, mime)) return readers[mime];
  if (mime && /^(audio|video)\//.test(mime)) return (of) => media(of, mime);
  if (mime && /^font\//.test(mime)) return () => ({ form: "font" });
  if (isZip) return zip;
  const text = head.toString("utf8").replace(/^\ufeff/, "");
  if (text.startsWith("BEGIN:VCALENDAR")) return calendar;
  if (/<gpx[\s>]/.test(text)) return gpx;
  if (source.name.endsWith(".geojson") || /"type"\s*:\s*"(FeatureCollection|Feature)"/.test(text)) return geojson;
  if (/^\{\\rtf/.test(text)) return rtf;
  const isLetter = /^(from |(return-path|received|from|date|subject|message-id|mime-version|delivered-to)\s*:)/im;
  if (source.name.endsWith(".eml") || (isLetter.test(text.slice(0, 200)) && /^message-id\s*:/im.test(text))) return letter;
  if (isCode(source.name)) return async (of) => (await code(of)) ?? bytesOf(of);
  return undefined;
}

const rows = 24;

/** The head of its bytes, sixteen in a row. */
function bytesOf(source: Source, why?: string): LookView {
  const head = source.head(rows * 16);
  const lines = Array.from({ length: Math.ceil(head.length / 16) }, (_, n) => head.subarray(16 * n, 16 * n + 16));
  return {
    form: "bytes",
    why,
    head: lines.map((line, n) => ({
      at: 16 * n,
      hex: [...line].map((byte) => byte.toString(16).padStart(2, "0")).join(" "),
      text: [...line].map((byte) => (byte > 31 && byte < 127 ? String.fromCharCode(byte) : "·")).join(""),
    })),
  };
}

/** Looks at a file by its content. What no reader reads, or a reader cannot, is shown by its bytes, with why. */
export async function lookAt(path: Raw): Promise<LookView> {
  const source = openSource(path);
  if (!source) throw new NotShown("it is no file");
  try {
    const reader = await readerFor(source);
    return reader ? await reader(source) : bytesOf(source);
  } catch (error) {
    return bytesOf(source, error instanceof NotShown ? error.message : "it is damaged, or in a form that is not known");
  } finally {
    fs.closeSync(source.fd);
  }
}

/** What was asked to be drawn, as a PNG; undefined where nothing was. */
function drawing(source: Source, { page: wanted, font: letters, part, picture }: LookAsked): Promise<Uint8Array> | undefined {
  if (wanted) return page(source, wanted.n, wanted.width);
  if (letters) return font(source, letters.width);
  if (part) return pictureOfTalk(source, part.name, part.width);
  return picture && seldomPicture(source, picture);
}

async function answer(asked: LookAsked): Promise<LookAnswered> {
  const { id, path } = asked;
  try {
    const source = openSource(path);
    if (!source) return { id, why: "it is no file" };
    try {
      const picture = await drawing(source, asked);
      return picture ? { id, picture } : { id, look: await lookAt(path) };
    } finally {
      fs.closeSync(source.fd);
    }
  } catch (error) {
    return { id, why: error instanceof NotShown ? error.message : "it is damaged, or in a form that is not known" };
  }
}

if (process.send) {
  process.on("message", (asked: LookAsked) => {
    void answer(asked).then((answered) => process.send!(answered));
  });
  // Who asked is gone: there is nobody to look for.
  process.on("disconnect", () => process.exit(0));
}
