import { type BlanksMeasured, blanks } from "@/core/hollow/blanks";
import type { Engine } from "../engine";

/** Fonts are installed and removed: after so long they are measured anew. */
const anewMs = 10 * 60_000;

let last: { at: number; measured: BlanksMeasured } | undefined;

/** How blanks are drawn in the fonts of this computer; undefined where that could not be measured. */
export async function blanksMeasured({ workers }: Engine): Promise<BlanksMeasured | undefined> {
  const now = performance.now();
  if (last && now - last.at < anewMs) return last.measured;
  try {
    const measured = await workers.run("measureBlanks", { blanks: Object.keys(blanks) });
    last = { at: now, measured };
    return measured;
  } catch {
    // A hollow is made without, too: then the list stands as it is.
    return undefined;
  }
}
