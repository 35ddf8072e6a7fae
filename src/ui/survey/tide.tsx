import type { Tile } from "@/contract/views";

/** The tide line: one tick a thing, from long ago to now; longer for what is larger. */
export function Tide({
  tiles,
  marks,
  chosen,
}: {
  tiles: Tile[];
  marks: { at: number; label: string }[];
  chosen: ReadonlySet<string>;
}) {
  const oldest = tiles.reduce<Tile | undefined>(
    (first, tile) => (first === undefined || tile.mtimeMs < first.mtimeMs ? tile : first),
    undefined,
  );
  const length = (tile: Tile) => 5 + Math.min(26, Math.log10(1 + tile.bytes) * 3.4);
  return (
    <figure className="relative mb-3 h-[52px] shrink-0">
      <figcaption className="sr-only">
        When the {tiles.length} things were last changed. {oldest && `The longest untouched is ${oldest.name}, ${oldest.age}.`}
      </figcaption>
      <svg
        aria-hidden="true"
        className="absolute inset-x-0 top-0 h-[36px] w-full"
        preserveAspectRatio="none"
        viewBox="0 0 1000 36"
      >
        <line x1="0" x2="1000" y1="35.5" y2="35.5" stroke="var(--ink)" vectorEffect="non-scaling-stroke" />
        {tiles.map((tile) => (
          <line
            key={tile.id}
            x1={tile.tide * 999}
            x2={tile.tide * 999}
            y1={35 - length(tile)}
            y2={35}
            stroke={chosen.has(tile.id) ? "var(--verdigris)" : "var(--ink)"}
            strokeWidth={chosen.has(tile.id) ? 2.5 : 1.3}
            opacity={chosen.size > 0 && !chosen.has(tile.id) ? 0.35 : 0.75}
            vectorEffect="non-scaling-stroke"
          />
        ))}
      </svg>
      {marks.map((mark) => (
        <span
          key={mark.label}
          aria-hidden="true"
          className="absolute top-[37px] -translate-x-1/2 text-[11px] whitespace-nowrap text-ink-2"
          style={{ left: `${Math.min(96, Math.max(4, mark.at * 100))}%` }}
        >
          {mark.label}
        </span>
      ))}
    </figure>
  );
}
