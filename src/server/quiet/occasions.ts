import { randomUUID } from "node:crypto";
import { isDeepStrictEqual } from "node:util";
import type { ReportJson } from "@/contract/items";
import type { AddOccasionInput, OccasionAnswer, OccasionInput } from "@/contract/quiet";
import type { Json } from "@/core/ledger/shapes";
import type { Plan, Step } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import { hiddenBy } from "@/core/quiet/levels";
import {
  type Doubt,
  doubtOf,
  dueNow,
  type Given,
  type Holding,
  nextPeriods,
  type Occasion,
  type Period,
  underWay,
  weeklyRule,
} from "@/core/quiet/occasions";
import { perform } from "../act";
import { readRecord, readRecords, readScreen } from "../db/record";
import type { Engine, Reading } from "../engine";
import { layoutMeant, layoutTitle, placesOfLayout } from "../layouts/layouts";
import { launcherFollows } from "../settings/launcher";
import { iconsOf, planShown } from "./quiet";

export const holdingKey = "holding";
/** So much longer where nobody said until when. */
export const longerMs = 30 * 60_000;

export interface OccasionNow {
  id: string;
  occasion: Occasion;
  period?: Period;
  next: Period[];
}

/** The occasions, or those that are asked for, in the order of their titles, and whether each is under way. */
export function occasionsNow(engine: Reading, which: (occasion: Occasion) => boolean = () => true): OccasionNow[] {
  const given = readRecords<Given>(engine.db, "occasion-given");
  const now = engine.now();
  return [...readRecords<Occasion>(engine.db, "occasion")]
    .filter(([, occasion]) => which(occasion))
    .map(([id, occasion]) => ({
      id,
      occasion,
      period: underWay(occasion, given.get(id), now),
      next: nextPeriods(occasion, now),
    }))
    .sort((a, b) => a.occasion.title.localeCompare(b.occasion.title));
}

/** The same as data. */
export function occasionList(engine: Reading): OccasionAnswer[] {
  const iso = (at: number | undefined) => (at !== undefined && Number.isFinite(at) ? new Date(at).toISOString() : null);
  return occasionsNow(engine).map(({ id, occasion: { title, level, kinds, unnamed, layout }, period, next }) => ({
    id,
    title,
    level,
    kinds,
    unnamed: unnamed === true,
    layout: layoutTitle(engine, layout) ?? null,
    since: iso(period?.start),
    until: iso(period?.end),
    next: next.map(({ start, end }) => ({ from: iso(start)!, to: iso(end)! })),
  }));
}

export async function addOccasion(engine: Engine, input: AddOccasionInput): Promise<ReportJson> {
  const report = await perform(engine, "Adding an occasion", () => planAdd(engine, input), { trial: input.dryRun });
  // One that is under way from its first moment on holds at once.
  if (!input.dryRun) await holdNow(engine);
  return report;
}

const isTitled = (title: string) => {
  const asked = title.toLowerCase();
  return ({ occasion }: OccasionNow) => occasion.title.toLowerCase() === asked;
};

function planAdd(
  engine: Engine,
  { occasion: id, title, level, kinds = [], days, from, to, unnamed, layout }: AddOccasionInput,
): Plan {
  if (level === "some kinds" && kinds.length === 0) throw new Problem("no-kind");
  const all = occasionsNow(engine);
  const before = all.find((one) => one.id === id);
  if (id !== undefined && !before) throw new Problem("unknown-occasion", { name: title });
  const namesake = all.find(isTitled(title));
  if (namesake && namesake.id !== id) throw new Problem("name-taken", { name: title });
  const timetable = days && from !== undefined && to !== undefined ? { rule: weeklyRule(days, from), to } : null;
  const occasion: Occasion = { title, level, kinds: level === "some kinds" ? kinds : [], timetable };
  if (unnamed) occasion.unnamed = true;
  if (layout !== undefined) occasion.layout = layoutMeant(engine, layout)[0];
  const key = before?.id ?? randomUUID().slice(0, 8);
  const rest = all.filter((one) => one.id !== key);
  const held = readRecord<Holding>(engine.db, holdingKey);
  const { [key]: since, ...others } = held?.started ?? {};
  const given = readRecord<Given>(engine.db, `occasion-given:${key}`) ?? undefined;
  const goesOn = underWay(occasion, given, engine.now());
  // One that is under way begins anew, as it is from now on; where it takes as much as before, it merely has other hours.
  const takesAsMuch = isDeepStrictEqual([before?.occasion.level, before?.occasion.kinds], [level, occasion.kinds]);
  const started = takesAsMuch && goesOn ? { ...others, [key]: goesOn.start } : others;
  const anew: Step[] =
    since === undefined
      ? []
      : [{ type: "set", key: holdingKey, from: held as unknown as Json, to: { ...held, started } as unknown as Json }];
  return {
    act: "occasion",
    words: () => `${before ? "Changed" : "Made"} the occasion “${title}”`,
    steps: [
      {
        type: "set",
        key: `occasion:${key}`,
        from: (before?.occasion ?? null) as unknown as Json,
        to: occasion as unknown as Json,
      },
      ...anew,
      ...launcherFollows(engine, [...rest.map((one) => one.occasion.title), title]),
    ],
    left: [],
  };
}

