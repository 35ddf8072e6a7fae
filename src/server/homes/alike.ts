import type { Joined } from "@/core/survey/families";
import type { Kind } from "@/core/survey/kinds";
import type { Words } from "@/core/words/words";
import { families, joinedInWords } from "../survey/family";
import type { Item } from "../survey/items";

const newHomes: Partial<Record<Kind, string>> = {
  shortcut: "Shortcuts",
  "web link": "Links",
  picture: "Pictures to sort",
  screenshot: "Screenshots",
  archive: "Archives",
  installer: "Installers",
  folder: "Projects",
  sound: "Sounds",
  video: "Clips",
  table: "Tables",
  data: "Data",
};
/** Where people look first for what belongs nowhere. */
const mixed = "Mixed";

/** Things that are alike, why, and what a new home for them could be called. */
export interface Alike {
  why: string;
  items: Item[];
  title: string;
  /** Named alike, or for one purpose: more than of one kind, or come on one day. */
  closely?: true;
}

/** Things gathered by likeness, the closest and largest group first; what is like nothing else comes last. */
export function alike(items: readonly Item[], words: Words): Alike[] {
  const byId = new Map(items.map((item) => [item.id, item]));
  // Findings speak for letting go; here only likeness counts.
  const groups = families(items, []).map(({ joined, items: ids }) => ({ joined, of: ids.map((id) => byId.get(id)!) }));
  const grouped = new Set(groups.flatMap(({ of }) => of.map((item) => item.id)));
  const alone = items.filter((item) => !grouped.has(item.id));
  return [
    ...groups.map(({ joined, of }): Alike => {
      const group = { why: joinedInWords(joined, words), items: of, title: newHome(joined, words) };
      return joined.by === "name" ? { ...group, closely: true } : group;
    }),
    ...(alone.length > 0 ? [{ why: "like nothing else that lies there", items: alone, title: mixed }] : []),
  ];
}

/** What a new home for a family could be called. */
function newHome(joined: Joined, words: Words): string {
  switch (joined.by) {
    case "name":
      return joined.stem.charAt(0).toUpperCase() + joined.stem.slice(1);
    case "arrival":
      return words.date(joined.at);
    case "kind":
      return newHomes[joined.kind] ?? mixed;
    case "proof":
      return mixed;
    default:
      return joined satisfies never;
  }
}
