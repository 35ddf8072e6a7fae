import type { Pace } from "../disk/tree";

/** Longer than this no work goes on without others having their turn on this thread; milliseconds. */
export const yieldEvery = 12;

/** Lets the event loop go on, where it is time for that. */
export function breathing(): () => Promise<void> {
  let yielded = performance.now();
  return async () => {
    if (performance.now() - yielded < yieldEvery) return;
    await new Promise((next) => setImmediate(next));
    yielded = performance.now();
  };
}

/** The pace of work that nobody follows or cancels. */
export function gentle(): Pace {
  const breath = breathing();
  return { step: breath, breath };
}
