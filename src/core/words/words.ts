/**
 * Turns numbers, sizes and dates into words, in the person's locale and time zone. Made once for a page or a command;
 * `now` is milliseconds since 1970 and fixes what "ago" means.
 */
export interface Words {
  /** The moment as of which they are; milliseconds since 1970. */
  now: number;
  count(n: number): string;
  /** "1 thing", "12 things": the noun in singular and plural. */
  counted(n: number, one: string, many?: string): string;
  /** Decimal units, one figure after the point: 4.1 kB, 148.2 MB. */
  bytes(n: number): string;
  /** A share of one as a percentage: 0.613 gives "61 %". */
  share(part: number): string;
  /** Relative up to a month ("3 weeks ago"), then the date. Takes milliseconds since 1970. */
  ago(at: number): string;
  date(at: number): string;
  dateTime(at: number): string;
  /** The time alone where it is today's: "17:30". */
  clock(at: number): string;
  /** A length of time in words, in the largest fitting unit: "14 minutes". Takes milliseconds. */
  duration(ms: number): string;
}

const second = 1000;
const minute = 60 * second;
const hour = 60 * minute;
const day = 24 * hour;

const made = new Map<string, ReturnType<typeof makeFormats>>();

/** Making formats takes longer than using them: once for each locale and time zone, when the first is used. */
function formatsOf(locale: string, timeZone: string): ReturnType<typeof makeFormats> {
  const key = `${locale} ${timeZone}`;
  const known = made.get(key) ?? makeFormats(locale, timeZone);
  made.set(key, known);
  return known;
}

function makeFormats(locale: string, timeZone: string) {
  const number = new Intl.NumberFormat(locale, { maximumFractionDigits: 0 });
  const oneFigure = new Intl.NumberFormat(locale, { minimumFractionDigits: 1, maximumFractionDigits: 1 });
  const relative = new Intl.RelativeTimeFormat(locale, { numeric: "always" });
  const dateFormat = new Intl.DateTimeFormat(locale, { timeZone, day: "numeric", month: "long", year: "numeric" });
  const dateTimeFormat = new Intl.DateTimeFormat(locale, {
    timeZone,
    day: "numeric",
    month: "long",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
  });
  const clockFormat = new Intl.DateTimeFormat(locale, { timeZone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  return { number, oneFigure, relative, dateFormat, dateTimeFormat, clockFormat };
}

export function makeWords(locale: string, timeZone: string, now: number): Words {
  const formats = () => formatsOf(locale, timeZone);
  const counted = (n: number, one: string, many = `${one}s`) => `${formats().number.format(n)} ${n === 1 ? one : many}`;

  return {
    now,
    count: (n) => formats().number.format(n),
    counted,
    bytes(n) {
      if (n < 1000) return counted(n, "byte");
      const units = ["kB", "MB", "GB", "TB", "PB"];
      let value = n / 1000;
      let unit = 0;
      while (value >= 999.95 && unit < units.length - 1) {
        value /= 1000;
        unit++;
      }
      return `${formats().oneFigure.format(value)} ${units[unit]}`;
    },
    share: (part) => (part > 0 && part < 0.01 ? "under 1 %" : `${formats().number.format(part * 100)} %`),
    ago(at) {
      const past = now - at;
      if (Math.abs(past) < minute) return "just now";
      const steps: [number, Intl.RelativeTimeFormatUnit, number][] = [
        [hour, "minute", minute],
        [day, "hour", hour],
        [14 * day, "day", day],
        [31 * day, "week", 7 * day],
      ];
      for (const [under, unit, size] of steps) {
        if (Math.abs(past) < under) return formats().relative.format(-Math.trunc(past / size), unit);
      }
      return formats().dateFormat.format(at);
    },
    date: (at) => formats().dateFormat.format(at),
    dateTime: (at) => formats().dateTimeFormat.format(at),
    clock(at) {
      const { clockFormat, dateFormat, dateTimeFormat } = formats();
      return (dateFormat.format(at) === dateFormat.format(now) ? clockFormat : dateTimeFormat).format(at);
    },
    duration(ms) {
      if (ms < minute) return counted(Math.max(1, Math.round(ms / second)), "second");
      if (ms < 2 * hour) return counted(Math.round(ms / minute), "minute");
      if (ms < 2 * day) return counted(Math.round(ms / hour), "hour");
      return counted(Math.round(ms / day), "day");
    },
  };
}
