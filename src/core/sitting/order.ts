/** The orders in which a pile can be gone through. */
export const orders = ["families first", "oldest first", "newest first", "largest first", "by kind", "by place"] as const;
export type Order = (typeof orders)[number];

interface Ordered {
  name: string;
  kind: string;
  bytes: number;
  mtimeMs: number;
  worktop: string;
  /** When it was to come up again; such things come first in every order. */
  due?: number;
}

const byName = new Intl.Collator("en", { numeric: true });

const compares: Record<Order, (a: Ordered, b: Ordered) => number> = {
  // As they are given.
  "families first": () => 0,
  "oldest first": (a, b) => a.mtimeMs - b.mtimeMs,
  "newest first": (a, b) => b.mtimeMs - a.mtimeMs,
  "largest first": (a, b) => b.bytes - a.bytes,
  "by kind": (a, b) => (a.kind < b.kind ? -1 : a.kind > b.kind ? 1 : 0) || byName.compare(a.name, b.name),
  "by place": (a, b) => (a.worktop < b.worktop ? -1 : a.worktop > b.worktop ? 1 : 0) || byName.compare(a.name, b.name),
};

/** What is due comes before what is not, and what was due earlier first. */
export const dueFirst = (a: { due?: number }, b: { due?: number }): number =>
  a.due === b.due ? 0 : (a.due ?? Number.POSITIVE_INFINITY) - (b.due ?? Number.POSITIVE_INFINITY);

/** Things in an order; what is due comes first. Those that are equal stay as they are given. */
export const inOrder = <T extends Ordered>(things: readonly T[], order: Order): T[] =>
  things.toSorted((a, b) => dueFirst(a, b) || compares[order](a, b));
