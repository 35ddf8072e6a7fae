import type { Kind } from "./kinds";

/** What findings are made from. Items on the worktops; `dead` says where a shortcut leads that leads nowhere. */
export interface FoundItem {
  id: string;
  kind: Kind;
  label: string;
  bytes: number;
  mtimeMs: number;
  sha256?: string;
  dead?: string;
}

export type FindingKind = "dead shortcut" | "twins";

/** A computed statement about items, with its proof. `items` are the ones that could go; `stay` the ones kept for it. */
export interface Finding {
  kind: FindingKind;
  items: string[];
  stay: string[];
  /** How it is known, in words. */
  proof: string;
  wins: { items: number; bytes: number };
}

/** A file in a home that is identical with some item. */
export interface FiledTwin {
  sha256: string;
  label: string;
}

/**
 * The findings about some items: shortcuts that lead nowhere, and identical files. Of twins the copy in a home stays,
 * else the one that was there first. Empty files are not called twins.
 */
export function findingsOf(items: FoundItem[], filed: FiledTwin[]): Finding[] {
  const findings: Finding[] = [];
  const dead = items.filter((item) => item.dead !== undefined);
  if (dead.length > 0)
    findings.push({
      kind: "dead shortcut",
      items: dead.map((item) => item.id),
      stay: [],
      proof: `what ${dead.length === 1 ? "it leads" : "they lead"} to was looked for and is not there`,
      wins: { items: dead.length, bytes: sum(dead) },
    });

  const bySum = new Map<string, FoundItem[]>();
  for (const item of items) {
    if (item.sha256 === undefined || item.bytes === 0) continue;
    bySum.set(item.sha256, [...(bySum.get(item.sha256) ?? []), item]);
  }
  const inHome = new Set(filed.map((f) => f.sha256));
  const go: FoundItem[] = [];
  const stay: string[] = [];
  for (const [sha256, same] of bySum) {
    if (inHome.has(sha256)) go.push(...same);
    else if (same.length > 1) {
      const [first, ...rest] = same.toSorted(
        (a, b) => a.mtimeMs - b.mtimeMs || a.label.length - b.label.length || (a.id < b.id ? -1 : 1),
      );
      stay.push(first!.id);
      go.push(...rest);
    }
  }
  if (go.length > 0)
    findings.push({
      kind: "twins",
      items: go.map((item) => item.id),
      stay,
      proof: "the SHA-256 of every byte is the same; the copy in a home stays, else the first",
      wins: { items: go.length, bytes: sum(go) },
    });
  return findings;
}

const sum = (items: FoundItem[]) => items.reduce((total, item) => total + item.bytes, 0);