/** Begins an occasion, ends it, lets it go on for longer, or takes it off the list; what the screen shows follows at once. */
export async function changeOccasion(engine: Engine, input: OccasionInput): Promise<ReportJson> {
  const report = await perform(engine, "Changing an occasion", () => planChange(engine, input), { trial: input.dryRun });
  if (input.dryRun) return report;
  const over = input.does === "end" ? occasionNamed(engine, input.occasion)?.id : undefined;
  return (await holdNow(engine, over)) ?? report;
}

function occasionNamed(engine: Reading, named: string): OccasionNow | undefined {
  const all = occasionsNow(engine);
  return all.find(({ id }) => id === named) ?? all.find(isTitled(named));
}

function planChange(engine: Engine, { occasion: named, does, until }: OccasionInput): Plan {
  const all = occasionsNow(engine);
  const meant = occasionNamed(engine, named);
  if (!meant) throw new Problem("unknown-occasion", { name: named });
  const { id, period, occasion } = meant;
  const { title } = occasion;
  const now = engine.now();
  const keys = { occasion: `occasion:${id}`, given: `occasion-given:${id}` };
  const given = (to: Given | null): Step => ({
    type: "set",
    key: keys.given,
    from: readRecord<Json>(engine.db, keys.given),
    to: to as unknown as Json,
  });
  if (until !== undefined && until <= now) throw new Problem("bad-words", { detail: "That time is past." });
  // What is held in doubt ends when the person says.
  const isHeld = standing(engine).held?.started[id] !== undefined;
  if (!period && (does === "longer" || (does === "end" && !isHeld))) throw new Problem("occasion-not-now", { name: title });
  const plan = (words: string, steps: Step[]): Plan => ({ act: "occasion", words: () => words, steps, left: [] });
  switch (does) {
    case "start":
      // Begun again it would never end by itself.
      if (period && until === undefined) throw new Problem("occasion-now", { name: title });
      return plan(`Began “${title}”`, [given({ start: now, end: until ?? null })]);
    case "end":
      return plan(`Ended “${title}”`, period ? [given({ start: period.start, end: now })] : []);
    case "longer": {
      const end = until ?? (Number.isFinite(period!.end) ? period!.end : now) + longerMs;
      return plan(`“${title}” goes on until ${engine.words().dateTime(end)}`, [given({ start: period!.start, end })]);
    }
    case "remove": {
      const known = readRecord<Json>(engine.db, keys.occasion);
      const steps: Step[] = [{ type: "set", key: keys.occasion, from: known, to: null }];
      if (readRecord(engine.db, keys.given)) steps.push(given(null));
      steps.push(
        ...launcherFollows(
          engine,
          all.flatMap((one) => (one.id === id ? [] : [one.occasion.title])),
        ),
      );
      return plan(`Took the occasion “${title}” off the list`, steps);
    }
    default:
      return does satisfies never;
  }
}

/** What is under way now, and what is held because of it. */
function standing(engine: Reading) {
  const held = readRecord<Holding>(engine.db, holdingKey);
  const now = occasionsNow(engine).flatMap(({ id, occasion, period }) => (period ? [{ id, occasion, period }] : []));
  return { held, now, doubt: doubtOf(now, held, { now: engine.now(), zone: engine.wordsOf.timeZone }) };
}

/** Why it cannot be told whether an occasion ended, where it cannot. */
export const occasionDoubt = (engine: Reading): Doubt | undefined => standing(engine).doubt;

/**
 * Whether it cannot be told just now what ended: in doubt, or while the clock, put right by a little, is before the moment at
 * which all was set.
 */
const isUnsure = (engine: Reading, { held, doubt }: Pick<ReturnType<typeof standing>, "held" | "doubt">): boolean =>
  doubt !== undefined || (held !== null && held.since > engine.now());

/** The occasions that are held although it cannot be told whether they are over. */
export function heldUnsure(engine: Reading): ReadonlySet<string> {
  const all = standing(engine);
  return new Set(isUnsure(engine, all) ? Object.keys(all.held?.started ?? {}) : []);
}

