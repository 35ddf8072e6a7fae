/** Counts that change while the person chooses. */
export const things = (n: number) => (n === 1 ? "1 thing" : `${n} things`);
