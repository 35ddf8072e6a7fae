import { matterOf } from "../survey/families";
import type { Kind } from "../survey/kinds";

/** More files than this in one folder, and nobody finds one among them at a glance. */
export const widest = 100;
/** More steps than this from the root, and nobody remembers the way. */
export const deepest = 5;

/** A home in the filing plan. */
export interface PlannedHome {
  id: string;
  /** The last part of its title. */
  name: string;
  /** How many homes lie above it. */
  depth: number;
  /** Files directly in it, and in all below it too. */
  files: number;
  within: number;
  tooWide: boolean;
  tooDeep: boolean;
}

/** The homes as a plan, each below the one it lies in, by name. `parts` are the parts of its title. */
export function filingPlan(homes: { id: string; parts: string[]; files: number }[]): PlannedHome[] {
  const key = (parts: string[]) => parts.join("\u0000");
  const within = new Map<string, number>();
  for (const { parts, files } of homes)
    for (let n = 1; n <= parts.length; n++) {
      const above = key(parts.slice(0, n));
      within.set(above, (within.get(above) ?? 0) + files);
    }
  const there = new Set(homes.map(({ parts }) => key(parts)));
  const compare = (a: string[], b: string[]) => {
    for (let n = 0; n < Math.min(a.length, b.length); n++) {
      const order = a[n]!.localeCompare(b[n]!, undefined, { numeric: true });
      if (order !== 0) return order;
    }
    return a.length - b.length;
  };
  return homes
    .toSorted((a, b) => compare(a.parts, b.parts))
    .map(({ id, parts, files }) => {
      // A home named by itself may lie below folders that are none.
      const depth = parts.filter((_, n) => n > 0 && there.has(key(parts.slice(0, n)))).length;
      return {
        id,
        name: parts.at(-1) ?? "",
        depth,
        files,
        within: within.get(key(parts)) ?? files,
        tooWide: files > widest,
        tooDeep: depth + 1 > deepest && files > 0,
      };
    });
}

export const splits = ["year", "kind", "project"] as const;
export type Split = (typeof splits)[number];

const fewestOfOne = 3;
const kindFolders: Partial<Record<Kind, string>> = {
  text: "Texts",
  table: "Tables",
  talk: "Talks",
  picture: "Pictures",
  screenshot: "Screenshots",
  video: "Videos",
  sound: "Sounds",
  archive: "Archives",
  installer: "Installers",
  shortcut: "Shortcuts",
  "web link": "Links",
  data: "Data",
};

/**
 * Into which folder each file of a home would go: by the year it was last changed, by its kind, or by the matter its name
 * begins with. What has fewer than three of its like is in no folder, and neither is anything where one folder would hold
 * all: then the split is none.
 */
export function splitBy(files: { label: string; kind: Kind; mtimeMs: number }[], by: Split): (string | undefined)[] {
  const wanted = files.map(({ label, kind, mtimeMs }) => {
    if (by === "year") return String(new Date(mtimeMs).getFullYear());
    if (by === "kind") return kindFolders[kind];
    const stem = matterOf(label);
    return stem === "" ? undefined : stem.charAt(0).toUpperCase() + stem.slice(1);
  });
  const sizes = new Map<string, number>();
  for (const folder of wanted) if (folder !== undefined) sizes.set(folder, (sizes.get(folder) ?? 0) + 1);
  const kept = wanted.map((folder) => (folder !== undefined && sizes.get(folder)! >= fewestOfOne ? folder : undefined));
  const first = kept[0];
  return first !== undefined && kept.every((folder) => folder === first) ? kept.map(() => undefined) : kept;
}
