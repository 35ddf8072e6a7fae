/** Counts and sizes that change while the person chooses; everything else comes from the server in words. */
export function sizeWords(bytes: number): string {
  const units = ["kB", "MB", "GB", "TB"];
  if (bytes < 1000) return bytes === 1 ? "1 byte" : `${bytes} bytes`;
  let value = bytes / 1000;
  let unit = 0;
  while (value >= 999.95 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value.toFixed(1)} ${units[unit]}`;
}

export const things = (n: number) => (n === 1 ? "1 thing" : `${n} things`);
