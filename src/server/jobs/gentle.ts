import type { Pace } from "../disk/tree";

/** Longer than this no work goes on without others having their turn on this thread; milliseconds. */
export const yieldEvery = 12;

/** Lets what else has come on this thread have its turn. */
export const othersFirst = () => new Promise<void>((next) => setImmediate(next));

/** Lets the event loop go on, where it is time for that: then there is something to wait for. */
export function breathing(): () => Promise<void> | undefined {
  let yielded = performance.now();
  return () => {
    if (performance.now() - yielded < yieldEvery) return undefined;
    return new Promise((next) =>
      setImmediate(() => {
        yielded = performance.now();
        next();
      }),
    );
  };
}

/** The pace of work that nobody follows or cancels. */
export function gentle(): Pace {
  const breath = breathing();
  return { step: async () => breath(), breath };
}
