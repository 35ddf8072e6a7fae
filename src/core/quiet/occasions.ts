import ICAL from "ical.js";
import { z } from "zod";
import type { QuietLevel, Shown } from "../screen/state";
import { kinds } from "../survey/kinds";
import type { HowMuch } from "./levels";

/** The days of the week, as RFC 5545 writes them. */
export const weekdays = ["MO", "TU", "WE", "TH", "FR", "SA", "SU"] as const;
export type Weekday = (typeof weekdays)[number];

const hour = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$/);

/** A named time with how much is out of sight while it is under way. */
export const occasion = z.object({
  title: z.string(),
  level: z.enum(["some kinds", "what stays", "bare"]),
  kinds: z.array(z.enum(kinds)),
  /**
   * When it begins, as a recurrence rule (RFC 5545, 3.3.10) in the time of this computer's zone, and the hour at which it
   * ends, "17:30"; null where it is begun by hand alone.
   */
  timetable: z.object({ rule: z.string(), to: hour }).nullable(),
  /** While it is under way no names, titles and pictures of things are sent to Vuoto's own pages: others see them. */
  unnamed: z.literal(true).optional(),
  /** The id of the layout that it brings when it begins. */
  layout: z.string().optional(),
});
export type Occasion = z.infer<typeof occasion>;

/** From when until when one is under way, in milliseconds since 1970. One begun by hand without an end has none: Infinity. */
export interface Period {
  start: number;
  end: number;
}

/** A rule of weekly starts. */
export const weeklyRule = (days: readonly Weekday[], from: string): string =>
  `FREQ=WEEKLY;BYDAY=${weekdays.filter((day) => days.includes(day)).join(",")};BYHOUR=${Number(from.slice(0, 2))};BYMINUTE=${Number(from.slice(3))};BYSECOND=0`;

/** The days and hours of a rule of weekly starts. */
export function hoursOf({ rule, to }: NonNullable<Occasion["timetable"]>): { days: Weekday[]; from: string; to: string } {
  const part = (name: string) => new RegExp(`(?:^|;)${name}=([^;]*)`).exec(rule)?.[1] ?? "";
  const two = (text: string) => text.padStart(2, "0");
  return {
    days: weekdays.filter((day) => part("BYDAY").split(",").includes(day)),
    from: `${two(part("BYHOUR"))}:${two(part("BYMINUTE"))}`,
    to,
  };
}

const dayMs = 86_400_000;

/** Rules know no zone: the hours of the wall clock stand in them as if they were UTC. */
const onTheWall = (at: number) => {
  const d = new Date(at);
  return Date.UTC(d.getFullYear(), d.getMonth(), d.getDate(), d.getHours(), d.getMinutes(), d.getSeconds());
};
const fromTheWall = (wall: Date) =>
  new Date(wall.getUTCFullYear(), wall.getUTCMonth(), wall.getUTCDate(), wall.getUTCHours(), wall.getUTCMinutes()).getTime();

/** The starts by a rule, from the day of a time on until another one, both on the wall. */
function* startsBetween(rule: string, first: number, last: number): Generator<Date> {
  const whole = new Date(Math.floor(first / dayMs) * dayMs);
  const starts = ICAL.Recur.fromString(rule).iterator(ICAL.Time.fromJSDate(whole, true));
  for (let start = starts.next(); start; start = starts.next()) {
    const at = new Date(Date.UTC(start.year, start.month - 1, start.day, start.hour, start.minute, start.second));
    if (at.getTime() > last) return;
    yield at;
  }
}

function periodFrom(wall: Date, to: string): Period {
  const [hours, minutes] = [Number(to.slice(0, 2)), Number(to.slice(3))];
  const end = new Date(wall);
  end.setUTCHours(hours, minutes, 0, 0);
  // An end at or before the hour of the start is the next day's.
  if (end <= wall) end.setUTCDate(end.getUTCDate() + 1);
  return { start: fromTheWall(wall), end: fromTheWall(end) };
}

/** The time that is under way by its timetable. */
export function periodAt({ timetable }: Occasion, now: number): Period | undefined {
  if (!timetable) return undefined;
  const wall = onTheWall(now);
  const last = [...startsBetween(timetable.rule, wall - 8 * dayMs, wall)].at(-1);
  const period = last && periodFrom(last, timetable.to);
  return period && period.start <= now && now < period.end ? period : undefined;
}

/** The times to come, the first ones. */
export function nextPeriods({ timetable }: Occasion, now: number, most = 3): Period[] {
  if (!timetable) return [];
  const periods: Period[] = [];
  const wall = onTheWall(now);
  for (const start of startsBetween(timetable.rule, wall, wall + 60 * dayMs)) {
    if (start.getTime() > wall) periods.push(periodFrom(start, timetable.to));
    if (periods.length === most) break;
  }
  return periods;
}

