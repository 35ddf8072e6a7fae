import { type BlanksMeasured, blanks } from "@/core/hollow/blanks";
import type { Engine } from "../engine";

/** Fonts are installed and removed: after so long they are measured anew. */
const anewMs = 10 * 60_000;

let last: { at: number; measured: Promise<BlanksMeasured | undefined> } | undefined;

/** How blanks are drawn in the fonts of this computer, measured once for all who ask; undefined where that could not be. */
export function blanksMeasured({ workers }: Engine): Promise<BlanksMeasured | undefined> {
  const now = performance.now();
  if (last && now - last.at < anewMs) return last.measured;
  const measured = workers.run("measureBlanks", { blanks: Object.keys(blanks) }).catch(() => {
    // A hollow is made without, too: then the list stands as it is. Who asks next measures.
    last = undefined;
    return undefined;
  });
  last = { at: now, measured };
  return measured;
}
