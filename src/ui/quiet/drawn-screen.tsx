"use client";
import { useEffect, useRef } from "react";
import type { SheetView, Tile } from "@/contract/views";
import { iconsOf } from "./shown";
import { usePainter } from "./use-painter";

/** A screen drawn to scale: wallpaper, and icons with their labels. */
export function DrawnScreen({
  sheet,
  tiles,
  width,
  height,
  label,
  over,
}: {
  sheet: SheetView;
  /** The icons that are drawn. */
  tiles: Tile[];
  /** Pixels of the page. */
  width: number;
  /** Pixels of the screen. */
  height: number;
  label: string;
  /** Draws over the icons, in pixels of the screen times `scale`. Stays the same as long as it draws the same. */
  over?: (draw: CanvasRenderingContext2D, scale: number) => void;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [painter, came] = usePainter(canvas);
  const scale = width / sheet.width;
  const drawn = Math.round(height * scale);
  useEffect(() => {
    const scene = { sheet, scale, width, height: drawn };
    const draw = canvas.current && painter.current?.begin(canvas.current, scene);
    if (!draw) return;
    painter.current!.paint(draw, tiles, scene, came);
    // Its pictures come one by one.
    canvas.current!.ariaBusy = String(!painter.current!.whole);
    over?.(draw, scale);
  }, [sheet, tiles, scale, width, drawn, painter, came, over]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label={`${label}: ${iconsOf(tiles).length} icons in sight`}
      className="block border border-ink"
      style={{ width, height: drawn }}
    />
  );
}
