import type { ProblemCode, ProblemFacts } from "../problem";

/** What may pass by itself: it is tried again. All else waits for the person. */
const passing: ReadonlySet<ProblemCode> = new Set(["depot-gone", "depot-failing"]);

export const mayPass = (code: ProblemCode): boolean => passing.has(code);

const firstSeconds = 1;
const mostSeconds = 300;
const mostAskedSeconds = 3600;

/**
 * How long to wait before it is tried again, in seconds: twice as long each time, five minutes at most; as long as the other
 * side asks for, an hour at most. `tries`: how often in a row nothing was won.
 */
export function waitAgain(tries: number, { waitSeconds }: ProblemFacts): number {
  const grown = Math.min(mostSeconds, firstSeconds * 2 ** Math.min(tries, 20));
  return waitSeconds === undefined ? grown : Math.max(grown, Math.min(waitSeconds, mostAskedSeconds));
}

/** So often in a row nothing may be won before one who waits for it is told. */
export const triesWaitedFor = 5;
