import type { SheetView, Tile } from "@/contract/views";
import { ageTone, tideAt } from "@/core/survey/tide";
import type { Words } from "@/core/words/words";
import type { VerdictRecord } from "../db/record";
import type { Engine } from "../engine";
import { verdictsInForce } from "../sitting/verdict";
import type { Item } from "./items";
import { elsewhere } from "./protection";
import type { Sheet } from "./survey";

/** A picture shows itself where it is one that can be made small. */
export const showsItself = (item: Item) =>
  (item.kind === "picture" || item.kind === "screenshot") && item.identity.type === "file" && item.facts.width !== undefined;

export function tileOf(item: Item, words: Words, now: number, verdict?: VerdictRecord): Tile {
  return {
    id: item.id,
    name: item.label,
    kind: item.kind,
    size:
      item.identity.type === "folder"
        ? words.counted(item.facts.entries ?? 0, "entry", "entries")
        : words.bytes(item.identity.bytes),
    bytes: item.identity.bytes,
    age: words.ago(item.mtimeMs),
    ageTone: ageTone(item.mtimeMs, now),
    mtimeMs: item.mtimeMs,
    tide: tideAt(item.mtimeMs, now),
    x: 0,
    y: 0,
    picture: showsItself(item),
    outOfSight: false,
    overlapping: false,
    verdict: verdict && verdictWords(verdict, words),
    worktop: item.worktop ?? "",
  };
}

function verdictWords({ verdict, until }: VerdictRecord, words: Words): string {
  if (verdict === "archive") return "collected for a parcel";
  if (until === undefined) return "stays on purpose";
  return `${verdict === "stay" ? "stays" : "waits"} until ${words.date(until)}`;
}

/** A sheet as it is drawn. */
export function sheetView(engine: Engine, sheet: Sheet): SheetView {
  const words = engine.words();
  const now = engine.now();
  const verdicts = verdictsInForce(engine);
  const known = elsewhere(engine);
  return {
    worktop: sheet.worktop.id,
    width: sheet.screen.width,
    height: sheet.height,
    screenHeight: sheet.positioned ? sheet.screen.height : 0,
    icon: sheet.screen.icon,
    tiles: sheet.items.map((item) => ({
      ...tileOf(item, words, now, verdicts.get(item.id)),
      ...sheet.points.get(item.id)!,
      outOfSight: sheet.outOfSight.has(item.id),
      overlapping: sheet.figures.overlapping?.has(item.id) ?? false,
      elsewhere: known?.get(item.id),
    })),
  };
}
