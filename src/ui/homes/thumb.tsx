import type { Tile } from "@/contract/views";
import { tileSize, useWords } from "../kit/words";
import { Glyph } from "../plan/glyph";

/** A thing on a sheet of homes: its picture, or its glyph with its kind and size. */
export function Thumb({ tile, dashed, at }: { tile: Tile; dashed: boolean; at: boolean }) {
  const words = useWords();
  return (
    <span
      className={`grid h-16 place-content-center overflow-hidden border bg-sheet ${dashed ? "border-dashed" : ""} ${at ? "border-verdigris outline-2 outline-verdigris" : "border-ink-2"}`}
    >
      {tile.picture ? (
        <img
          src={`/api/looks/picture?item=${tile.id}&size=sheet`}
          alt=""
          draggable={false}
          loading="lazy"
          className="h-16 w-[300px] object-cover"
        />
      ) : (
        <span className="flex items-center gap-2 px-2">
          <Glyph kind={tile.kind} width={28} />
          <span className="text-[11.5px] text-ink-2">
            {tile.kind}
            <br />
            {tileSize(tile, words)}
          </span>
        </span>
      )}
    </span>
  );
}
