import fs from "node:fs";
import type { LookView } from "@/contract/looks";
import { listTar } from "./archive";
import { type Part, unpacked } from "./sevenzip";
import { NotShown, type Source } from "./source";

/** So much of what it would install is unpacked to list it. */
const mostListed = 60_000_000;
const mostControl = 4_000_000;
const headLength = 60;
/** Where Debian's own list of packages lies. */
const installed = "/var/lib/dpkg/status";

/** The members of an ar archive (deb(5), ar(5)), as parts of it. */
function* members(source: Source): Generator<Part> {
  const head = Buffer.alloc(headLength);
  for (let at = 8, n = 0; at + headLength <= source.bytes && n < 20; n++) {
    fs.readSync(source.fd, head, 0, headLength, at);
    const length = Number(head.toString("latin1", 48, 58).trim());
    if (!Number.isInteger(length) || length < 0) return;
    const name = head.toString("latin1", 0, 16).trim().replace(/\/$/, "");
    yield { source, from: at + headLength, length: Math.min(length, source.bytes - at - headLength), name };
    at += headLength + length + (length % 2);
  }
}

/** A member that is a tar, unpacked up to a bound. */
async function tarOf(part: Part, most: number): Promise<{ content: Buffer; whole: boolean }> {
  if (!part.name.endsWith(".tar")) return unpacked(part, most);
  const content = Buffer.alloc(Math.min(part.length, most));
  fs.readSync(part.source.fd, content, 0, content.length, part.from);
  return { content, whole: content.length === part.length };
}

/** Fields of a paragraph (deb-control(5)); of the description its first line. */
const field = (text: string, name: string) => new RegExp(`^${name}: *(.*)$`, "m").exec(text)?.[1]?.trim();

/** The version in which a package is installed on this computer, if it is. */
function versionThere(name: string): string | undefined {
  try {
    const paragraph = fs
      .readFileSync(installed, "utf8")
      .split("\n\n")
      .find((one) => field(one, "Package") === name);
    return paragraph && / installed$/.test(field(paragraph, "Status") ?? "") ? field(paragraph, "Version") : undefined;
  } catch {
    return undefined;
  }
}

/** A package of Debian's: what it is, what it would install, and whether that is there. */
export async function deb(source: Source): Promise<LookView> {
  const parts = [...members(source)];
  const control = parts.find(({ name }) => name.startsWith("control.tar"));
  const data = parts.find(({ name }) => name.startsWith("data.tar"));
  if (!control || !data) throw new NotShown("it is damaged, or was cut off");
  const said = await listTar((await tarOf(control, mostControl)).content, /^(\.\/)?control$/);
  const text = said.content?.toString("utf8") ?? "";
  const name = field(text, "Package");
  if (!name) throw new NotShown("it does not say what it is");
  const { content, whole } = await tarOf(data, mostListed);
  const { entries, count, bytes, goesOn } = await listTar(content);
  return {
    form: "archive",
    entries,
    count,
    bytes,
    whole: whole && !goesOn,
    program: { name, version: field(text, "Version") ?? "", words: field(text, "Description") ?? "", there: versionThere(name) },
  };
}
