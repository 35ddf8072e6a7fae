/** Whole numbers from 0 up, rising, as runs in text: `0-3,7`. */
export function asRuns(numbers: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const n of [...numbers].sort((a, b) => a - b)) {
    const last = runs.at(-1);
    if (last && n <= last[1] + 1) last[1] = n;
    else runs.push([n, n]);
  }
  return runs.map(([from, to]) => (from === to ? `${from}` : `${from}-${to}`)).join(",");
}

/** Whether a number is among those of {@link asRuns}; what is no run there counts for nothing. */
export function inRuns(text: string): (n: number) => boolean {
  const runs = text.split(",").flatMap((run) => {
    const [, from, to = from] = /^(\d+)(?:-(\d+))?$/.exec(run) ?? [];
    return from === undefined ? [] : [[Number(from), Number(to)] as const];
  });
  runs.sort((a, b) => a[0] - b[0]);
  // The last that begins at it or before, by halves: a parcel may hold a hundred thousand files, every other one of them alone.
  return (n) => {
    let [low, high] = [0, runs.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (runs[middle]![0] <= n) low = middle + 1;
      else high = middle;
    }
    return low > 0 && n <= runs[low - 1]![1];
  };
}
