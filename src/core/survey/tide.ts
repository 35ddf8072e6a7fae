/** A mark on the tide line: where it stands, from 0 (long ago) to 1 (now), and what it says. */
export interface TideMark {
  at: number;
  label: string;
}

const day = 86_400_000;
const spans: [days: number, label: string][] = [
  [730, "two years ago"],
  [365, "one year"],
  [182, "six months"],
  [91, "three months"],
  [30, "a month"],
  [7, "this week"],
];
const oldest = 1095;

/**
 * Where a moment stands on the tide line: 0 at three years ago or before, 1 now; recent time gets more room (logarithm of
 * the age in days plus three).
 */
export function tideAt(atMs: number, nowMs: number): number {
  const age = Math.min(oldest, Math.max(0, (nowMs - atMs) / day));
  return 1 - (Math.log(age + 3) - Math.log(3)) / (Math.log(oldest + 3) - Math.log(3));
}

export function tideMarks(): TideMark[] {
  return spans.map(([days, label]) => ({ at: tideAt(-days * day, 0), label }));
}

/** The age as one of six tones, 0 this week to 5 over two years. */
export function ageTone(atMs: number, nowMs: number): number {
  const age = (nowMs - atMs) / day;
  return [7, 30, 91, 365, 730].filter((limit) => age > limit).length;
}
