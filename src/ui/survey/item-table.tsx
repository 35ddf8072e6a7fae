"use client";
import {
  columnFilteringFeature,
  createColumnHelper,
  createFilteredRowModel,
  createSortedRowModel,
  filterFn_includesString,
  globalFilteringFeature,
  rowSortingFeature,
  sortFn_alphanumeric,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import type { FamilyOnSheet } from "@/contract/survey";
import type { Tile } from "@/contract/views";
import { ageTone } from "@/core/survey/tide";
import { ask } from "../kit/ask";
import { useGrown } from "../kit/grown";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { tileSize, useWords } from "../kit/words";
import { Glyph } from "../plan/glyph";

const rowHeight = 32;

const features = tableFeatures({
  columnFilteringFeature,
  globalFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
  filterFns: { includesString: filterFn_includesString },
  sortFns: { alphanumeric: sortFn_alphanumeric },
});
const helper = createColumnHelper<typeof features, Tile>();
const columns = helper.columns([
  helper.accessor("name", { header: "name", sortFn: "alphanumeric" }),
  helper.accessor("kind", { header: "kind" }),
  helper.accessor("bytes", { header: "size" }),
  helper.accessor("mtimeMs", { header: "changed" }),
  helper.accessor((tile) => (tile.outOfSight ? "out of sight" : (tile.verdict ?? "")), { id: "verdict", header: "decided" }),
]);
const widths: Record<string, string> = {
  name: "min-w-0 flex-1 text-left",
  kind: "w-24 text-left",
  bytes: "w-20 text-right",
  mtimeMs: "w-32 text-left",
  verdict: "w-36 text-left",
};

export type Grouping = "nothing" | "kind" | "activity" | "age";
const ageWords = ["this week", "this month", "three months", "this year", "two years", "older"];

type Row = { group: string; tiles: Tile[] } | { tile: Tile };

/** The same things as a table: sorted, narrowed by a word, grouped with true counts, chosen one by one or by group. */
export function ItemTable({
  tiles,
  worktop,
  chosen,
  onChoose,
  onOpen,
}: {
  tiles: Tile[];
  worktop: "desktop" | "downloads";
  chosen: ReadonlySet<string>;
  onChoose: (ids: string[], how: "only" | "toggle" | "add") => void;
  onOpen: (id: string) => void;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const { now } = useWords();
  const [grouping, setGrouping] = useState<Grouping>("nothing");
  const [families, setFamilies] = useState<FamilyOnSheet[]>([]);
  const { say } = useLive();
  const byFamily = grouping === "activity";
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew with each new sheet of things.
  useEffect(() => {
    if (byFamily) ask("survey/families", { worktop }).then(setFamilies, say);
  }, [byFamily, worktop, tiles, say]);
  const table = useTable({ features, columns, data: tiles, globalFilterFn: "includesString", enableSortingRemoval: false });
  const shown = table.getRowModel().rows;
  const rows = useMemo(
    () =>
      groupedBy(
        grouping,
        families,
        shown.map((row) => row.original),
        now,
      ),
    [grouping, families, shown, now],
  );
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  const ids = shown.map((row) => row.original.id);
  const allChosen = ids.length > 0 && ids.every((id) => chosen.has(id));
  const filter = (table.state.globalFilter as string | undefined) ?? "";
  return (
    <div className="flex h-full min-h-0 flex-col border border-ink bg-sheet">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1 border-b border-line px-3 py-1.5 text-small">
        <label className="flex items-center gap-2">
          <span className="text-ink-2">find</span>
          <input
            type="search"
            className="w-40 border-b border-ink-2 bg-transparent outline-none focus:border-verdigris"
            placeholder="a word or a kind"
            value={filter}
            onChange={(event) => table.setGlobalFilter(event.target.value)}
          />
        </label>
        <span role="status">{filter ? `${ids.length} of ${tiles.length}` : things(tiles.length)}</span>
        <span className="ml-auto flex gap-3 text-ink-2" role="group" aria-label="grouped by">
          grouped by
          {(["nothing", "kind", "activity", "age"] as const).map((by) => (
            <button
              key={by}
              type="button"
              aria-pressed={grouping === by}
              className={grouping === by ? "border-b-2 border-ink font-semibold text-ink" : "hover:text-ink"}
              onClick={() => setGrouping(by)}
            >
              {by}
            </button>
          ))}
        </span>
      </div>
      <div className="flex items-center gap-3 border-b border-ink px-3 py-1.5 text-small font-semibold">
        <input
          type="checkbox"
          className="size-4 accent-verdigris"
          aria-label={`choose all ${ids.length} shown`}
          checked={allChosen}
          onChange={() => onChoose(allChosen ? [] : ids, "only")}
        />
        <span className="w-[18px]" />
        {table.getHeaderGroups()[0]!.headers.map((header) => {
          const sorted = header.column.getIsSorted();
          return (
            <button
              key={header.id}
              type="button"
              className={`${widths[header.id]} hover:underline`}
              aria-label={`sort by ${String(header.column.columnDef.header)}${sorted ? `, now ${sorted === "asc" ? "rising" : "falling"}` : ""}`}
              onClick={() => header.column.toggleSorting()}
            >
              {String(header.column.columnDef.header)}
              <span aria-hidden="true">{sorted === "asc" ? " ↑" : sorted === "desc" ? " ↓" : ""}</span>
            </button>
          );
        })}
      </div>
      <div ref={scroll} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="things, listed">
        {rows.length === 0 && <p className="p-4 text-ink-2">Nothing here has “{filter}” in it.</p>}
        <ul className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = rows[index]!;
            const place = { top: start, height: rowHeight };
            return "group" in row ? (
              <GroupRow key={`group ${row.group}`} row={row} place={place} chosen={chosen} onChoose={onChoose} />
            ) : (
              <TileRow
                key={row.tile.id}
                tile={row.tile}
                place={place}
                chosen={chosen.has(row.tile.id)}
                onChoose={onChoose}
                onOpen={onOpen}
              />
            );
          })}
        </ul>
      </div>
    </div>
  );
}

