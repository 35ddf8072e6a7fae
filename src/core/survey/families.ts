import { type Finding, type SettlingKind, settles } from "./findings";
import { type Kind, kinds } from "./kinds";

/** What joins a family: a proof that they can be let go, the stem of their names, when they came (ms since 1970), or their kind. */
export type Joined =
  | { by: "proof"; finding: SettlingKind }
  | { by: "name"; stem: string }
  | { by: "arrival"; at: number }
  | { by: "kind"; kind: Kind };

/** Items that can be settled together, and what joins them. */
export interface Family {
  joined: Joined;
  items: string[];
}

export interface FamilyItem {
  id: string;
  label: string;
  kind: Kind;
  /** When it came to the worktop; milliseconds since 1970. */
  arrivedMs: number;
}

/** Things that came within this of one another came in one session. */
const sessionMs = 15 * 60_000;
const fewest = 3;
/** A session in which nearly everything came tells nothing. */
const mostOfSession = 0.4;
const shortestStem = 4;

/**
 * The part of a name that those of one matter share: its first words, without the ending, numbers, dates and the marks of
 * a copy. "tide-table-2026 (2).pdf" gives "tide table".
 */
export function matterOf(label: string): string {
  return label
    .replace(/\.[^.\s]{1,12}$/, "")
    .toLowerCase()
    .replace(/\b(copy|copie|kopie|final|draft|new|old|version|v)\b/g, " ")
    .split(/[^\p{L}]+/u)
    .filter((word) => word.length > 1)
    .slice(0, 2)
    .join(" ");
}

/**
 * Families by the strongest of what joins them: a proof, then a shared stem, then a session of arrival, then the kind. Each
 * item is in one family at most.
 */
export function familiesOf(items: FamilyItem[], findings: Finding[]): Family[] {
  const free = new Map(items.map((item) => [item.id, item]));
  const families: Family[] = [];
  const take = (joined: Joined, ids: string[], least = fewest) => {
    const here = ids.filter((id) => free.has(id));
    if (here.length < least) return;
    for (const id of here) free.delete(id);
    families.push({ joined, items: here });
  };
  for (const finding of findings)
    if (settles(finding.kind))
      take(
        { by: "proof", finding: finding.kind },
        finding.each.map(({ id }) => id),
        1,
      );
  for (const [stem, group] of largestFirst(groupBy([...free.values()], ({ label }) => matterOf(label))))
    if (stem.length >= shortestStem)
      take(
        { by: "name", stem },
        group.map(({ id }) => id),
      );
  const most = Math.max(fewest, items.length * mostOfSession);
  for (const session of sessionsOf([...free.values()]))
    if (session.length <= most)
      take(
        { by: "arrival", at: session[0]!.arrivedMs },
        session.map(({ id }) => id),
      );
  for (const kind of kinds)
    take(
      { by: "kind", kind },
      [...free.values()].flatMap((item) => (item.kind === kind ? [item.id] : [])),
    );
  return families;
}

function groupBy<T>(items: T[], keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}

const largestFirst = <T>(groups: Map<string, T[]>) =>
  [...groups].sort(([a, one], [b, other]) => other.length - one.length || (a < b ? -1 : 1));

/** Runs of arrivals without a longer pause between any two. */
function sessionsOf(items: FamilyItem[]): FamilyItem[][] {
  const sessions: FamilyItem[][] = [];
  let last = Number.NEGATIVE_INFINITY;
  for (const item of items.toSorted((a, b) => a.arrivedMs - b.arrivedMs)) {
    if (item.arrivedMs - last > sessionMs) sessions.push([]);
    sessions.at(-1)!.push(item);
    last = item.arrivedMs;
  }
  return sessions;
}
