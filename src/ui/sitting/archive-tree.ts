import type { ArchiveEntry } from "@/contract/looks";

/** A row of an archive's tree: a thing, or a folder that things lie in, whether the archive lists it or not. */
export interface TreeRow {
  id: string;
  name: string;
  depth: number;
  folder: boolean;
  bytes: number;
}

const byName = new Intl.Collator("en", { numeric: true });

interface Node {
  folder: boolean;
  bytes: number;
  inside: Map<string, Node>;
}

const deepest = 40;

/** What an archive lists as a tree: folders before files, each by name; what a folder holds stands under it, with all its bytes. */
export function treeOf(entries: readonly ArchiveEntry[]): TreeRow[] {
  const root: Node = { folder: true, bytes: 0, inside: new Map() };
  for (const { name, bytes, folder } of entries) {
    const parts = name.split("/").filter((part) => part !== "" && part !== ".");
    // Deeper than anybody folds is one name.
    const path = parts.length > deepest ? [...parts.slice(0, deepest), parts.slice(deepest).join("/")] : parts;
    let at = root;
    for (const [n, part] of path.entries()) {
      const last = n === path.length - 1;
      const next = at.inside.get(part) ?? { folder: !last || folder === true, bytes: 0, inside: new Map<string, Node>() };
      if (!last) next.folder = true;
      next.bytes += bytes;
      at.inside.set(part, next);
      at = next;
    }
  }
  const rows: TreeRow[] = [];
  const walk = (node: Node, depth: number) => {
    const inside = [...node.inside].sort(
      ([a, one], [b, other]) => Number(other.folder) - Number(one.folder) || byName.compare(a, b),
    );
    for (const [name, { folder, bytes, inside: below }] of inside) {
      rows.push({ id: String(rows.length), name, depth, folder, bytes });
      if (below.size > 0) walk({ folder, bytes, inside: below }, depth + 1);
    }
  };
  walk(root, 0);
  return rows;
}
