import { GB } from "chrono-node/en";

/** What may stand around a date without changing it. */
const around = /^[\s,]*((wait|stay|keep|ask|again|until|till|on|by|the|for|it|me)[\s,]+)*$|^[\s,.]*$/i;

/** The start of the day of a moment, so many days later; milliseconds since 1970, by this machine's clock. */
function startOfDay(at: Date, later = 0): number {
  return new Date(at.getFullYear(), at.getMonth(), at.getDate() + later).getTime();
}

/**
 * The day that words name, as its first moment in milliseconds since 1970, by this machine's time zone: "friday", "in two
 * weeks", "1 march", "2027-03-01". It lies ahead: a weekday that is today's is a week ahead. Undefined where they name no day,
 * or one that is today or past, or say something else besides.
 */
export function dayFromWords(text: string, now: number): number | undefined {
  const words = text.trim();
  const exact = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(words);
  if (exact) {
    const [year, month, day] = exact.slice(1).map(Number) as [number, number, number];
    const date = new Date(year, month - 1, day);
    return date.getMonth() === month - 1 && ahead(date.getTime(), now) ? date.getTime() : undefined;
  }
  // "Two weeks" means in two weeks, as nothing waits for what is past.
  const length = /^(a|an|one|two|three|four|five|six|seven|eight|nine|ten|\d+)\s+(day|week|month|year)s?$/i.test(words);
  const [found, ...more] = GB.parse(length ? `in ${words}` : words, new Date(now), { forwardDate: true });
  if (!found || more.length > 0) return undefined;
  const whole = length ? `in ${words}` : words;
  if (!around.test(whole.slice(0, found.index) || " ") || !around.test(whole.slice(found.index + found.text.length)))
    return undefined;
  const { start } = found;
  const weekday = start.isCertain("weekday") && !start.isCertain("day");
  const day = startOfDay(start.date());
  return ahead(day, now) ? day : weekday && day === startOfDay(new Date(now)) ? startOfDay(new Date(now), 7) : undefined;
}

const ahead = (day: number, now: number) => day > startOfDay(new Date(now));
