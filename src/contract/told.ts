import { laidByAge } from "@/core/survey/figures";
import { type Kind, kinds } from "@/core/survey/kinds";
import type {
  LedgerView,
  OverlookedView,
  PileItem,
  QuietView,
  SheetView,
  SittingView,
  SurveyView,
  SweepView,
  Tile,
  TrashLine,
} from "./views";

/**
 * A view on its way to the browser: one string, which is read there once. What a thousand things have in common is not
 * written a thousand times: a thing is a row of values, and where it is spoken of again its number stands.
 */
export type Told<View> = string & { readonly of?: View };

/** A column of a table: how a thing's value is written, and read again. What is empty is written as nothing. */
interface Column<T> {
  write(thing: T): string;
  read(written: string, thing: T): void;
}

// Quotes and what else JSON writes in several characters would be written so twice over, within the page and within the view.
const inRows = /[%|~"\\<\u0000-\u001f\u2028\u2029]/g;
const escaped = (text: string) => text.replace(inRows, (c) => `%${c.charCodeAt(0).toString(16).padStart(4, "0")}`);
const unescaped = (text: string) =>
  text.includes("%")
    ? text.replace(/%([0-9a-f]{4})/g, (_, code: string) => String.fromCharCode(Number.parseInt(code, 16)))
    : text;

type KeysOf<T, V> = { [K in keyof T]-?: NonNullable<T[K]> extends V ? K : never }[keyof T];

const text = <T>(key: KeysOf<T, string>): Column<T> => ({
  write: (thing) => escaped((thing[key] as string | undefined) ?? ""),
  read(written, thing) {
    if (written !== "") (thing as Record<typeof key, string>)[key] = unescaped(written);
  },
});

/** A whole number; one that may be missing is `optional`. */
const whole = <T>(key: KeysOf<T, number>, optional = false): Column<T> => ({
  write(thing) {
    const value = thing[key] as number | undefined;
    return value === undefined || (value === 0 && !optional) ? "" : value.toString(36);
  },
  read(written, thing) {
    if (written !== "" || !optional) (thing as Record<typeof key, number>)[key] = Number.parseInt(written || "0", 36);
  },
});

const decimal = <T>(key: KeysOf<T, number>): Column<T> => ({
  write: (thing) => String((thing[key] as number) || ""),
  read(written, thing) {
    (thing as Record<typeof key, number>)[key] = Number(written);
  },
});

const kind = <T extends { kind: Kind }>(): Column<T> => ({
  write: (thing) => kinds.indexOf(thing.kind).toString(36),
  read(written, thing) {
    thing.kind = kinds[Number.parseInt(written, 36)]!;
  },
});

/** Things as one text: a row each, in which what is empty at its end is left out. */
const tell = <T>(list: readonly T[], columns: Column<T>[]): string =>
  list
    .map((thing) =>
      columns
        .map((column) => column.write(thing))
        .join("|")
        .replace(/\|+$/, ""),
    )
    .join("~");

/** The same things from such a text. `rest`: what they have in common. */
function hear<T>(told: string, columns: Column<T>[], rest: Partial<T> = {}): T[] {
  if (told === "") return [];
  return told.split("~").map((row) => {
    const values = row.split("|");
    const thing = { ...rest } as T;
    for (const [n, column] of columns.entries()) column.read(values[n] ?? "", thing);
    return thing;
  });
}

/** What of a tile is true or not, as bits; of a copy elsewhere it may not be known. */
const flags: Column<Tile> = {
  write({ picture, outOfSight, overlapping, elsewhere, clear }) {
    const bits = [picture, outOfSight, overlapping, elsewhere === true, elsewhere === false, clear === true];
    const sum = bits.reduce((all, bit, n) => all + (bit ? 1 << n : 0), 0);
    return sum === 0 ? "" : sum.toString(36);
  },
  read(written, tile) {
    const bits = Number.parseInt(written || "0", 36);
    const bit = (n: number) => (bits & (1 << n)) !== 0;
    [tile.picture, tile.outOfSight, tile.overlapping] = [bit(0), bit(1), bit(2)];
    if (bit(3) || bit(4)) tile.elsewhere = bit(3);
    if (bit(5)) tile.clear = true;
  },
};

/** When a thing was last changed; older than a day it is not said to the second. */
const seconds: Column<{ mtimeMs: number }>[] = [
  {
    write: ({ mtimeMs }) => Math.floor(mtimeMs / 1000).toString(36),
    read(written, thing) {
      thing.mtimeMs = Number.parseInt(written, 36) * 1000;
    },
  },
];

const tileColumns: Column<Tile>[] = [
  text("id"),
  text("name"),
  kind(),
  whole("bytes"),
  ...seconds,
  flags,
  whole("entries", true),
  text("verdict"),
  text("blank"),
];
const placed: Column<Tile>[] = [decimal("x"), decimal("y")];

interface ToldSheet extends Omit<SheetView, "tiles"> {
  rows: string;
}

function tellSheet({ tiles, ...sheet }: SheetView): ToldSheet {
  return { ...sheet, rows: tell(tiles, sheet.screenHeight > 0 ? [...tileColumns, ...placed] : tileColumns) };
}

function sheetFrom({ rows, ...sheet }: ToldSheet): SheetView {
  const { worktop } = sheet;
  if (sheet.screenHeight > 0) return { ...sheet, tiles: hear<Tile>(rows, [...tileColumns, ...placed], { worktop }) };
  const tiles = hear<Tile>(rows, tileColumns, { worktop });
  for (const [n, at] of laidByAge(tiles, sheet).points.entries()) Object.assign(tiles[n]!, at);
  return { ...sheet, tiles };
}

/** A thing by its number on the sheet; one that lies elsewhere by its id. All of them are "all". */
type Refs = "all" | (number | string)[];

function telling(tiles: readonly Tile[]): (ids: readonly string[]) => Refs {
  const numbers = new Map(tiles.map(({ id }, n) => [id, n]));
  return (ids) => {
    const refs = ids.map((id) => numbers.get(id) ?? id);
    return refs.length === tiles.length && refs.every((ref, n) => ref === n) ? "all" : refs;
  };
}

const hearing = (tiles: readonly Tile[]) => (refs: Refs) =>
  refs === "all" ? tiles.map(({ id }) => id) : refs.map((ref) => (typeof ref === "string" ? ref : tiles[ref]!.id));

export function tellSurvey(view: SurveyView): Told<SurveyView> {
  const refs = telling(view.sheet.tiles);
  return JSON.stringify({
    ...view,
    sheet: tellSheet(view.sheet),
    sentence: view.sentence.map(({ text, items }) => ({ text, items: items && refs(items) })),
    findings: view.findings.map(({ items, stay, ...finding }) => ({ ...finding, items: refs(items), stay: refs(stay) })),
  });
}

export function surveyFrom(told: Told<SurveyView>): SurveyView {
  type Refd<T> = { [K in keyof T]: K extends "items" | "stay" ? (undefined extends T[K] ? Refs | undefined : Refs) : T[K] };
  const view = JSON.parse(told) as Omit<SurveyView, "sheet" | "sentence" | "findings"> & {
    sheet: ToldSheet;
    sentence: Refd<SurveyView["sentence"][number]>[];
    findings: Refd<SurveyView["findings"][number]>[];
  };
  const sheet = sheetFrom(view.sheet);
  const ids = hearing(sheet.tiles);
  return {
    ...view,
    sheet,
    sentence: view.sentence.map(({ text, items }) => ({ text, items: items && ids(items) })),
    findings: view.findings.map((finding) => ({ ...finding, items: ids(finding.items), stay: ids(finding.stay) })),
  };
}

const pileColumns: Column<PileItem>[] = [
  text("id"),
  text("name"),
  kind(),
  whole("bytes"),
  // Whether it shows itself, and where it lies.
  {
    write: ({ picture, worktop }) => `${picture ? "1" : ""}${worktop.slice(0, 2)}`,
    read(written, item) {
      item.picture = written.startsWith("1");
      item.worktop = written.endsWith("de") ? "desktop" : written.endsWith("do") ? "downloads" : "";
    },
  },
  ...seconds,
  whole("family", true),
  whole("due", true),
];

export const tellQuiet = ({ sheet, ...view }: QuietView): Told<QuietView> =>
  JSON.stringify({ ...view, sheet: sheet && tellSheet(sheet) });

export function quietFrom(told: Told<QuietView>): QuietView {
  const { sheet, ...view } = JSON.parse(told) as Omit<QuietView, "sheet"> & { sheet?: ToldSheet };
  return { ...view, sheet: sheet && sheetFrom(sheet) };
}

export const tellSitting = (view: SittingView): Told<SittingView> =>
  JSON.stringify({ ...view, pile: tell(view.pile, pileColumns) });

export function sittingFrom(told: Told<SittingView>): SittingView {
  const view = JSON.parse(told) as Omit<SittingView, "pile"> & { pile: string };
  return { ...view, pile: hear(view.pile, pileColumns) };
}

const homeColumns = [...tileColumns, text<Tile>("worktop")];

interface ToldSweep extends Omit<SweepView, "chosen" | "overlooked" | "finer"> {
  chosen?: Omit<NonNullable<SweepView["chosen"]>, "rows"> & { tiles: string; fits: [score: number, why: string][] };
  overlooked: ToldGroup[];
  finer: ToldGroup[];
}

interface ToldGroup extends Omit<OverlookedView, "tiles"> {
  tiles: string;
}

const tellGroup = (group: OverlookedView): ToldGroup => ({ ...group, tiles: tell(group.tiles, homeColumns) });
const groupFrom = (group: ToldGroup): OverlookedView => ({ ...group, tiles: hear<Tile>(group.tiles, homeColumns, unplaced) });
const unplaced = { x: 0, y: 0 };

export function tellSweep({ chosen, ...view }: SweepView): Told<SweepView> {
  const told: ToldSweep = { ...view, overlooked: view.overlooked.map(tellGroup), finer: view.finer.map(tellGroup) };
  if (chosen) {
    const { rows, ...home } = chosen;
    const [tiles, fits] = [rows.map(({ tile }) => tile), rows.map(({ score, why }): [number, string] => [score, why])];
    told.chosen = { ...home, tiles: tell(tiles, homeColumns), fits };
  }
  return JSON.stringify(told);
}

export function sweepFrom(told: Told<SweepView>): SweepView {
  const { chosen, ...view } = JSON.parse(told) as ToldSweep;
  const heard: SweepView = { ...view, overlooked: view.overlooked.map(groupFrom), finer: view.finer.map(groupFrom) };
  if (chosen) {
    const { tiles, fits, ...home } = chosen;
    const rows = hear<Tile>(tiles, homeColumns, unplaced).map((tile, n) => ({ tile, score: fits[n]![0], why: fits[n]![1] }));
    heard.chosen = { ...home, rows };
  }
  return heard;
}

const trashColumns: Column<TrashLine>[] = [text("id"), text("name"), whole("bytes", true), whole("deletedAt", true)];

interface ToldLedger extends Omit<LedgerView, "trash"> {
  trash: string;
  /** Where things lay, each place once, and of each thing the number of its place. */
  places: string[];
  from: string;
}

export function tellLedger({ trash, ...view }: LedgerView): Told<LedgerView> {
  const places = [...new Set(trash.map(({ from }) => from))];
  const numbers = new Map(places.map((place, n) => [place, n.toString(36)]));
  const from = trash.map((line) => numbers.get(line.from)).join(" ");
  return JSON.stringify({ ...view, trash: tell(trash, trashColumns), places, from } satisfies ToldLedger);
}

export function ledgerFrom(told: Told<LedgerView>): LedgerView {
  const { trash, places, from, ...view } = JSON.parse(told) as ToldLedger;
  const numbers = from.split(" ").map((number) => Number.parseInt(number, 36));
  const lines = hear(trash, trashColumns).map((line, n) => ({ ...line, from: places[numbers[n]!]! }));
  return { ...view, trash: lines };
}
