import type { SurveyView } from "@/contract/views";
import type { Point } from "@/core/ledger/shapes";
import type { ActName } from "@/core/ledger/step";
import { folderOf, type Raw } from "@/core/names/raw";
import { layOut } from "@/core/survey/figures";
import { tuckedFolder } from "../account";
import { readPosition } from "../db/record";
import { revision } from "../db/revision";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import { itemsByIds } from "./items";
import { coveredShareOf, type Sheet } from "./survey";

/** Where a thing is that left a worktop. */
type Whither = "in its home" | "gathered" | "in the trash" | "in a depot";

function whither(act: ActName, type: "move" | "trash"): Whither {
  if (type === "trash") return act === "send" ? "in a depot" : "in the trash";
  return act === "gather" ? "gathered" : "in its home";
}

/** The things that acts which still stand have taken from a worktop since a moment, in milliseconds since 1970. */
export function leftSince(
  engine: Engine,
  { worktop, items }: Pick<Sheet, "worktop" | "items">,
  since: number,
): Map<string, Whither> {
  const entries = engine.db
    .prepare<[number], { id: number; act: ActName }>(
      "SELECT id, act FROM entry WHERE target = id AND state = 'done' AND at >= ? ORDER BY id",
    )
    .all(since);
  const folders: Raw[] = [worktop.folder, tuckedFolder(worktop)];
  const lying = new Set(items.map(({ id }) => id));
  const left = new Map<string, Whither>();
  for (const { id, act } of entries)
    for (const { step, state } of engine.ledger.entries.stepsOf(id)) {
      if (state !== "done" || (step.type !== "move" && step.type !== "trash") || !step.item) continue;
      if (folders.includes(folderOf(step.from)) && !lying.has(step.item)) left.set(step.item, whither(act, step.type));
    }
  return left;
}

/** The midnight before a moment, here. */
export const midnightBefore = (ms: number): number => new Date(ms).setHours(0, 0, 0, 0);

/** Where things lay: as the screen says, or in rows. */
export function pointsOf(engine: Engine, sheet: Sheet, ids: readonly string[]): Point[] {
  if (!sheet.positioned) return layOut(ids.length, sheet.screen).points;
  return ids.flatMap((id) => sheet.points.get(id) ?? readPosition(engine.db, id) ?? []);
}

/** So many are drawn: more could not be seen apart. And of so many it is reckoned what they covered. */
const mostDrawn = 400;
const mostReckoned = 5000;

const known = sharedMemory<Engine, { of: string; cleared: SurveyView["cleared"] }>("cleared today");

/**
 * How a worktop on which nothing lies any more came to be bare today: what lay there, and where that is now. Kept until
 * anything changes, as of a hundred thousand things it takes a while.
 */
export function clearedToday(engine: Engine, sheet: Sheet): SurveyView["cleared"] {
  if (sheet.items.length > 0) return undefined;
  const since = midnightBefore(engine.now());
  const of = `${sheet.worktop.id} ${since} ${revision(engine.db, "item", "record")}`;
  const last = known.get(engine);
  if (last?.of === of) return last.cleared;
  const cleared = clearedSince(engine, sheet, since);
  known.set(engine, { of, cleared });
  return cleared;
}

function clearedSince(engine: Engine, sheet: Sheet, since: number): SurveyView["cleared"] {
  const left = leftSince(engine, sheet, since);
  if (left.size === 0) return undefined;
  const words = engine.words();
  const ids = [...left.keys()];
  const points = pointsOf(engine, sheet, ids.slice(0, mostReckoned));
  const bytes = itemsByIds(engine.db, ids).reduce((sum, item) => sum + item.bytes, 0);
  const count = (where: Whither) => [...left.values()].filter((one) => one === where).length;
  const parts = (
    [
      ["in its home", "in its home", "in their homes"],
      ["gathered", "gathered in a folder", "gathered in a folder"],
      ["in a depot", "in a depot", "in a depot"],
      ["in the trash", "in the trash", "in the trash"],
    ] as const
  ).flatMap(([where, one, more]) => {
    const n = count(where);
    return n === 0 ? [] : [`${words.count(n)} ${n === 1 ? `is ${one}` : `are ${more}`}`];
  });
  const covered =
    sheet.positioned && ids.length <= mostReckoned
      ? `${ids.length === 1 ? "It" : "They"} covered ${words.share(coveredShareOf(points, sheet.screen))} of the screen. `
      : "";
  return {
    words: `${words.counted(left.size, "thing")} lay here today, ${words.bytes(bytes)}. ${covered}Now ${inARow(parts)}.`,
    points: points.slice(0, mostDrawn).map(({ x, y }) => ({ x: x / sheet.screen.width, y: y / sheet.height })),
  };
}

const inARow = (parts: string[]): string =>
  parts.length < 2 ? (parts[0] ?? "") : `${parts.slice(0, -1).join(", ")} and ${parts.at(-1)}`;
