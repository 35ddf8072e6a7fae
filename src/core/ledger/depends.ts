import { folderOf, type Raw } from "../names/raw";
import type { Step } from "./step";

/**
 * What a step has to do with, for the question whether an older entry can be undone. `makes`: items, records and paths
 * that it changes; `uses`: the folders it relies on; `leaves`: the paths it took something from, which undo needs free;
 * `fills`: those it put something at. An entry cannot be undone while a later one that stands shares an item or record with
 * it, relies on a path that it made or moved, made or moved a folder that it relies on, or filled a path that it left.
 */
export interface Touch {
  makes: Set<string>;
  uses: Set<string>;
  leaves: Set<Raw>;
  fills: Set<Raw>;
}

const item = (id: string) => `item:${id}`;
const path = (p: Raw) => `path:${p}`;

export function touchesOf(steps: Step[]): Touch {
  const makes = new Set<string>();
  const uses = new Set<string>();
  const leaves = new Set<Raw>();
  const fills = new Set<Raw>();
  const useFolders = (p: Raw) => {
    for (let folder = folderOf(p); folder !== "/"; folder = folderOf(folder)) uses.add(path(folder));
  };
  const change = (p: Raw) => {
    makes.add(path(p));
    useFolders(p);
  };
  const leave = (p: Raw) => {
    change(p);
    leaves.add(p);
  };
  const fill = (p: Raw) => {
    change(p);
    fills.add(p);
  };
  for (const step of steps) {
    switch (step.type) {
      case "move":
        leave(step.from);
        fill(step.to);
        if (step.item) makes.add(item(step.item));
        break;
      case "copy":
        fill(step.to);
        if (step.item) makes.add(item(step.item));
        break;
      case "trash":
        leave(step.from);
        makes.add(`trash:${step.trash}/${step.name}`);
        if (step.item) makes.add(item(step.item));
        break;
      case "erase":
        makes.add(`trash:${step.trash}/${step.name}`);
        if (step.item) makes.add(item(step.item));
        break;
      case "restore":
        fill(step.to);
        makes.add(`trash:${step.trash}/${step.name}`);
        if (step.item) makes.add(item(step.item));
        break;
      case "make-folder":
        if (!step.shared) fill(step.folder);
        break;
      case "remove-empty-folder":
        leave(step.folder);
        break;
      case "write":
        makes.add(`written:${step.file}`);
        useFolders(step.file);
        break;
      case "place":
        makes.add(`place:${step.item}`);
        break;
      case "show":
        makes.add("shown");
        break;
      case "set":
        if (!step.shared) makes.add(`set:${step.key}`);
        break;
      case "send":
        makes.add(`sent:${step.parcel}`);
        break;
      default:
        step satisfies never;
    }
  }
  return { makes, uses, leaves, fills };
}

/** Whether the later touch stands in the way of undoing the earlier one. */
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
