"use client";
import { memo, type PointerEvent, useRef, useState } from "react";
import type { Tile } from "@/contract/views";
import { tideAt } from "@/core/survey/tide";
import { useWords } from "../kit/words";

/**
 * The tide line: one tick a thing, from long ago to now; longer for what is larger. A span drawn over it chooses what
 * lies in it; a mark chooses what is older.
 */
export const Tide = memo(function Tide({
  tiles,
  marks,
  chosen,
  onChoose,
}: {
  tiles: Tile[];
  marks: { at: number; label: string }[];
  chosen: ReadonlySet<string>;
  onChoose: (ids: string[]) => void;
}) {
  const words = useWords();
  const line = useRef<SVGSVGElement>(null);
  const [span, setSpan] = useState<{ from: number; to: number }>();
  const oldest = tiles.reduce<Tile | undefined>(
    (first, tile) => (first === undefined || tile.mtimeMs < first.mtimeMs ? tile : first),
    undefined,
  );
  const at = (event: PointerEvent) => {
    const box = line.current!.getBoundingClientRect();
    return Math.min(1, Math.max(0, (event.clientX - box.left) / box.width));
  };
  const within = (from: number, to: number) =>
    tiles
      .filter((tile) => {
        const stands = tideAt(tile.mtimeMs, words.now);
        return stands >= Math.min(from, to) && stands <= Math.max(from, to);
      })
      .map((tile) => tile.id);
  const down = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    setSpan({ from: at(event), to: at(event) });
  };
  const move = (event: PointerEvent) => {
    if (!span) return;
    const next = { from: span.from, to: at(event) };
    setSpan(next);
    onChoose(within(next.from, next.to));
  };
  return (
    <figure className="relative mb-3 h-[52px] shrink-0">
      <figcaption className="sr-only">
        When the {tiles.length} things were last changed.{" "}
        {oldest && `The longest untouched is ${oldest.name}, ${words.ago(oldest.mtimeMs)}.`}
      </figcaption>
      <svg
        ref={line}
        aria-hidden="true"
        className="absolute inset-x-0 top-0 h-[36px] w-full cursor-crosshair touch-none"
        preserveAspectRatio="none"
        viewBox="0 0 1000 36"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={() => setSpan(undefined)}
        onPointerCancel={() => setSpan(undefined)}
      >
        {span && (
          <rect
            x={Math.min(span.from, span.to) * 1000}
            width={Math.abs(span.to - span.from) * 1000}
            y="0"
            height="36"
            fill="var(--wash)"
            stroke="none"
          />
        )}
        <line x1="0" x2="1000" y1="35.5" y2="35.5" stroke="var(--ink)" vectorEffect="non-scaling-stroke" />
        <path
          d={ticks(
            tiles.filter((tile) => !chosen.has(tile.id)),
            words.now,
          )}
          stroke="var(--ink)"
          strokeWidth={1.3}
          opacity={chosen.size > 0 ? 0.35 : 0.75}
          vectorEffect="non-scaling-stroke"
        />
        <path
          d={ticks(
            tiles.filter((tile) => chosen.has(tile.id)),
            words.now,
          )}
          stroke="var(--verdigris)"
          strokeWidth={2.5}
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      {marks.map((mark) => (
        <button
          key={mark.label}
          type="button"
          aria-label={`choose what is older than ${mark.label}`}
          className="absolute top-[36px] -translate-x-1/2 text-[11px] whitespace-nowrap text-ink-2 hover:text-ink hover:underline"
          style={{ left: `${Math.min(96, Math.max(4, mark.at * 100))}%` }}
          onClick={() => onChoose(within(0, mark.at))}
        >
          {mark.label}
        </button>
      ))}
    </figure>
  );
});

/** Ticks as one path, as a line each is slow to draw once there are thousands. */
const ticks = (tiles: Tile[], now: number) =>
  tiles.map((tile) => `M${(tideAt(tile.mtimeMs, now) * 999).toFixed(1)} ${(35 - length(tile)).toFixed(1)}V35`).join("");
const length = (tile: Tile) => 5 + Math.min(26, Math.log10(1 + tile.bytes) * 3.4);
