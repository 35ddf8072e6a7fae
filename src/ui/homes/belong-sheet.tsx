"use client";
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { BelongView } from "@/contract/views";
import { Name } from "../kit/name";
import { Draggable } from "./drag";
import { Thumb } from "./thumb";

const cellGap = 12;
const cellHeight = 104;

interface SheetProps {
  rows: BelongView[];
  cut: number;
  left: ReadonlySet<string>;
  at: number;
  onAt: (n: number) => void;
  onToggle: (id: string) => void;
  onCut: (cut: number) => void;
}

/** What belongs, surest first, with the cut as a line that is dragged. */
export function BelongSheet({ rows, cut, left, at, onAt, onToggle, onCut }: SheetProps) {
  const box = useRef<HTMLUListElement>(null);
  const [columns, setColumns] = useState(9);
  const [width, setWidth] = useState(125);
  useEffect(() => {
    if (!box.current) return;
    const observer = new ResizeObserver(([entry]) => {
      const whole = entry!.contentRect.width;
      const fits = Math.max(4, Math.round(whole / 138));
      setColumns(fits);
      setWidth((whole - (fits - 1) * cellGap) / fits);
    });
    observer.observe(box.current);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    box.current?.querySelector(`[data-n="${at}"]`)?.scrollIntoView({ block: "nearest" });
  }, [at]);
  // After the last one taken; at the end of its row rather than before the next.
  const place = cut === 0 ? { row: 0, column: 0 } : { row: Math.floor((cut - 1) / columns), column: ((cut - 1) % columns) + 1 };
  const drag = (event: PointerEvent<HTMLElement>) => {
    if (event.buttons !== 1 || !box.current) return;
    const rect = box.current.getBoundingClientRect();
    const row = Math.max(0, Math.floor((event.clientY - rect.top) / (cellHeight + cellGap)));
    const column = Math.min(columns, Math.max(0, Math.round((event.clientX - rect.left) / (width + cellGap))));
    onCut(Math.min(rows.length, row * columns + column));
  };
  return (
    <div className="min-h-0 flex-1 overflow-auto pt-4">
      <div className="relative">
        <ul ref={box} className="grid gap-3" style={{ gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))` }}>
          {rows.map((row, n) => (
            <Cell
              key={row.tile.id}
              row={row}
              n={n}
              taken={n < cut}
              leftOut={left.has(row.tile.id)}
              at={n === at}
              onAt={() => onAt(n)}
              onToggle={() => onToggle(row.tile.id)}
            />
          ))}
        </ul>
        {rows.length > 0 && (
          <div
            role="slider"
            aria-label="the cut"
            aria-valuemin={0}
            aria-valuemax={rows.length}
            aria-valuenow={cut}
            aria-valuetext={`the first ${cut} are taken`}
            tabIndex={0}
            className="absolute z-10 w-4 -translate-x-1/2 cursor-col-resize touch-none"
            style={{
              left: place.column * (width + cellGap) - cellGap / 2,
              top: place.row * (cellHeight + cellGap) - 3,
              height: cellHeight,
            }}
            onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
            onPointerMove={drag}
          >
            <span aria-hidden="true" className="absolute inset-y-0 left-1/2 w-[3px] -translate-x-1/2 bg-verdigris" />
            <span
              aria-hidden="true"
              className={`absolute -top-[15px] bg-ground px-1 text-[11.5px] font-[650] whitespace-nowrap text-verdigris ${place.column === 0 ? "left-2" : "left-1/2 -translate-x-1/2"}`}
            >
              the cut
            </span>
          </div>
        )}
      </div>
    </div>
  );
}

function Cell({
  row,
  n,
  taken,
  leftOut,
  at,
  onAt,
  onToggle,
}: {
  row: BelongView;
  n: number;
  taken: boolean;
  leftOut: boolean;
  at: boolean;
  onAt: () => void;
  onToggle: () => void;
}) {
  const { tile } = row;
  return (
    <li data-n={n} style={{ height: cellHeight }}>
      <Draggable tile={tile}>
        <button
          type="button"
          aria-pressed={taken && !leftOut}
          title={`${tile.name}\n${Math.round(row.score * 100)} of 100 sure: ${row.why}`}
          onClick={onToggle}
          onFocus={onAt}
          className="block w-full text-left"
        >
          <span className={taken && !leftOut ? "" : "opacity-45"}>
            <Thumb tile={tile} dashed={leftOut} at={at} />
          </span>
          <span className={`mt-1 block text-[11.5px] leading-tight ${taken && !leftOut ? "" : "text-ink-2"}`}>
            {leftOut ? "left out" : <Name>{tile.name}</Name>}
          </span>
          <span className="line-clamp-2 text-[11px] leading-tight text-ink-2">{row.why}</span>
        </button>
      </Draggable>
    </li>
  );
}
