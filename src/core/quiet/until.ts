const minute = 60_000;
const hour = 60 * minute;

/**
 * A time as it is typed, from now on, in the zone of this computer: "45m", "2h", "1h30", "17:30" (today, or tomorrow where that
 * is past), or a date, "2026-12-01", at its beginning. In milliseconds since 1970; undefined where it is none.
 */
export function untilFrom(text: string, now: number): number | undefined {
  const typed = text.trim().toLowerCase();
  const length = /^(?:(\d{1,3})\s*h(?:ours?)?)?\s*(?:(\d{1,4})\s*(?:m(?:in(?:utes?)?)?)?)?$/.exec(typed);
  if (length && (length[1] !== undefined || /\dm/.test(typed.replaceAll(" ", "")))) {
    const ms = Number(length[1] ?? 0) * hour + Number(length[2] ?? 0) * minute;
    return ms > 0 ? now + ms : undefined;
  }
  const clock = /^(\d{1,2})[:.](\d{2})$/.exec(typed);
  if (clock) {
    const [hours, minutes] = [Number(clock[1]), Number(clock[2])];
    if (hours > 23 || minutes > 59) return undefined;
    const at = new Date(now);
    at.setHours(hours, minutes, 0, 0);
    if (at.getTime() <= now) at.setDate(at.getDate() + 1);
    return at.getTime();
  }
  const date = /^(\d{4})-(\d{2})-(\d{2})$/.exec(typed);
  if (!date) return undefined;
  const day = new Date(Number(date[1]), Number(date[2]) - 1, Number(date[3]));
  return day.getMonth() === Number(date[2]) - 1 && day.getTime() > now ? day.getTime() : undefined;
}
