import { isDeepStrictEqual } from "node:util";
import type { ItemRef, ReportJson } from "@/contract/items";
import type { HideInput, QuietInput } from "@/contract/quiet";
import { type Renamed, renamedWords } from "@/core/ledger/renamed";
import type { Plan, Step } from "@/core/ledger/step";
import { nameOf, type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { arrivedSince, type HowMuch, hiddenBy, type Icon, isInDoubt } from "@/core/quiet/levels";
import type { Shown } from "@/core/screen/state";
import { perform } from "../act";
import { readScreen } from "../db/record";
import type { Engine, Reading } from "../engine";
import { screenOf } from "../screen/screens";
import { outOfSight, stepsTo, unknownOutOfSight } from "../screen/sight";
import { verdictsInForce } from "../sitting/verdict";
import { type Item, itemsOn, takenByOthers, thingsOn } from "../survey/items";
import { refreshWorktops } from "../survey/refresh";

const doing = "Changing what the screen shows";

/** The desktop's icons, hollows aside, with what decides whether they are shown. */
export function iconsOf(engine: Reading): Icon[] {
  const verdicts = verdictsInForce(engine);
  return thingsOn(engine.db, "desktop").map((item) => ({
    id: item.id,
    kind: item.kind,
    stays: verdicts.get(item.id)?.verdict === "stay",
    arrivedAt: item.arrivedAt,
  }));
}

/** Takes icons out of sight up to a level, or brings them back: one act. */
export async function quiet(engine: Engine, input: QuietInput): Promise<ReportJson> {
  if (unknownOutOfSight(engine).length > 0) await lookOutOfSight(engine);
  return perform(engine, doing, () => planQuiet(engine, input), { trial: input.dryRun });
}

/** What somebody else put where things lie out of sight comes back with the rest; what an act has in hand just now is none of that. */
async function lookOutOfSight(engine: Engine): Promise<void> {
  await engine.ledger.undisturbed(async () => {});
  if (unknownOutOfSight(engine).length > 0) await refreshWorktops(engine);
}

function planQuiet(engine: Engine, input: QuietInput): Plan {
  const from = readScreen(engine.db).shown;
  const toggled = from.level === "everything" ? "bare" : "everything";
  const level = input.level === "toggle" ? toggled : input.level;
  const kinds = level === "some kinds" ? (input.kinds ?? []) : [];
  if (level === "some kinds" && kinds.length === 0) throw new Problem("no-kind");
  const until = level === "everything" ? null : (input.until ?? null);
  if (until !== null && until <= engine.now()) throw new Problem("bad-words", { detail: "That time is past." });
  const wanted: HowMuch = {
    level,
    kinds,
    // Who asks for everything means everything; a key that takes away and brings back leaves what was hidden before.
    apart: level === "everything" && input.level !== "toggle" ? [] : from.apart,
    despite: [],
  };
  const plan = planShown(engine, {
    ...wanted,
    hidden: hiddenBy(wanted, iconsOf(engine)),
    along: level !== "everything" && input.along === true,
    since: level === "everything" ? 0 : engine.now(),
    until,
    evenInUse: input.evenInUse,
  });
  return { ...plan, level };
}

/** Takes single things out of sight, whatever the level. */
export function hide(engine: Engine, input: HideInput): Promise<ReportJson> {
  return perform(engine, doing, () => planOnes(engine, input, "hide"), { trial: input.dryRun });
}

/** Brings single things back in sight, each into its very spot, whatever the level. */
export function bringBack(engine: Engine, input: HideInput): Promise<ReportJson> {
  return perform(engine, doing, () => planOnes(engine, input, "bring back"), { trial: input.dryRun });
}

function planOnes(engine: Engine, { items, evenInUse }: HideInput, what: "hide" | "bring back"): Plan {
  const from = readScreen(engine.db).shown;
  const ids = new Set(iconsNamed(engine, items).map(({ id }) => id));
  const without = (list: string[]) => list.filter((id) => !ids.has(id));
  const icons = iconsOf(engine);
  const byLevel = new Set(hiddenBy({ ...from, apart: [], despite: [] }, icons));
  const of = (level: boolean) => [...ids].filter((id) => byLevel.has(id) === level);
  const before = outOfSight(engine, itemsOn(engine.db, "desktop"), from);
  // What a program has open is to go still, but not by this.
  if (screenOf(engine).name === "tucked away") for (const id of from.hidden) before.add(id);
  // These alone: what arrived since is no part of it.
  const hidden = icons.map(({ id }) => id).filter((id) => (ids.has(id) ? what === "hide" : before.has(id)));
  return planShown(engine, {
    ...from,
    apart: what === "hide" ? [...without(from.apart), ...of(false)] : without(from.apart),
    despite: what === "hide" ? without(from.despite) : [...without(from.despite), ...of(true)],
    hidden,
    evenInUse,
    only: ids,
  });
}

/** The desktop's things that are meant; one out of sight also by the path at which it lay. */
export function iconsNamed(engine: Engine, refs: ItemRef[]): Item[] {
  const icons = itemsOn(engine.db, "desktop");
  const desktop = engine.account.worktops.find(({ id }) => id === "desktop");
  const byId = new Map(icons.map((item) => [item.id, item]));
  const byPath = new Map(icons.flatMap((item) => (desktop ? [[`${desktop.folder}/${item.name}` as Raw, item] as const] : [])));
  for (const item of icons) byPath.set(item.path, item);
  return refs.map((ref) => {
    const path = typeof ref === "string" ? undefined : (atob(ref.path) as Raw);
    const found = typeof ref === "string" ? byId.get(ref) : byPath.get(path!);
    if (!found) throw new Problem("unknown-icon", { name: path && shownName(nameOf(path)) });
    return found;
  });
}

/** From what is shown now to something else; `only`: of these alone. */
export function planShown(
  engine: Engine,
  { evenInUse, only, ...wanted }: Shown & { evenInUse?: true; only?: ReadonlySet<string> },
): Omit<Plan, "level"> {
  const items = thingsOn(engine.db, "desktop");
  const from = readScreen(engine.db).shown;
  const screen = screenOf(engine);
  const gone = outOfSight(engine, items, from);
  const asked = new Set(wanted.hidden);
  const refused = new Map(
    items.flatMap((item) => {
      const problem = asked.has(item.id) ? screen.refuses?.(item) : undefined;
      return problem ? [[item.id, { name: item.label, item: item.id, code: problem.code, why: problem.message }] as const] : [];
    }),
  );
  const hidden = wanted.hidden.filter((id) => !refused.has(id));
  if (screen.allOrNothing && hidden.length > 0 && hidden.length < items.length) throw new Problem("all-or-nothing");
  // What is gone needs no word any more.
  const lies = new Set(items.map(({ id }) => id));
  const still = (ids: string[]) => ids.filter((id) => lies.has(id));
  const to: Shown = { ...wanted, apart: still(wanted.apart), despite: still(wanted.despite), hidden };
  const asWanted = (a: HowMuch & Pick<Shown, "along" | "until">) => [a.level, a.kinds, a.apart, a.despite, a.along, a.until];
  const believed = screen.believed?.(engine, from) ?? "known";
  const isThere = believed !== "otherwise" && hidden.length === gone.size && hidden.every((id) => gone.has(id));
  if (isThere && isDeepStrictEqual(asWanted(from), asWanted(to))) throw new Problem("already-quiet");
  const words = engine.words();
  const byOthers = screen.hiddenByOthers?.(engine, items);
  const away = hidden.filter((id) => !gone.has(id) && !byOthers?.has(id)).length;
  const goes = new Set(hidden);
  const back = [...gone].filter((id) => !goes.has(id)).length;
  return {
    act: "quiet",
    words: (done) => {
      if (done.some((step) => step.type === "tell")) return toldWords(engine, to);
      const moved = (sight: "out" | "back") => done.filter((step) => step.type === "move" && step.sight === sight).length;
      const [out, home] = screen.name === "tucked away" ? [moved("out"), moved("back")] : [away, back];
      const said =
        out > 0
          ? `Took ${words.counted(out, "icon")} out of sight`
          : home > 0
            ? `Brought ${words.counted(home, "icon")} back in sight`
            : "Changed how much the screen shows";
      return said + renamedWords(done.flatMap(renamedBy));
    },
    // A hollow that lies with what is out of sight comes back with the rest.
    steps: stepsTo(engine, itemsOn(engine.db, "desktop"), from, to, { evenInUse, only }),
    left: [...refused.values()],
  };
}

/** A thing that did not come back under the name that it had on the desktop. */
function renamedBy(step: Step, _: number, all: readonly Step[]): Renamed[] {
  if (step.type !== "move" || step.sight !== "back") return [];
  const own = all.find((other) => other.type === "set" && other.key === `name:${step.item}`);
  const from = own?.type === "set" && own.from !== null ? (own.from as { name: Raw }).name : nameOf(step.from);
  const to = nameOf(step.to);
  return from === to ? [] : [{ from, to }];
}

/** What may be said of a screen that was told: no more than it answered. */
function toldWords(engine: Engine, to: Shown): string {
  if (to.level === "everything") return "Told the screen to show its icons";
  const { length } = to.hidden;
  const icons = engine.words().counted(length, "icon");
  return screenOf(engine).believed?.(engine, to) === "known" ? `Took ${icons} out of sight` : `Asked the screen to hide ${icons}`;
}

export const isOutOfSight = (engine: Engine, item: Item): boolean =>
  outOfSight(engine, [item], readScreen(engine.db).shown).has(item.id);

/** How it stands: the level, what is out of sight, what arrived since, and what is in sight still as a program has it open. */
export function quietNow(engine: Engine) {
  const items = thingsOn(engine.db, "desktop");
  const { shown } = readScreen(engine.db);
  const screen = screenOf(engine);
  const hidden = outOfSight(engine, items, shown);
  const icons = iconsOf(engine);
  const away = items.filter((item) => hidden.has(item.id));
  const wanted = new Set(shown.hidden);
  const byOthers = wanted.size > hidden.size ? screen.hiddenByOthers?.(engine, items) : undefined;
  return {
    shown,
    level: shown.level,
    outOfSight: away,
    /** Put there by somebody else, and not looked at yet. */
    unknown: unknownOutOfSight(engine),
    arrived: arrivedSince({ ...shown, hidden: [...hidden] }, icons).length,
    // All or nothing: what is in sight there is not left.
    left: screen.allOrNothing ? [] : items.filter(({ id }) => wanted.has(id) && !hidden.has(id) && !byOthers?.has(id)),
    // What was taken out of sight, and is neither there nor anywhere that Vuoto put it.
    gone: items.filter(({ id }) => wanted.has(id)).length < wanted.size ? takenByOthers(engine.db, "desktop", shown.hidden) : [],
    believed: screen.believed?.(engine, shown) ?? "known",
    doubt: shown.until !== null && isInDoubt(shown, engine.now()),
    counts: { everything: icons.length, "what stays": icons.filter((icon) => icon.stays).length },
  };
}
