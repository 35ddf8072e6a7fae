"use client";
import { memo, type PointerEvent, useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { SheetView, Tile } from "@/contract/views";
import { iconsOf } from "./shown";
import { usePainter } from "./use-painter";

interface Spot {
  item: string;
  x: number;
  y: number;
}

interface Pressed {
  x: number;
  y: number;
  /** The icon under the pointer; without one a frame is drawn. */
  icon?: string;
  add: boolean;
  moved: boolean;
}

/** So many pixels have to be gone before it is a drag and no press. */
const slack = 4;
/** By key, so many pixels of the screen at once; with Shift so many icons. */
const nudge = 8;

/**
 * A desktop that can be worked on: icons are chosen, dragged, opened with a double press or Enter. A list for the keyboard and
 * the screen reader, too: arrows go to the nearest icon, Space chooses, Alt and the arrows move what is chosen.
 */
export const Desktop = memo(function Desktop({
  sheet,
  tiles: given,
  width,
  height,
  chosen,
  onChoose,
  onOpen,
  onPlace,
  snap,
  label,
}: {
  sheet: SheetView;
  /** The icons in sight, the lowest first. */
  tiles: Tile[];
  width: number;
  /** Pixels of the screen. */
  height: number;
  chosen: ReadonlySet<string>;
  onChoose: (ids: string[]) => void;
  onOpen: (id: string) => void;
  /** Icons were moved. Settles once the tiles that are given say where they lie now. */
  onPlace: (spots: Spot[]) => Promise<void>;
  /** Where an icon comes to lie that is let go of at a place; for one that is moved by key a step away. */
  snap?: (at: { x: number; y: number }) => { x: number; y: number };
  label: string;
}) {
  const id = useId();
  const box = useRef<HTMLDivElement>(null);
  const ground = useRef<HTMLCanvasElement>(null);
  const carried = useRef<HTMLCanvasElement>(null);
  const frame = useRef<HTMLDivElement>(null);
  const pressed = useRef<Pressed>(undefined);
  const [painter, came] = usePainter(box);
  const [current, setCurrent] = useState<string>();
  /** Those that are being dragged: drawn by themselves, so that what lies below need not be painted again. */
  const [dragged, setDragged] = useState<ReadonlySet<string>>();
  /** Where icons were put, until the view says so itself. */
  const [put, setPut] = useState<ReadonlyMap<string, Spot>>(new Map());
  const scale = width / sheet.width;
  const drawn = Math.round(height * scale);
  const tiles = useMemo(
    () => (put.size === 0 ? given : given.map((tile) => ({ ...tile, ...(put.get(tile.id) ?? {}) }))),
    [given, put],
  );
  const scene = useMemo(() => ({ sheet, scale, width, height: drawn }), [sheet, scale, width, drawn]);

  useLayoutEffect(() => {
    const draw = ground.current && painter.current?.begin(ground.current, scene);
    if (!draw) return;
    const below = dragged ? tiles.filter(({ id: one }) => !dragged.has(one)) : tiles;
    painter.current!.paint(draw, below, scene, came);
    ground.current!.ariaBusy = String(!painter.current!.whole);
  }, [tiles, scene, dragged, painter, came]);

  // What is chosen is outlined, and what is dragged drawn, on a canvas above, which moves with the pointer as a whole.
  // biome-ignore lint/correctness/useExhaustiveDependencies: painted anew when something came.
  useLayoutEffect(() => {
    const draw = carried.current && painter.current?.begin(carried.current, scene);
    if (!draw) return;
    if (!dragged) carried.current!.style.transform = "";
    const above = dragged ?? chosen;
    const some = tiles.filter(({ id: one }) => above.has(one));
    if (dragged) painter.current!.icons(draw, some, scene);
    draw.lineWidth = 2;
    draw.strokeStyle = "#ffffff";
    const { icon } = sheet;
    for (const { x, y, id: one } of some)
      if (chosen.has(one)) draw.strokeRect(x * scale - 2, y * scale - 2, icon.width * scale + 4, icon.height * scale + 2);
  }, [tiles, scene, dragged, chosen, painter, came]);

  const pointAt = (event: { clientX: number; clientY: number }) => {
    const rect = box.current!.getBoundingClientRect();
    return { x: event.clientX - rect.left, y: event.clientY - rect.top };
  };
  const iconAt = ({ x, y }: { x: number; y: number }) => {
    const [sx, sy] = [x / scale, y / scale];
    const { icon, label: below } = sheet;
    return tiles.findLast(
      (tile) => sx >= tile.x && sx < tile.x + icon.width && sy >= tile.y && sy < tile.y + icon.height + below.height / 2,
    )?.id;
  };
  const within = (tile: Tile, dx: number, dy: number): Spot => ({
    item: tile.id,
    x: Math.round(Math.min(sheet.width - sheet.icon.width, Math.max(0, tile.x + dx))),
    y: Math.round(Math.min(height - sheet.icon.height, Math.max(0, tile.y + dy))),
  });
  const place = (ids: ReadonlySet<string>, dx: number, dy: number) => {
    const moved = tiles.filter((tile) => ids.has(tile.id)).map((tile) => within(tile, dx, dy));
    const spots = snap ? moved.map(({ item, x, y }) => ({ item, ...snap({ x, y }) })) : moved;
    setPut(new Map([...put, ...spots.map((spot) => [spot.item, spot] as const)]));
    // One that was moved again meanwhile waits for that.
    void onPlace(spots).then(() => setPut((now) => new Map([...now].filter(([, spot]) => !spots.includes(spot)))));
  };

  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const at = pointAt(event);
    const icon = iconAt(at);
    const add = event.shiftKey || event.ctrlKey || event.metaKey;
    pressed.current = { ...at, icon, add, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
    if (!icon) return;
    setCurrent(icon);
    if (add) onChoose(chosen.has(icon) ? [...chosen].filter((one) => one !== icon) : [...chosen, icon]);
    else if (!chosen.has(icon)) onChoose([icon]);
  };
  const move = (event: PointerEvent) => {
    const start = pressed.current;
    if (!start) return;
    const at = pointAt(event);
    const [dx, dy] = [at.x - start.x, at.y - start.y];
    if (!start.moved) {
      if (Math.abs(dx) + Math.abs(dy) < slack) return;
      start.moved = true;
      if (start.icon) setDragged(new Set(chosen.has(start.icon) ? chosen : [start.icon]));
    }
    if (start.icon) carried.current!.style.transform = `translate(${dx}px, ${dy}px)`;
    else {
      Object.assign(frame.current!.style, {
        display: "block",
        left: `${Math.min(start.x, at.x)}px`,
        top: `${Math.min(start.y, at.y)}px`,
        width: `${Math.abs(dx)}px`,
        height: `${Math.abs(dy)}px`,
      });
    }
  };
  const up = (event: PointerEvent) => {
    const start = pressed.current;
    pressed.current = undefined;
    if (!start) return;
    const at = pointAt(event);
    if (start.icon) {
      if (start.moved && dragged) place(dragged, (at.x - start.x) / scale, (at.y - start.y) / scale);
      else if (!start.add) onChoose([start.icon]);
      setDragged(undefined);
      return;
    }
    frame.current!.style.display = "none";
    const [left, right] = [Math.min(start.x, at.x) / scale, Math.max(start.x, at.x) / scale];
    const [top, bottom] = [Math.min(start.y, at.y) / scale, Math.max(start.y, at.y) / scale];
    const { icon } = sheet;
    const inside = start.moved
      ? tiles.filter(({ x, y }) => x < right && x + icon.width > left && y < bottom && y + icon.height > top)
      : [];
    onChoose([...(start.add ? chosen : []), ...inside.map((tile) => tile.id)]);
  };
  const leave = () => {
    pressed.current = undefined;
    setDragged(undefined);
    if (frame.current) frame.current.style.display = "none";
  };
  // Escape takes a drag back.
  useEffect(() => {
    if (!dragged) return;
    const cancel = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopPropagation();
      event.preventDefault();
      pressed.current = undefined;
      setDragged(undefined);
    };
    window.addEventListener("keydown", cancel, true);
    return () => window.removeEventListener("keydown", cancel, true);
  }, [dragged]);

  const go = (dx: number, dy: number) => {
    const from = tiles.find((tile) => tile.id === current);
    const costOf = (tile: Tile) => {
      if (!from) return tile.x + tile.y;
      const [x, y] = [tile.x - from.x, tile.y - from.y];
      const along = x * dx + y * dy;
      return along > 0 ? along + Math.abs(x * dy + y * dx) * 2.5 : Number.POSITIVE_INFINITY;
    };
    let best: Tile | undefined;
    for (const tile of tiles) if (tile !== from && costOf(tile) < (best ? costOf(best) : Number.POSITIVE_INFINITY)) best = tile;
    if (!best) return;
    setCurrent(best.id);
    onChoose([best.id]);
  };
  const arrows: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  };
  const press = (event: React.KeyboardEvent) => {
    const arrow = arrows[event.key];
    if (arrow && event.altKey) {
      const by = event.shiftKey ? sheet.icon.width : nudge;
      // Onto a grid one key is one cell.
      const [right, down] = snap ? [sheet.label.width, sheet.icon.height + sheet.label.height] : [by, by];
      if (chosen.size > 0) place(chosen, arrow[0] * right, arrow[1] * down);
    } else if (arrow) go(...arrow);
    else if (event.key === " " && current)
      onChoose(chosen.has(current) ? [...chosen].filter((one) => one !== current) : [...chosen, current]);
    else if (event.key === "Enter" && current) onOpen(current);
    else if (event.key === "Escape" && chosen.size > 0) onChoose([]);
    else if (event.key === "a" && (event.ctrlKey || event.metaKey)) onChoose(tiles.map((tile) => tile.id));
    else return;
    event.preventDefault();
    event.stopPropagation();
  };

  // One option stands for the icon that is spoken of: thousands would be read and laid out for nothing.
  const at = Math.max(
    0,
    tiles.findIndex((tile) => tile.id === current),
  );
  const spoken = tiles[at];
  return (
    <div ref={box} className="relative overflow-hidden border border-ink" style={{ width, height: drawn }}>
      <canvas ref={ground} className="absolute inset-0 size-full" />
      <canvas ref={carried} className="absolute inset-0 size-full" />
      <div ref={frame} className="absolute hidden border border-white bg-white/20" />
      <div
        role="listbox"
        aria-multiselectable="true"
        aria-label={`${label}: ${iconsOf(tiles).length} icons in sight`}
        aria-activedescendant={spoken && current ? `${id}-icon` : undefined}
        tabIndex={0}
        className="absolute inset-0 touch-none select-none"
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={leave}
        onDoubleClick={(event) => {
          const icon = iconAt(pointAt(event));
          if (icon) onOpen(icon);
        }}
        onKeyDown={press}
      >
        <div
          id={`${id}-icon`}
          role="option"
          aria-selected={spoken !== undefined && chosen.has(spoken.id)}
          aria-posinset={spoken ? at + 1 : undefined}
          aria-setsize={spoken ? tiles.length : undefined}
          className="sr-only"
        >
          {spoken ? [spoken.name, spoken.kind].filter(Boolean).join(", ") : "Nothing is in sight"}
        </div>
      </div>
    </div>
  );
});
