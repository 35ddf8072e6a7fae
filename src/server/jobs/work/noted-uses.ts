import fs from "node:fs";
import { XMLParser } from "fast-xml-parser";
import { bytesOfRaw, type Raw } from "@/core/names/raw";
import { programOf } from "@/core/survey/desktop-entry";
import { openQuietly } from "../../disk/open-quietly";

interface Noted {
  "@exec"?: string;
  "@modified"?: string;
}

const asList = <T>(value: T | T[] | undefined): T[] => (value === undefined ? [] : Array.isArray(value) ? value : [value]);

/** A list of recently used files that is longer says nothing; bytes. Ordinary ones have some hundred kilobytes. */
const longest = 16 << 20;

/** The latest use of each program by name among the recently used files (Desktop Bookmark Specification); milliseconds since 1970. */
export async function notedUses({ file }: { file: Raw }): Promise<[program: string, at: number][]> {
  let fd: number | undefined;
  try {
    fd = openQuietly(Buffer.from(bytesOfRaw(file)));
    const stat = fs.fstatSync(fd);
    return stat.isFile() && stat.size <= longest ? [...usesIn(fs.readFileSync(fd, "utf8"))] : [];
  } catch {
    return [];
  } finally {
    if (fd !== undefined) fs.closeSync(fd);
  }
}

export function usesIn(text: string): Map<string, number> {
  const used = new Map<string, number>();
  type Bookmark = { info?: { metadata?: { applications?: { application?: Noted | Noted[] } } | [] } };
  let marks: Bookmark[];
  try {
    const parser = new XMLParser({ ignoreAttributes: false, attributeNamePrefix: "@", removeNSPrefix: true });
    const read = parser.parse(text) as { xbel?: { bookmark?: Bookmark | Bookmark[] } };
    marks = asList(read.xbel?.bookmark);
  } catch {
    return used;
  }
  for (const { info } of marks)
    for (const metadata of asList(info?.metadata))
      for (const noted of asList((metadata as { applications?: { application?: Noted | Noted[] } }).applications?.application)) {
        // Written as a shell would take it: 'program %u'.
        const program = programOf((noted["@exec"] ?? "").replace(/^'(.*)'$/, "$1"));
        const at = Date.parse(noted["@modified"] ?? "");
        if (!program || Number.isNaN(at)) continue;
        const name = program.slice(program.lastIndexOf("/") + 1);
        used.set(name, Math.max(used.get(name) ?? 0, at));
      }
  return used;
}
