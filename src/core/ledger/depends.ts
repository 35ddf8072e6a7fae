import type { Touch } from "./step-type";

/**
 * An entry cannot be undone while a later one that stands shares an item or record with it, relies on a path that it made or
 * moved, made or moved a folder that it relies on, or filled a path that it left: whether the later touch stands in the way of
 * undoing the earlier one.
 */
export function dependsOn(later: Touch, earlier: Touch): boolean {
  for (const key of later.makes) {
    if (!key.startsWith("path:") && earlier.makes.has(key)) return true;
    if (earlier.uses.has(key)) return true;
  }
  for (const key of later.uses) if (earlier.makes.has(key)) return true;
  for (const p of later.fills) if (earlier.leaves.has(p)) return true;
  return false;
}

/** Whether two acts that are under way at once have to do with the same things, or one with a folder that the other relies on. */
export function meets(a: Touch, b: Touch): boolean {
  for (const key of a.makes) if (b.makes.has(key) || b.uses.has(key)) return true;
  for (const key of a.uses) if (b.makes.has(key)) return true;
  return false;
}

/**
 * Of the entries that came later, in the order in which they were done, those that have to be undone before the first one can
 * be: what depends on it, and what depends on these.
 */
export function dependents<Entry>(earlier: Touch, later: Iterable<{ entry: Entry; touch: Touch }>): Entry[] {
  const found: Entry[] = [];
  const concerned = [earlier];
  for (const { entry, touch } of later) {
    if (!concerned.some((one) => dependsOn(touch, one))) continue;
    concerned.push(touch);
    found.push(entry);
  }
  return found;
}