/**
 * What is due now because an occasion began or ended; undefined where nothing is. Where it cannot be told what ended, what was
 * held goes on, but for `over`, of which the person says so. A start is believed: it shows less.
 */
function dueOf(engine: Reading, over?: string) {
  const { held, now } = standing(engine);
  const { shown } = readScreen(engine.db);
  const unsure = heldUnsure(engine);
  // Who changed it by hand has said; but that others no longer see the screen is said by its end alone.
  const isSaid = (occasion: Occasion) => held !== null && shown.since !== held.since && !occasion.unnamed;
  const goOn = occasionsNow(engine).flatMap(({ id, occasion }) =>
    unsure.has(id) && id !== over && !isSaid(occasion) && !now.some((one) => one.id === id)
      ? [{ id, occasion, period: { start: held!.started[id]!, end: Number.POSITIVE_INFINITY } }]
      : [],
  );
  const due = dueNow([...now, ...goOn], held, shown);
  if (!due || (unsure.size > 0 && over === undefined && due.began.length === 0)) return undefined;
  return { due, held, goOn: goOn.map(({ id }) => id) };
}

/** The occasions that are held, as one text. */
export const startedIn = (holding: Pick<Holding, "started"> | null | undefined): string =>
  Object.keys(holding?.started ?? {})
    .sort()
    .join(" ");

/** What would be held, were what is due done now, as {@link startedIn} tells it; undefined where nothing is due. */
export function dueHolding(engine: Reading): string | undefined {
  const of = dueOf(engine);
  return of && startedIn(of.due.holding);
}

/** Lets hold what should, of all occasions under way. Answers what was done; undefined where nothing was due. */
export async function holdNow(engine: Engine, over?: string): Promise<ReportJson | undefined> {
  if (!dueOf(engine, over)) return undefined;
  return perform(engine, "Changing what the screen shows", () => planHold(engine, over));
}

function planHold(engine: Engine, over?: string): Plan {
  const of = dueOf(engine, over);
  if (!of) throw new Problem("already-quiet");
  const { due, held, goOn } = of;
  // By this clock they are under way from now on; with an end that is past, until the person says.
  const now = engine.now();
  const anew = goOn.map((id): Step => {
    const key = `occasion-given:${id}`;
    const known = readRecord<Given>(engine.db, key);
    const end = known?.end != null && known.end > now ? known.end : null;
    return { type: "set", key, from: known as unknown as Json, to: { start: now, end } as unknown as Json };
  });
  const started = due.holding && { ...due.holding.started, ...Object.fromEntries(goOn.map((id) => [id, now])) };
  const from = readScreen(engine.db).shown;
  const holds = (since: number): Step => ({
    type: "set",
    key: holdingKey,
    from: held as unknown as Json,
    to: due.holding && ({ ...due.holding, started, since, zone: engine.wordsOf.timeZone } as unknown as Json),
  });
  const brought = occasionsNow(engine).flatMap(({ id, occasion }) => (due.began.includes(id) ? (occasion.layout ?? []) : []));
  // Of several that begin at once one alone can say where things lie.
  const places = brought.slice(0, 1).flatMap((layout) => placesOfLayout(engine, layout));
  const titles = new Map(occasionsNow(engine).map(({ id, occasion }) => [id, occasion.title]));
  const named = (ids: string[]) => ids.map((id) => `“${titles.get(id) ?? "an occasion"}”`).join(" and ");
  const why = due.began.length > 0 ? `${named(due.began)} began` : `${named(due.ended)} ended`;
  const { show } = due;
  const unchanged: Plan = { act: "quiet", words: () => why, steps: [...places, ...anew, holds(from.since)], left: [] };
  const calm = show.level !== "everything";
  // What was brought back singly stays so while as much is taken as before.
  const isSame = show.level === from.level && isDeepStrictEqual(show.kinds, from.kinds);
  const wanted = { ...show, apart: from.apart, despite: isSame ? from.despite : [] };
  const to = {
    ...wanted,
    along: calm && from.along,
    until: calm ? from.until : null,
    since: calm ? engine.now() : 0,
    hidden: hiddenBy(wanted, iconsOf(engine)),
  };
  let plan: Omit<Plan, "level">;
  try {
    plan = planShown(engine, to);
  } catch (error) {
    // So it is shown already.
    if (error instanceof Problem && error.code === "already-quiet") return unchanged;
    throw error;
  }
  const { words } = plan;
  return {
    ...plan,
    words: (done) => `${why}: ${words(done).replace(/^./, (first) => first.toLowerCase())}`,
    steps: [...places, ...plan.steps, ...anew, holds(to.since)],
    level: to.level,
  };
}
