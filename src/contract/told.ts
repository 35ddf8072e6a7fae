import type { PileItem, QuietView, SheetView, SittingView, SurveyView, SweepView, Tile } from "./views";

/**
 * A view on its way to the browser: one string, which is read there once. What a thousand things have in common is not
 * written a thousand times: a thing is a row of values, and where it is spoken of again its number stands.
 */
export type Told<View> = string & { readonly of?: View };

type Value = string | number | boolean | undefined;
type Row = (Value | null)[];

/** Rows of the values under some keys; those that are empty in most come last and are left out where nothing follows. */
function rowsOf<T extends object>(list: readonly T[], keys: readonly (keyof T)[]): Row[] {
  return list.map((thing) => {
    const row = keys.map((key) => thing[key] as Value);
    while (row.length > 0 && !row.at(-1)) row.pop();
    return row;
  });
}

/** Things from their rows; what is empty is as in `empty`. */
function fromRows<T extends object>(rows: Row[], keys: readonly (keyof T)[], empty: Partial<T>): T[] {
  return rows.map(
    (row) =>
      Object.fromEntries(keys.map((key, n) => [key, row[n] ?? empty[key]]).filter(([, value]) => value !== undefined)) as T,
  );
}

const tileKeys = [
  "id",
  "name",
  "kind",
  "bytes",
  "mtimeMs",
  "x",
  "y",
  "outOfSight",
  "overlapping",
  "picture",
  "entries",
  "verdict",
] as const satisfies (keyof Tile)[];
const emptyTile = { name: "", bytes: 0, mtimeMs: 0, x: 0, y: 0, outOfSight: false, overlapping: false, picture: false };

interface ToldSheet extends Omit<SheetView, "tiles"> {
  rows: Row[];
  /** Numbers of those of which it is known that a copy lies elsewhere, and that none does. */
  elsewhere: number[];
  nowhere: number[];
}

function tellSheet({ tiles, ...sheet }: SheetView): ToldSheet {
  const which = (is: boolean) => tiles.flatMap((tile, n) => (tile.elsewhere === is ? [n] : []));
  return { ...sheet, rows: rowsOf<Tile>(tiles, tileKeys), elsewhere: which(true), nowhere: which(false) };
}

function sheetFrom({ rows, elsewhere, nowhere, ...sheet }: ToldSheet): SheetView {
  const tiles = fromRows<Tile>(rows, tileKeys, { ...emptyTile, worktop: sheet.worktop });
  for (const tile of tiles) tile.worktop = sheet.worktop;
  for (const n of elsewhere) tiles[n]!.elsewhere = true;
  for (const n of nowhere) tiles[n]!.elsewhere = false;
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
    families: view.families.map(({ why, items }) => ({ why, items: refs(items) })),
    findings: view.findings.map(({ items, stay, ...finding }) => ({ ...finding, items: refs(items), stay: refs(stay) })),
  });
}

export function surveyFrom(told: Told<SurveyView>): SurveyView {
  type Refd<T> = { [K in keyof T]: K extends "items" | "stay" ? (undefined extends T[K] ? Refs | undefined : Refs) : T[K] };
  const view = JSON.parse(told) as Omit<SurveyView, "sheet" | "sentence" | "families" | "findings"> & {
    sheet: ToldSheet;
    sentence: Refd<SurveyView["sentence"][number]>[];
    families: Refd<SurveyView["families"][number]>[];
    findings: Refd<SurveyView["findings"][number]>[];
  };
  const sheet = sheetFrom(view.sheet);
  const ids = hearing(sheet.tiles);
  return {
    ...view,
    sheet,
    sentence: view.sentence.map(({ text, items }) => ({ text, items: items && ids(items) })),
    families: view.families.map(({ why, items }) => ({ why, items: ids(items) })),
    findings: view.findings.map((finding) => ({ ...finding, items: ids(finding.items), stay: ids(finding.stay) })),
  };
}

/** What is out of sight stands on the sheet. */
export const tellQuiet = ({ sheet, outOfSight, ...view }: QuietView): Told<QuietView> =>
  JSON.stringify({ ...view, sheet: sheet && tellSheet(sheet) });

export function quietFrom(told: Told<QuietView>): QuietView {
  const { sheet: rows, ...view } = JSON.parse(told) as Omit<QuietView, "sheet" | "outOfSight"> & { sheet?: ToldSheet };
  const sheet = rows && sheetFrom(rows);
  return { ...view, sheet, outOfSight: sheet?.tiles.filter((tile) => tile.outOfSight) ?? [] };
}

const pileKeys = ["id", "name", "kind", "bytes", "picture"] as const;

export const tellSitting = (view: SittingView): Told<SittingView> =>
  JSON.stringify({ ...view, pile: rowsOf(view.pile, pileKeys) });

export function sittingFrom(told: Told<SittingView>): SittingView {
  const view = JSON.parse(told) as Omit<SittingView, "pile"> & { pile: Row[] };
  return { ...view, pile: fromRows<PileItem>(view.pile, pileKeys, { name: "", bytes: 0, picture: false }) };
}

interface ToldSweep extends Omit<SweepView, "chosen"> {
  chosen?: Omit<NonNullable<SweepView["chosen"]>, "rows"> & {
    tiles: Row[];
    worktops: string[];
    fits: [score: number, why: string][];
  };
}

export function tellSweep({ chosen, ...view }: SweepView): Told<SweepView> {
  if (!chosen) return JSON.stringify(view);
  const { rows, ...home } = chosen;
  const tiles = rows.map(({ tile }) => tile);
  return JSON.stringify({
    ...view,
    chosen: {
      ...home,
      tiles: rowsOf<Tile>(tiles, tileKeys),
      worktops: tiles.map(({ worktop }) => worktop),
      fits: rows.map(({ score, why }) => [score, why]),
    },
  } satisfies ToldSweep);
}

export function sweepFrom(told: Told<SweepView>): SweepView {
  const { chosen, ...view } = JSON.parse(told) as ToldSweep;
  if (!chosen) return view;
  const { tiles, worktops, fits, ...home } = chosen;
  const rows = fromRows<Tile>(tiles, tileKeys, emptyTile).map((tile, n) => ({
    tile: { ...tile, worktop: worktops[n]! },
    score: fits[n]![0],
    why: fits[n]![1],
  }));
  return { ...view, chosen: { ...home, rows } };
}
