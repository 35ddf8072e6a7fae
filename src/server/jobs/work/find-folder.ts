import fs from "node:fs";
import type { Identity } from "@/core/ledger/shapes";
import { bytesOfRaw, isWithin, type Raw } from "@/core/names/raw";
import { statIn } from "../../disk/statx";
import type { WorkContext } from "../work-context";
import { stateOf } from "./read-worktop";

/**
 * What tells a thing from others, whatever it is called: a file's inode, size and time, as the inode of one that is gone is
 * soon another's; of a folder, whose time changes with what lies in it, the inode alone.
 */
export const markOf = (of: Pick<Identity, "type" | "ino" | "bytes" | "mtimeNs">) =>
  of.type === "folder" ? `folder:${of.ino}` : stateOf(of);

/**
 * Looks below some places, hidden ones aside, for the folder that holds the most things of these marks; undefined where none
 * holds any. The places themselves are not meant.
 */
export async function findFolder(
  { marks, below }: { marks: string[]; below: Raw[] },
  context: WorkContext,
): Promise<Raw | undefined> {
  const wanted = new Set(marks);
  const notMeant = new Set(below);
  const waiting = below.filter((root) => !below.some((other) => other !== root && isWithin(other, root)));
  let best: { folder: Raw; held: number } | undefined;
  // What is found on the way is looked into after what was found before.
  for (const folder of waiting) {
    if (context.cancelled()) break;
    let opened: number;
    try {
      opened = fs.openSync(
        Buffer.from(bytesOfRaw(folder)),
        fs.constants.O_RDONLY | fs.constants.O_DIRECTORY | fs.constants.O_NOFOLLOW,
      );
    } catch {
      continue;
    }
    let held = 0;
    try {
      for (const entry of fs.readdirSync(`/proc/self/fd/${opened}`, { withFileTypes: true, encoding: "latin1" })) {
        const name = entry.name as Raw;
        const type = entry.isDirectory() ? "folder" : "file";
        if (type === "folder" && !name.startsWith(".")) waiting.push(`${folder}/${name}` as Raw);
        const stat = notMeant.has(folder) ? undefined : statIn(opened, name);
        if (stat && wanted.has(markOf({ type, ...stat }))) held++;
      }
    } catch {
      // Gone, or not readable.
    } finally {
      fs.closeSync(opened);
    }
    if (held > (best?.held ?? 0)) best = { folder, held };
  }
  return best?.folder;
}
