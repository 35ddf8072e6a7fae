/** Counts that change while the person chooses. */
export const icons = (n: number) => (n === 1 ? "1 icon" : `${n} icons`);
export const things = (n: number) => (n === 1 ? "1 thing" : `${n} things`);