/** What was said of one by hand: begun at a time, or its end moved; `end` null where it has none. */
export interface Given {
  start: number;
  end: number | null;
}

/** Whether an occasion is under way: by hand, else by its timetable. */
export function underWay(of: Occasion, given: Given | undefined, now: number): Period | undefined {
  const timed = periodAt(of, now);
  const period =
    given && (!timed || given.start >= timed.start) ? { start: given.start, end: given.end ?? Number.POSITIVE_INFINITY } : timed;
  return period && period.start <= now && now < period.end ? period : undefined;
}

/** So long before an end it is offered to go on for longer. */
const soonMs = 2 * 60_000;
export const endsSoon = (end: number, now: number): boolean => end > now && end - now <= soonMs;

const bareness: Record<QuietLevel, number> = { everything: 0, "some kinds": 1, "what stays": 2, bare: 3 };
type Wanted = Pick<HowMuch, "level" | "kinds">;

/** The barer of two; what either hides by kind, the outcome hides too. */
export function barer(a: Wanted, b: Wanted): Wanted {
  const { level } = bareness[b.level] > bareness[a.level] ? b : a;
  const hides = level === "some kinds" || level === "what stays";
  return { level, kinds: hides ? kinds.filter((kind) => a.kinds.includes(kind) || b.kinds.includes(kind)) : [] };
}

/** The less bare of two: what both hide. */
export function lessBare(a: Wanted, b: Wanted): Wanted {
  if (a.level !== b.level) return bareness[b.level] < bareness[a.level] ? b : a;
  const both = a.kinds.filter((kind) => b.kinds.includes(kind));
  return a.level === "some kinds" && both.length === 0 ? { level: "everything", kinds: [] } : { level: a.level, kinds: both };
}

/** What the occasions that are under way hold: since when each, what was shown before the first, and the moment it was set. */
export const holding = z.object({
  started: z.record(z.string(), z.number()),
  before: z.object({ level: z.enum(["everything", "some kinds", "what stays", "bare"]), kinds: z.array(z.enum(kinds)) }),
  since: z.number(),
  /** The time zone in which it was set (IANA). */
  zone: z.string().optional(),
});
export type Holding = z.infer<typeof holding>;

/** What is to be done about occasions now: show something, with what they hold from then on; or nothing. */
export interface Due {
  show: Wanted;
  holding: Omit<Holding, "since" | "zone"> | null;
  began: string[];
  ended: string[];
}

/** Why nothing can be said about ends: a clock that was set back; a zone that changed, by which something is over that was not by the other. */
export type Doubt = "clock" | "zone";

/**
 * Whether it can be told what ended. In doubt what is out of sight stays so: a start is believed, as it shows less.
 * `slackMs`: by so much clocks are put right.
 */
export function doubtOf(
  now: readonly { id: string }[],
  held: Holding | null,
  at: { now: number; zone: string; slackMs?: number },
): Doubt | undefined {
  if (!held) return undefined;
  if (held.since > at.now + (at.slackMs ?? 60_000)) return "clock";
  const isOver = (id: string) => !now.some((one) => one.id === id);
  return held.zone !== undefined && held.zone !== at.zone && Object.keys(held.started).some(isOver) ? "zone" : undefined;
}

/**
 * What should hold now, from all occasions under way, and only the difference: nothing that was missed is done later. The
 * barest wins, and a start never shows more than there was. What the person brought back since stays in sight until the next
 * start. An end brings back all that went since the start, whoever took it.
 */
export function dueNow(
  now: readonly { id: string; period: Period; occasion: Wanted }[],
  held: Holding | null,
  shown: Pick<Shown, "level" | "kinds" | "since">,
): Due | undefined {
  const began = now.filter(({ id, period }) => held?.started[id] !== period.start).map(({ id }) => id);
  const ended = Object.keys(held?.started ?? {}).filter((id) => !now.some((one) => one.id === id));
  if (began.length === 0 && ended.length === 0) return undefined;
  const current: Wanted = { level: shown.level, kinds: shown.kinds };
  const byHand = held !== null && shown.since !== held.since;
  const before = !held ? current : byHand ? lessBare(current, held.before) : held.before;
  const started = Object.fromEntries(now.map(({ id, period }) => [id, period.start]));
  const all = now.map((one) => one.occasion).reduce(barer, before);
  const next = now.length > 0 ? { started, before } : null;
  const end = byHand ? lessBare(current, all) : all;
  return { show: began.length > 0 ? barer(current, all) : end, holding: next, began, ended };
}
