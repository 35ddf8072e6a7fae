"use client";
import { memo, type PointerEvent, type ReactNode, type RefObject, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { SheetView, Tile } from "@/contract/views";
import { useGrown } from "../kit/grown";
import { tileSize, useWords } from "../kit/words";
import { Glyph } from "./glyph";
import { type Shading, shadeOf } from "./shade";

/** How wide a tile is drawn, at least so that its sign can be read, and at most as its small picture is sharp; and how high it is to that. */
const narrowest = 26;
const widest = 46;
const tall = 30 / 26;

interface PlanProps {
  sheet: SheetView;
  width: number;
  shading: Shading;
  chosen: ReadonlySet<string>;
  /** Items that something under the pointer speaks of; the others step back. */
  lit?: ReadonlySet<string>;
  onChoose: (ids: string[], how: "only" | "toggle" | "add") => void;
  onOpen?: (id: string) => void;
  label: string;
  /** What is drawn on it, from where to where it can be seen. */
  children?: (from: number, to: number) => ReactNode;
}

/** The scale of a sheet drawn `width` pixels wide: screen pixels for one drawn. */
export const scaleOf = (sheet: SheetView, width: number) => sheet.width / width;

/** How large the tiles of a sheet are drawn, in pixels: as the scale and legibility allow. */
export function tileBox(sheet: SheetView, width: number): { width: number; height: number } {
  const own = Math.round(Math.max(narrowest, Math.min(widest, (sheet.icon.width * 0.75) / scaleOf(sheet, width))));
  return { width: own, height: Math.round(own * tall) };
}

/** Where a tile is drawn: centred where the icon is. */
export function tilePlace(tile: Tile, sheet: SheetView, width: number): { left: number; top: number } {
  const scale = scaleOf(sheet, width);
  const box = tileBox(sheet, width);
  return {
    left: Math.min(width - box.width, Math.max(0, (tile.x + sheet.icon.width / 2) / scale - box.width / 2)),
    top: Math.max(0, (tile.y + sheet.icon.height / 2) / scale - box.height / 2),
  };
}

/** Of more things only those are drawn that can be seen, and a screen around them. */
const drawnAtOnce = 3000;
/** What is seen is looked at again after so many pixels. */
const stride = 200;

/** What scrolls an element: the first around it that does. */
function scrollerOf(element: HTMLElement | null): HTMLElement | undefined {
  for (let at = element?.parentElement; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  return undefined;
}

/** From where to where an element can be seen, with as much again above and below, in its own pixels. */
function useSeen(box: RefObject<HTMLElement | null>, wanted: boolean): [from: number, to: number] {
  const [seen, setSeen] = useState<[number, number]>(() => (wanted ? [0, 2000] : [0, Number.POSITIVE_INFINITY]));
  useLayoutEffect(() => {
    const scroller = wanted ? scrollerOf(box.current) : undefined;
    if (!scroller) return setSeen([0, Number.POSITIVE_INFINITY]);
    const look = () => {
      const above = scroller.getBoundingClientRect().top - (box.current?.getBoundingClientRect().top ?? 0);
      const height = scroller.clientHeight;
      const from = Math.floor((above - height) / stride) * stride;
      const to = Math.ceil((above + 2 * height) / stride) * stride;
      setSeen((before) => (before[0] === from && before[1] === to ? before : [from, to]));
    };
    look();
    scroller.addEventListener("scroll", look, { passive: true });
    return () => scroller.removeEventListener("scroll", look);
  }, [box, wanted]);
  return seen;
}

/** Scrolls no further than needed. */
function bringInView(box: HTMLElement | null, { top, height }: { top: number; height: number }): void {
  const scroller = scrollerOf(box);
  if (!box || !scroller) return;
  const at = box.getBoundingClientRect().top - scroller.getBoundingClientRect().top + top;
  const room = 24;
  if (at < room) scroller.scrollBy({ top: at - room });
  else if (at + height + room > scroller.clientHeight) scroller.scrollBy({ top: at + height + room - scroller.clientHeight });
}

const pictureOf = (tile: Tile) => `/api/looks/picture?item=${tile.id}&size=tile`;

const Drawn = memo(function Drawn({
  tile: drawn,
  left,
  top,
  width,
  height,
  shading,
  chosen,
  lit,
  at,
}: {
  tile: Tile;
  left: number;
  top: number;
  width: number;
  height: number;
  shading: Shading;
  chosen: boolean;
  /** Stands out over the veil. */
  lit: boolean;
  at: boolean;
}) {
  const words = useWords();
  const tile = useGrown(drawn);
  const shade = shadeOf(tile, shading, words.now);
  const [size, age] = [tileSize(tile, words), words.ago(tile.mtimeMs)];
  return (
    <div
      id={`tile-${tile.id}`}
      data-item={tile.id}
      role="option"
      aria-selected={chosen}
      aria-label={`${tile.name}, ${tile.kind}, ${size}, ${age}${tile.verdict ? `, ${tile.verdict}` : ""}${tile.outOfSight ? ", out of sight" : ""}`}
      title={`${tile.name}\n${tile.kind} · ${size} · ${age}${tile.verdict ? `\n${tile.verdict}` : ""}`}
      className={`absolute overflow-hidden border ${lit ? "z-[8]" : ""} ${chosen ? "z-10 border-verdigris outline-2 outline-verdigris" : tile.outOfSight ? "border-dashed border-ink-2" : "border-ink-2"} ${at ? "ring-2 ring-verdigris ring-offset-1" : ""}`}
      style={{
        left,
        top,
        width,
        height,
        background: tile.outOfSight ? "transparent" : shade.ground,
        opacity: tile.outOfSight ? 0.6 : 1,
      }}
    >
      {tile.picture && !tile.outOfSight && shading === "kind" ? (
        <img
          src={pictureOf(tile)}
          alt=""
          loading="lazy"
          draggable={false}
          className="pointer-events-none size-full object-cover"
        />
      ) : (
        <span className="pointer-events-none absolute -inset-px">
          <Glyph kind={tile.kind} width={width} tone={tile.outOfSight ? "var(--ink-2)" : shade.glyph} />
        </span>
      )}
      {tile.verdict && (
        <span className="pointer-events-none absolute right-0 bottom-0 size-[7px] border border-sheet bg-verdigris" />
      )}
    </div>
  );
});

/** The desktop as a plan to scale. A list for the keyboard and the screen reader too: arrows go to the nearest thing, Space chooses. */
export const Plan = memo(function Plan({ sheet, width, shading, chosen, lit, onChoose, onOpen, label, children }: PlanProps) {
  const [current, setCurrent] = useState<string>();
  const [frame, setFrame] = useState<{ x: number; y: number; width: number; height: number }>();
  const pressed = useRef<{ x: number; y: number; add: boolean }>(undefined);
  const box = useRef<HTMLDivElement>(null);
  const tile = useMemo(() => tileBox(sheet, width), [sheet, width]);
  const places = useMemo(() => new Map(sheet.tiles.map((tile) => [tile.id, tilePlace(tile, sheet, width)])), [sheet, width]);
  const height = useMemo(() => {
    let lowest = sheet.height / scaleOf(sheet, width);
    for (const { top } of places.values()) lowest = Math.max(lowest, top + tile.height + 6);
    return lowest;
  }, [places, sheet, width, tile]);

  const [from, to] = useSeen(box, sheet.tiles.length > drawnAtOnce);
  const seen = useMemo(
    () =>
      sheet.tiles.length <= drawnAtOnce
        ? sheet.tiles
        : sheet.tiles.filter(({ id }) => {
            const { top } = places.get(id)!;
            return id === current || (top + tile.height >= from && top <= to);
          }),
    [sheet, places, from, to, current, tile],
  );

  const pointAt = (event: PointerEvent) => {
    const rect = box.current!.getBoundingClientRect();
    return { x: event.clientX - rect.left, y: event.clientY - rect.top };
  };
  const itemAt = (event: { target: EventTarget }) =>
    event.target instanceof Element ? event.target.closest<HTMLElement>("[data-item]")?.dataset.item : undefined;

  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const id = itemAt(event);
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    if (id) {
      setCurrent(id);
      onChoose([id], add ? "toggle" : "only");
      return;
    }
    pressed.current = { ...pointAt(event), add };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const moved = (event: PointerEvent) => {
    if (!pressed.current) return;
    const to = pointAt(event);
    const { x, y } = pressed.current;
    setFrame({ x: Math.min(x, to.x), y: Math.min(y, to.y), width: Math.abs(to.x - x), height: Math.abs(to.y - y) });
  };
  const up = () => {
    const start = pressed.current;
    pressed.current = undefined;
    if (!start) return;
    setFrame(undefined);
    if (!frame || frame.width + frame.height < 6) {
      if (!start.add) onChoose([], "only");
      return;
    }
    const inside = [...places].filter(
      ([, p]) =>
        p.left < frame.x + frame.width &&
        p.left + tile.width > frame.x &&
        p.top < frame.y + frame.height &&
        p.top + tile.height > frame.y,
    );
    onChoose(
      inside.map(([id]) => id),
      start.add ? "add" : "only",
    );
  };

  const go = (dx: number, dy: number, add: boolean) => {
    const from = current && places.get(current);
    let best: string | undefined;
    let least = Number.POSITIVE_INFINITY;
    for (const [id, p] of places) {
      if (id === current) continue;
      const [x, y] = from ? [p.left - from.left, p.top - from.top] : [p.left, p.top];
      const along = from ? x * dx + y * dy : 1;
      if (along <= 0) continue;
      const aside = from ? Math.abs(x * dy) + Math.abs(y * dx) : 0;
      const cost = from ? along + aside * 2.5 : x + y;
      if (cost < least) {
        least = cost;
        best = id;
      }
    }
    if (!best) return;
    setCurrent(best);
    bringInView(box.current, { top: places.get(best)!.top, height: tile.height });
    if (add) onChoose([best], "add");
  };

  const press = (event: React.KeyboardEvent) => {
    const arrows: Record<string, [number, number]> = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, -1],
      ArrowDown: [0, 1],
    };
    const arrow = arrows[event.key];
    if (arrow) go(...arrow, event.shiftKey);
    else if (event.key === " " && current) onChoose([current], "toggle");
    else if (event.key === "Enter" && current) onOpen?.(current);
    else if (event.key === "Escape") onChoose([], "only");
    else if (event.key === "a" && (event.ctrlKey || event.metaKey))
      onChoose(
        sheet.tiles.map((t) => t.id),
        "only",
      );
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  return (
    <div
      ref={box}
      role="listbox"
      aria-multiselectable="true"
      aria-label={label}
      aria-activedescendant={current && places.has(current) ? `tile-${current}` : undefined}
      tabIndex={0}
      className="relative touch-none border border-ink bg-plan select-none"
      style={{ width, height }}
      onPointerDown={down}
      onPointerMove={moved}
      onPointerUp={up}
      onDoubleClick={(event) => {
        const id = itemAt(event);
        if (id) onOpen?.(id);
      }}
      onKeyDown={press}
    >
      {seen.map((thing) => {
        const place = places.get(thing.id)!;
        return (
          <Drawn
            key={thing.id}
            tile={thing}
            left={place.left}
            top={place.top}
            width={tile.width}
            height={tile.height}
            shading={shading}
            chosen={chosen.has(thing.id)}
            lit={lit?.has(thing.id) === true}
            at={current === thing.id}
          />
        );
      })}
      {/* One veil over all that steps back: to fade thousands one by one is slow. */}
      <div aria-hidden="true" className={`veil ${lit ? "opacity-100" : "opacity-0"}`} />
      {frame && (
        <div
          className="pointer-events-none absolute border border-verdigris bg-wash/40"
          style={{ left: frame.x, top: frame.y, width: frame.width, height: frame.height }}
        />
      )}
      {children?.(from, to)}
    </div>
  );
});