interface Place {
  top: number;
  height: number;
}

function GroupRow({
  row,
  place,
  chosen,
  onChoose,
}: {
  row: { group: string; tiles: Tile[] };
  place: Place;
  chosen: ReadonlySet<string>;
  onChoose: (ids: string[], how: "only" | "toggle" | "add") => void;
}) {
  const words = useWords();
  const ids = row.tiles.map((tile) => tile.id);
  const bytes = row.tiles.reduce((sum, tile) => sum + tile.bytes, 0);
  const all = ids.every((id) => chosen.has(id));
  return (
    <li className="absolute inset-x-0 flex items-center gap-3 border-b border-ink bg-wash px-3 text-small" style={place}>
      <input
        type="checkbox"
        className="size-4 accent-verdigris"
        aria-label={`choose ${row.group}`}
        checked={all}
        onChange={() => (all ? onChoose(ids, "toggle") : onChoose(ids, "add"))}
      />
      <b className="font-semibold">{row.group}</b>
      <span className="text-ink-2">
        {things(ids.length)}, {words.bytes(bytes)}
      </span>
    </li>
  );
}

function TileRow({
  tile: drawn,
  place,
  chosen,
  onChoose,
  onOpen,
}: {
  tile: Tile;
  place: Place;
  chosen: boolean;
  onChoose: (ids: string[], how: "only" | "toggle" | "add") => void;
  onOpen: (id: string) => void;
}) {
  const words = useWords();
  const tile = useGrown(drawn);
  return (
    <li
      className={`absolute inset-x-0 flex items-center gap-3 border-b border-line px-3 ${chosen ? "bg-wash" : ""}`}
      style={place}
    >
      <input
        type="checkbox"
        className="size-4 accent-verdigris"
        aria-label={`choose ${tile.name}`}
        checked={chosen}
        onChange={() => onChoose([tile.id], "toggle")}
      />
      <Glyph kind={tile.kind} width={18} />
      <button type="button" className="min-w-0 flex-1 text-left hover:underline" onClick={() => onOpen(tile.id)}>
        <Name>{tile.name}</Name>
      </button>
      <span className="w-24 text-small text-ink-2">{tile.kind}</span>
      <span className="w-20 text-right text-small text-ink-2">{tileSize(tile, words)}</span>
      <span className="w-32 text-small text-ink-2">{words.ago(tile.mtimeMs)}</span>
      <span className="w-36 truncate text-small text-ink-2">{tile.outOfSight ? "out of sight" : (tile.verdict ?? "")}</span>
    </li>
  );
}

/** Rows under their groups, the largest group first (ages in their order), each group with its true count. */
function groupedBy(grouping: Grouping, families: FamilyOnSheet[], tiles: Tile[], now: number): Row[] {
  if (grouping === "nothing") return tiles.map((tile) => ({ tile }));
  const family = new Map(families.flatMap(({ why, items }) => items.map((id) => [id, why] as const)));
  const nameOf = (tile: Tile): string =>
    grouping === "kind"
      ? tile.kind
      : grouping === "age"
        ? ageWords[ageTone(tile.mtimeMs, now)]!
        : (family.get(tile.id) ?? "by itself");
  const groups = new Map<string, Tile[]>();
  for (const tile of tiles) {
    const of = groups.get(nameOf(tile));
    if (of) of.push(tile);
    else groups.set(nameOf(tile), [tile]);
  }
  const ordered = [...groups].sort(([a, one], [b, other]) =>
    grouping === "age" ? ageWords.indexOf(a) - ageWords.indexOf(b) : other.length - one.length || (a < b ? -1 : 1),
  );
  return ordered.flatMap(([group, list]) => [{ group, tiles: list }, ...list.map((tile) => ({ tile }))]);
}
