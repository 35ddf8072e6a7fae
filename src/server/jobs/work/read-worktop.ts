import fs from "node:fs";
import path from "node:path";
import { activityOf } from "@/core/homes/activity";
import { wordsIn } from "@/core/homes/traits";
import type { EntryType } from "@/core/ledger/shapes";
import { mayLookAlike, toldApart } from "@/core/names/alike";
import { bytesOfRaw, isWithin, type Raw, rawFromBytes, shownName, textOfRaw } from "@/core/names/raw";
import { addressOf, programOf, readDesktopEntry } from "@/core/survey/desktop-entry";
import { type Evidence, type Kind, kindOf } from "@/core/survey/kinds";
import { openQuietly, readQuietly, tellsOfOthers } from "../../disk/open-quietly";
import type { WorkContext } from "../work-context";
import { typeOfZip } from "./container";
import { headLength, isText, senderOf, wordsOfText } from "./read-words";

/** What the reader of a kind found. `dead` says what a shortcut leads to when that is not there. */
export interface ItemFacts {
  width?: number;
  height?: number;
  leadsTo?: string;
  dead?: string;
  /** What the program of a shortcut is for. */
  activity?: string;
  entries?: number;
  /** A folder that may not be looked into. */
  closed?: true;
  /** Words of its text and heads of its columns, as in what lies in the homes; of a folder the words of the names in it. */
  words?: string[];
  /** The host it was downloaded from. */
  sender?: string;
}

/** One entry of a worktop as read. `state` is what must differ for it to be read again. */
export interface ReadEntry {
  name: Raw;
  type: EntryType;
  ino: string;
  dev: string;
  bytes: number;
  mtimeNs: string;
  bornMs: number;
  /** When it was last read, as recorded; a look of ours does not count as one. */
  openedMs?: number;
  label: string;
  /** Missing where the entry is in the known state. */
  found?: { kind: Kind; why: string; facts: ItemFacts };
}

export interface ReadWorktop {
  folder: Raw;
  /** The state in which each name is known; these are not read again. Shortcuts always are, as what they lead to changes. */
  known: Map<Raw, string>;
  /** Just this one entry. */
  only?: Raw;
}

/** Of a folder, so many names are read for their words. */
const namesRead = 60;

export const stateOf = (e: { ino: string; bytes: number; mtimeNs: string }) => `${e.ino}:${e.bytes}:${e.mtimeNs}`;

export interface WorktopRead {
  entries: ReadEntry[];
  /** How many there are that are hidden by agreement, with a dot in front, and are no icons. */
  hidden: number;
}

/** Reads all entries of one worktop folder; undefined where it is missing or cannot be read. Entries that vanish meanwhile are left out. */
export async function readWorktop({ folder, known, only }: ReadWorktop, context: WorkContext): Promise<WorktopRead | undefined> {
  const base = Buffer.from(bytesOfRaw(folder));
  let names: Buffer[];
  try {
    // A link in its place leads where nothing may be moved.
    if (!fs.lstatSync(base).isDirectory()) return undefined;
    names = only === undefined ? fs.readdirSync(base, { encoding: "buffer" }) : [Buffer.from(bytesOfRaw(only))];
  } catch {
    return undefined;
  }
  const entries: ReadEntry[] = [];
  let hidden = 0;
  for (const nameBytes of names) {
    if (context.cancelled()) break;
    const name = rawFromBytes(nameBytes);
    // Names with a dot in front are hidden by agreement and not drawn on a desktop; lock files tell of use.
    if (name.startsWith(".") && !name.startsWith(".~lock.")) {
      hidden++;
      continue;
    }
    const place = Buffer.concat([base, Buffer.from("/"), nameBytes]);
    const stat = statOf(place);
    // Gone between listing and looking.
    if (!stat) continue;
    const type: EntryType = stat.isFile() ? "file" : stat.isDirectory() ? "folder" : stat.isSymbolicLink() ? "link" : "special";
    const entry: ReadEntry = {
      name,
      type,
      ino: String(stat.ino),
      dev: String(stat.dev),
      bytes: Number(stat.size),
      mtimeNs: String(stat.mtimeNs),
      bornMs: Number(stat.birthtimeMs || stat.mtimeMs),
      label: shownName(name),
    };
    if (type === "folder") entry.bytes = 0;
    // What lists a folder, as this does, sets its time.
    else if (tellsOfOthers(stat)) entry.openedMs = Number(stat.atimeMs);
    // Whatever is in it, it lies there.
    if (known.get(name) !== stateOf(entry))
      entry.found = await look(place, entry, stat).catch(() => ({
        kind: "other" as const,
        why: "it cannot be looked into",
        facts: {},
      }));
    entries.push(entry);
  }
  const labels = entries.map(({ label }) => label);
  if (mayLookAlike(labels)) {
    // Loaded when first needed: it knows thousands of characters.
    const { default: unhomoglyph } = await import("unhomoglyph");
    for (const [n, label] of toldApart(labels, unhomoglyph).entries()) entries[n]!.label = label;
  }
  return { entries, hidden };
}

function statOf(place: Buffer): fs.BigIntStats | undefined {
  try {
    return fs.lstatSync(place, { bigint: true });
  } catch {
    return undefined;
  }
}

