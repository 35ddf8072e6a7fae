import type { SheetView, Tile } from "@/contract/views";
import { Glyph } from "../plan/glyph";

/** A screen drawn to scale: wallpaper, and icons with their labels. */
export function DrawnScreen({
  sheet,
  tiles,
  width,
  height,
  label,
}: {
  sheet: SheetView;
  /** The icons that are drawn. */
  tiles: Tile[];
  /** Pixels of the page. */
  width: number;
  /** Pixels of the screen. */
  height: number;
  label: string;
}) {
  const scale = width / sheet.width;
  const { icon } = sheet;
  return (
    <div
      role="img"
      aria-label={`${label}: ${tiles.length} icons in sight`}
      className="relative overflow-hidden border border-ink"
      style={{
        width,
        height: Math.round(height * scale),
        background: "linear-gradient(200deg, #23404a, #5b7d7c 55%, #d9c9a3)",
      }}
    >
      {tiles.map((tile) => (
        <div
          key={tile.id}
          className="absolute text-center"
          style={{ left: tile.x * scale, top: tile.y * scale, width: icon.width * scale }}
        >
          <span
            className="mx-auto grid place-content-center overflow-hidden border border-[#15211d] bg-[#f8f9f6]"
            style={{ width: icon.width * scale * 0.82, height: icon.height * scale * 0.86 }}
          >
            {tile.picture && !tile.outOfSight ? (
              <img
                src={`/api/looks/picture?item=${tile.id}&size=tile`}
                alt=""
                loading="lazy"
                className="size-full object-cover"
              />
            ) : (
              <Glyph kind={tile.kind} width={icon.width * scale * 0.7} tone="#15211d" />
            )}
          </span>
          <span
            className="absolute left-1/2 block -translate-x-1/2 truncate text-[#ffffff]"
            style={{
              top: icon.height * scale * 0.9,
              width: icon.width * scale * 1.5,
              fontSize: Math.max(6, 13 * scale),
              lineHeight: 1.2,
              textShadow: "0 0 3px #000, 0 1px 2px #000",
            }}
          >
            <bdi>{tile.name}</bdi>
          </span>
        </div>
      ))}
    </div>
  );
}
