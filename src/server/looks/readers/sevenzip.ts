import fs from "node:fs";
import type { ArchiveEntry } from "@/contract/looks";
import { NotShown, type Source } from "./source";

/** A part of a file, to be read as one of its own. */
export interface Part {
  source: Source;
  from: number;
  length: number;
  /** Its name, for what only that tells. */
  name: string;
}

/** It takes no longer, whatever it is given to unpack. */
const patienceMs = 5000;

const damaged = "it is damaged, or in a form that is not known";

class Enough extends Error {}

/** The unpacker, with a file that is read where it asks for it; `hear` takes what it writes, byte by byte. */
async function opened(part: Part, print: (line: string) => void, hear?: (byte: number) => void) {
  const { default: make } = await import("7z-wasm");
  const until = Date.now() + patienceMs;
  const tooLong = () => {
    if (Date.now() > until) throw new Enough();
  };
  let heard = 0;
  const stdout = (byte: number) => {
    // What unpacks to much out of little is seldom read.
    if ((++heard & 0xffff) === 0) tooLong();
    hear?.(byte);
  };
  const unpacker = await make({ print, printErr: print, ...(hear ? { stdout, stderr: () => {} } : {}) });
  const { source, from, length } = part;
  const name = `in${/(\.[a-z0-9]+){1,2}$/.exec(part.name)?.[0] ?? ""}`;
  // biome-ignore lint/suspicious/noExplicitAny: its file system has no types of its own
  const files = unpacker.FS as any;
  const node = files.createFile("/", name, {}, true, false);
  node.stream_ops = {
    llseek(stream: { position: number }, offset: number, whence: number) {
      return offset + (whence === 1 ? stream.position : whence === 2 ? length : 0);
    },
    read(_stream: unknown, into: Int8Array, at: number, wanted: number, position: number) {
      tooLong();
      const most = Math.max(0, Math.min(wanted, length - position));
      return most === 0 ? 0 : fs.readSync(source.fd, into, at, most, from + position);
    },
  };
  Object.defineProperty(node, "usedBytes", { get: () => length });
  const { getattr } = node.node_ops;
  node.node_ops = { ...node.node_ops, getattr: (of: unknown) => ({ ...getattr(of), size: length }) };
  return { run: (...words: string[]) => unpacker.callMain([...words, name]) as unknown as number };
}

/** What one packed file holds (xz, bzip2, zstd, lzma), at most so many bytes of it, and whether that is all. */
export async function unpacked(part: Part, most: number): Promise<{ content: Buffer; whole: boolean }> {
  let content = Buffer.alloc(Math.min(most, 1 << 16));
  let length = 0;
  const unpacker = await opened(
    part,
    () => {},
    (byte) => {
      if (length === most) throw new Enough();
      if (length === content.length) content = Buffer.concat([content], Math.min(most, content.length * 2));
      content[length++] = byte;
    },
  );
  let whole = false;
  try {
    whole = unpacker.run("x", "-so") === 0;
  } catch {
    // Enough was unpacked, or it took too long, or it is damaged: what came is shown.
  }
  if (length === 0 && !whole) throw new NotShown(damaged);
  return { content: content.subarray(0, length), whole };
}

/** What lies in an archive (7z, RAR, ISO 9660, CAB, RPM), by its own list. */
export async function listed(
  source: Source,
  mostEntries: number,
): Promise<{ entries: ArchiveEntry[]; locked: boolean; whole: boolean }> {
  const entries: ArchiveEntry[] = [];
  let current: { name?: string; bytes: number; folder: boolean } | undefined;
  let locked = false;
  const end = () => {
    const one = current;
    current = undefined;
    if (one?.name === undefined) return;
    if (entries.length === mostEntries) throw new Enough();
    entries.push({ name: one.name, bytes: one.bytes, ...(one.folder ? { folder: true as const } : {}) });
  };
  let said = "";
  const hear = (told: string) => {
    // How far it is stands before what it says, to be written over.
    const line = told.replace(/^.*[\b\r] */, "");
    const [, key, value = ""] = /^([A-Z][A-Za-z ]*) = ?(.*)$/.exec(line) ?? [];
    said += /ERROR|Wrong password|Cannot open/i.test(line) ? `${line}\n` : "";
    if (key === "Path") {
      end();
      current = { name: value, bytes: 0, folder: false };
    } else if (!current) return;
    else if (key === "Size") current.bytes = Number(value) || 0;
    else if (key === "Folder") current.folder = value === "+";
    else if (key === "Attributes" && /^D/.test(value)) current.folder = true;
    else if (key === "Encrypted" && value === "+") locked = true;
  };
  const unpacker = await opened({ source, from: 0, length: source.bytes, name: source.name }, hear);
  let whole = false;
  try {
    // A password that nobody has: where names are locked too, it is not asked for.
    whole = unpacker.run("l", "-slt", "-ba", "-bd", "-p-") === 0;
    end();
  } catch (error) {
    end();
    if (!(error instanceof Enough) && entries.length === 0)
      throw new NotShown(source.name.endsWith(".7z") ? "it is locked with a password, or damaged" : damaged);
  }
  if (entries.length === 0 && !whole)
    throw new NotShown(/password|encrypted/i.test(said) ? "it is locked with a password" : damaged);
  return { entries, locked, whole };
}