async function look(place: Buffer, entry: ReadEntry, stat: fs.BigIntStats): Promise<NonNullable<ReadEntry["found"]>> {
  const facts: ItemFacts = {};
  const evidence: Evidence = {
    name: textOfRaw(entry.name) ?? entry.label,
    type: entry.type,
    bytes: entry.bytes,
    isText: false,
    executable: (stat.mode & 0o111n) !== 0n,
  };
  if (entry.type === "file" && entry.bytes > 0) await lookInside(place, entry, evidence, facts);
  if (entry.type === "link") lookAtLink(place, facts);
  if (entry.type === "folder") {
    try {
      const names = fs.readdirSync(place);
      facts.entries = names.length;
      facts.words = wordsIn(names.slice(0, namesRead).join(" ")).slice(0, namesRead);
    } catch {
      // It is a thing all the same.
      facts.closed = true;
    }
  }
  const { kind, why } = kindOf(evidence);
  return { kind, why, facts };
}

async function lookInside(place: Buffer, entry: ReadEntry, evidence: Evidence, facts: ItemFacts): Promise<void> {
  let head: Buffer;
  try {
    const fd = openQuietly(place);
    try {
      head = Buffer.alloc(Math.min(headLength, entry.bytes));
      head = head.subarray(0, fs.readSync(fd, head, 0, head.length, 0));
    } finally {
      fs.closeSync(fd);
    }
  } catch {
    // May not be read: told by its name.
    return;
  }
  evidence.isText = isText(head);
  facts.sender = senderOf(place);
  if (evidence.isText) {
    evidence.head = head.toString("utf8");
    facts.words = wordsOfText(evidence.head, evidence.name);
    lookAtShortcut(evidence.head, place, facts);
    return;
  }
  // Both loaded when first needed: that takes longer than reading most worktops.
  const { fileTypeFromBuffer } = await import("file-type");
  const found = await fileTypeFromBuffer(head).catch(() => undefined);
  if (!found) return;
  evidence.mime = found.mime;
  if (found.mime === "application/zip") {
    const fd = openQuietly(place);
    try {
      evidence.mime = (await typeOfZip(fd)) ?? found.mime;
    } finally {
      fs.closeSync(fd);
    }
  }
  if (found.mime.startsWith("image/") && entry.bytes < 100_000_000) {
    const { default: sharp } = await import("sharp");
    // Read whole, because sharp takes a path as text only; decoded is the header alone.
    const metadata = await sharp(readQuietly(place), { failOn: "none" })
      .metadata()
      .catch(() => undefined);
    if (metadata) {
      const turned = (metadata.orientation ?? 1) >= 5;
      facts.width = turned ? metadata.height : metadata.width;
      facts.height = turned ? metadata.width : metadata.height;
      evidence.width = facts.width;
      evidence.height = facts.height;
      evidence.hasCamera = metadata.exif !== undefined;
    }
  }
}

function lookAtLink(place: Buffer, facts: ItemFacts): void {
  const target = rawFromBytes(fs.readlinkSync(place, { encoding: "buffer" }));
  facts.leadsTo = shownName(target);
  if (!exists(place)) facts.dead = facts.leadsTo;
}

function lookAtShortcut(head: string, place: Buffer, facts: ItemFacts): void {
  const entry = readDesktopEntry(head);
  if (!entry) {
    const address = /^\s*\[InternetShortcut\]/.test(head) ? addressOf(head) : undefined;
    if (address) facts.leadsTo = address;
    return;
  }
  if (entry.get("Type") === "Link") {
    const address = entry.get("URL");
    if (address) facts.leadsTo = address;
    if (address?.startsWith("file:///")) {
      const target = pathOf(address);
      if (!exists(target)) facts.dead = shownName(rawFromBytes(target));
    }
    return;
  }
  const program = entry.get("TryExec") ?? programOf(entry.get("Exec") ?? "");
  if (!program) return;
  facts.leadsTo = program;
  facts.activity = activityOf(entry.get("Categories"));
  if (!programExists(program, place)) facts.dead = program;
}

/** The path of a file's address (RFC 8089), as bytes: other programs escape what they like, and what is no escape is meant as it stands. */
function pathOf(address: string): Buffer {
  const bytes = Buffer.from(address.slice("file://".length)).toString("latin1");
  const plain = bytes.replace(/%([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(Number.parseInt(hex, 16)));
  return Buffer.from(plain.replaceAll("\0", ""), "latin1");
}

function exists(place: Buffer): boolean {
  try {
    fs.statSync(place);
    return true;
  } catch {
    return false;
  }
}

/** A program by its path, or by name in PATH and in the account's own folders of programs above the shortcut. */
function programExists(program: string, shortcut: Buffer): boolean {
  if (program.includes("/")) return exists(Buffer.from(program));
  const folders = (process.env.PATH ?? "").split(path.delimiter);
  const from = rawFromBytes(shortcut);
  for (let at = from.lastIndexOf("/"); at > 0; at = from.lastIndexOf("/", at - 1)) {
    const above = from.slice(0, at) as Raw;
    if (isWithin(above, from)) folders.push(`${above}/.local/bin`);
  }
  return folders.some((folder) => folder !== "" && exists(Buffer.from(`${folder}/${program}`, "latin1")));
}
