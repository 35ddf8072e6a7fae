"use client";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { Tile } from "@/contract/views";
import { Glyph } from "../plan/glyph";

const rowHeight = 32;

/** The same things as a list, for the keyboard and the screen reader. */
export function ItemList({
  tiles,
  chosen,
  onChoose,
  onOpen,
}: {
  tiles: Tile[];
  chosen: ReadonlySet<string>;
  onChoose: (ids: string[], how: "only" | "toggle" | "add") => void;
  onOpen: (id: string) => void;
}) {
  const scroll = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: tiles.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  const allChosen = tiles.length > 0 && tiles.every((tile) => chosen.has(tile.id));
  return (
    <div className="flex h-full flex-col border border-ink bg-sheet">
      <label className="flex items-center gap-3 border-b border-ink px-3 py-1.5 font-semibold">
        <input
          type="checkbox"
          className="size-4 accent-verdigris"
          checked={allChosen}
          onChange={() => onChoose(allChosen ? [] : tiles.map((tile) => tile.id), "only")}
        />
        all {tiles.length} things
      </label>
      <div ref={scroll} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="group" aria-label="things, listed">
        <ul className="relative" style={{ height: rows.getTotalSize() }}>
          {rows.getVirtualItems().map((row) => {
            const tile = tiles[row.index]!;
            return (
              <li
                key={tile.id}
                className={`absolute inset-x-0 flex items-center gap-3 border-b border-line px-3 ${chosen.has(tile.id) ? "bg-wash" : ""}`}
                style={{ top: row.start, height: rowHeight }}
              >
                <input
                  type="checkbox"
                  className="size-4 accent-verdigris"
                  aria-label={`choose ${tile.name}`}
                  checked={chosen.has(tile.id)}
                  onChange={() => onChoose([tile.id], "toggle")}
                />
                <Glyph kind={tile.kind} width={18} />
                <button
                  type="button"
                  className="min-w-0 flex-1 truncate text-left hover:underline"
                  onClick={() => onOpen(tile.id)}
                >
                  <bdi>{tile.name}</bdi>
                </button>
                <span className="w-24 text-small text-ink-2">{tile.kind}</span>
                <span className="w-20 text-right text-small text-ink-2">{tile.size}</span>
                <span className="w-32 text-small text-ink-2">{tile.age}</span>
                <span className="w-40 truncate text-small text-ink-2">
                  {tile.outOfSight ? "out of sight" : (tile.verdict ?? "")}
                </span>
              </li>
            );
          })}
        </ul>
      </div>
    </div>
  );
}
