import { cutBytes, freeName } from "../names/free-name";
import { type Raw, rawFromText, textOfRaw } from "../names/raw";

/**
 * The parts of a BagIt bag (RFC 8493, version 1.0). A bag is checked with ordinary tools:
 * `sha256sum -c manifest-sha256.txt` in its folder.
 */
export const bagDeclaration = "BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n";

/** The tag file that keeps what a bag loses: name bytes, places, times, modes, links, empty folders. */
export const thingsFile = "things.json";

/** The tag file with the checksums of the others: with its own checksum all of a bag is known. */
export const tagManifestFile = "tagmanifest-sha256.txt";

/** A path in a manifest as the file is called: what RFC 8493 escapes is read back. */
export const pathInManifest = (written: string): string =>
  written.replace(/%(0[AaDd]|25)/g, (_, digits: string) => String.fromCharCode(Number.parseInt(digits, 16)));

/** Some servers write a file under a longer name first. */
const mostBytes = 240;

/**
 * A name as it may stand in a payload: text without %, backslash and control characters (which manifests escape in
 * different ways), unique in its folder also where case and composition do not count.
 */
export function payloadName(raw: Raw, taken: Set<string>): string {
  // In one form (Unicode, NFC): a store may keep another, and tell of it so.
  const text = (textOfRaw(raw)?.normalize("NFC") ?? raw.replace(/[^\x20-\x7e]/g, "_"))
    .replace(/[%\\\u0000-\u001f\u007f-\u009f\u2028\u2029]/g, "_")
    .replace(/^[\s*]+|\s+$/g, "_");
  const key = (name: Raw) => (textOfRaw(name) ?? name).normalize("NFC").toLowerCase();
  const free = freeName(cutBytes(rawFromText(text === "" ? "_" : text), mostBytes), (name) => taken.has(key(name)));
  taken.add(key(free));
  return textOfRaw(free) ?? free;
}

/** One line of a manifest: checksum, two spaces, path. */
export function manifestLine(sha256: string, path: string): string {
  return `${sha256}  ${path}\n`;
}

/** Reads a manifest: checksum by path. A line that is none is answered as damage. */
export function readManifest(text: string): { sums: Map<string, string>; damaged: string[] } {
  const sums = new Map<string, string>();
  const damaged: string[] = [];
  for (const line of text.split("\n")) {
    if (line === "") continue;
    const match = /^([0-9a-fA-F]{64})[ \t]+\*?(.+)$/.exec(line);
    const path = match?.[2];
    if (!match || !path || path.startsWith("/") || path.split("/").includes("..")) damaged.push(line);
    else sums.set(path, match[1]!.toLowerCase());
  }
  return { sums, damaged };
}

export interface BagInfo {
  id: string;
  title: string;
  /** A date, YYYY-MM-DD. */
  date: string;
  bytes: number;
  files: number;
}

/** `bag-info.txt`; Payload-Oxum is octets and streams. */
export function bagInfoText(info: BagInfo): string {
  const title = info.title.replace(/[\r\n]+/g, " ");
  return [
    `External-Identifier: ${info.id}`,
    `External-Description: ${title}`,
    `Bagging-Date: ${info.date}`,
    `Payload-Oxum: ${info.bytes}.${info.files}`,
    "",
  ].join("\n");
}

/** The page in each bag for who finds it, years later and without Vuoto. */
export const pageFile = "HOW-TO-BRING-IT-BACK.txt";

/** What that page says. */
export function pageText({ title, date, bytes, files }: BagInfo): string {
  return [
    `This folder is a parcel, “${title.replace(/[\r\n]+/g, " ")}”, packed on ${date}: ${files} ${files === 1 ? "file" : "files"}, ${bytes} bytes.`,
    "",
    "What was sent lies in the folder data, as it was: files are files and folders are folders. To bring something back, copy",
    `it from there to where it shall lie. Links are not in it: where each led is written in ${thingsFile}.`,
    "",
    "To see whether all of it is whole, go into this folder and say",
    "",
    "    sha256sum -c manifest-sha256.txt",
    "",
    "which reads every file and says OK of each that is as it was sent. The files beside data are checked by",
    "",
    "    sha256sum -c tagmanifest-sha256.txt",
    "",
    `A name that not every disk can hold was changed a little. ${thingsFile} tells what each thing was called and where it lay,`,
    "with its times and rights. The folder is a bag as RFC 8493 describes it; other programs that read such bags can check it too.",
    "",
  ].join("\n");
}

export function bagIdentifier(infoText: string): string | undefined {
  return /^External-Identifier: (.+)$/m.exec(infoText)?.[1];
}

/** The name of a bag's folder in a depot: the parcel's title, safe for any file system. */
export function bagName(title: string, taken: (name: Raw) => boolean): Raw {
  const clean = title
    .normalize("NFC")
    .replace(/[^\p{L}\p{N} ._-]+/gu, "-")
    .replace(/\s+/g, " ")
    .replace(/^[.\s-]+|[.\s]+$/g, "");
  return freeName(cutBytes(rawFromText(clean === "" ? "parcel" : clean), 120), taken);
}
