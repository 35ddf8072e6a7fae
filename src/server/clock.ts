/** Ends what was to happen later. */
export type Stop = () => void;

/** The time, and what happens at a later one: given, so that days can be tested in a moment. Nobody is kept waiting by it. */
export interface Clock {
  /** Milliseconds since 1970. */
  now(): number;
  /** Once, so many milliseconds from now. */
  after(ms: number, work: () => void): Stop;
  /** Again and again. */
  every(ms: number, work: () => void): Stop;
}

export const realClock: Clock = {
  now: Date.now,
  after(ms, work) {
    const timer = setTimeout(work, ms).unref();
    return () => clearTimeout(timer);
  },
  every(ms, work) {
    const timer = setInterval(work, ms).unref();
    return () => clearInterval(timer);
  },
};
