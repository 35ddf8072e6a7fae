/**
 * What a stand-in can be told to do wrong, and when: `METHOD=FAULT/EVERY`, such as `PUT=503/5` (each fifth file is refused),
 * `*=cut/7`, or `GET=flip` (each time). The method is one of HTTP's and WebDAV's, or `*`.
 */
export const faultKinds = {
  cut: "the connection is cut in the middle",
  stall: "no answer comes",
  short: "it gives less than it says",
  flip: "one byte of what it gives is another",
  other: "it gives another file",
  forget: "it says that it is done, and does nothing",
  redirect: "it sends away to another address",
  around: "it sends around to itself, without end",
  endless: "its answer does not end",
  expanding: "its list grows without bound where it is read",
  outside: "its list tells of what lies elsewhere",
  absolute: "its list has whole addresses",
  plain: "its list has names without escapes",
  packed: "it packs what it gives",
} as const;

export type FaultKind = keyof typeof faultKinds;

export interface Fault {
  method: string;
  /** A kind, or the status that it answers. */
  what: FaultKind | number;
  every: number;
  /** Seconds that it asks to wait, with a status. */
  after?: number;
}

/** Reads one; undefined where it is none. */
export function readFault(text: string): Fault | undefined {
  const match = /^(\*|[A-Z]+)=([a-z]+|\d{3})(?:\/(\d+))?(?:\+(\d+))?$/.exec(text);
  if (!match) return undefined;
  const [, method, what, every = "1", after] = match;
  const number = Number(what);
  if (Number.isNaN(number) && !(what! in faultKinds)) return undefined;
  return {
    method: method!,
    what: Number.isNaN(number) ? (what as FaultKind) : number,
    every: Math.max(1, Number(every)),
    after: after === undefined ? undefined : Number(after),
  };
}

/** Counts requests, and says what goes wrong with each. */
export class Faults {
  private faults: Fault[] = [];
  private counts = new Map<Fault, number>();

  set(faults: Fault[]): void {
    this.faults = faults;
    this.counts = new Map();
  }

  next(method: string): Fault | undefined {
    let found: Fault | undefined;
    for (const fault of this.faults) {
      if (fault.method !== "*" && fault.method !== method) continue;
      const count = (this.counts.get(fault) ?? 0) + 1;
      this.counts.set(fault, count);
      if (count % fault.every === 0) found ??= fault;
    }
    return found;
  }
}
