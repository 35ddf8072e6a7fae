/** Something that lies about, as far as a proposal asks. */
export interface Lying {
  id: string;
  bytes: number;
  /** When it was last changed; milliseconds since 1970. */
  changedAt: number;
  /** Its calendar year, where the person is. */
  year: number;
  /** It was left on purpose. */
  stays: boolean;
}

/** A project that has ended, and what of it still lies about. */
export interface Ended {
  id: string;
  title: string;
  endedAt: number;
  things: string[];
}

export type Proposal =
  | { id: string; kind: "project"; title: string; endedAt: number; things: string[] }
  | { id: string; kind: "year"; year: number; things: string[] }
  | { id: string; kind: "untouched"; sinceDays: number; things: string[] };

const fewest = 3;
const dayMs = 86_400_000;
const untouchedDays = 180;

/**
 * What could go to a depot: an ended project as a whole; all leftovers of a year that is over; and what has stayed for half a
 * year without a change. A thing is proposed once, for the first of these reasons.
 */
export function proposals(lying: readonly Lying[], ended: readonly Ended[], thisYear: number, now: number): Proposal[] {
  const left = new Map(lying.map((thing) => [thing.id, thing]));
  const found: Proposal[] = [];
  for (const { id, title, endedAt, things } of ended) {
    const own = things.filter((thing) => left.has(thing));
    if (own.length === 0) continue;
    for (const thing of own) left.delete(thing);
    found.push({ id: `project-${id}`, kind: "project", title, endedAt, things: own });
  }
  const years = new Map<number, string[]>();
  for (const { id, year, stays } of left.values()) {
    if (stays || year >= thisYear) continue;
    const own = years.get(year) ?? [];
    years.set(year, own);
    own.push(id);
  }
  for (const [year, things] of [...years].sort(([a], [b]) => b - a)) {
    if (things.length < fewest) continue;
    for (const thing of things) left.delete(thing);
    found.push({ id: `year-${year}`, kind: "year", year, things });
  }
  const untouched = [...left.values()].filter(({ changedAt }) => now - changedAt > untouchedDays * dayMs).map(({ id }) => id);
  if (untouched.length >= fewest) found.push({ id: "untouched", kind: "untouched", sinceDays: untouchedDays, things: untouched });
  return found;
}
