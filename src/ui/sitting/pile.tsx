import { type PointerEvent, useState } from "react";
import type { PileItem } from "@/contract/views";
import { type Order, orders } from "@/core/sitting/order";
import { KeyOf } from "../kit/key";

const shown = 48;
const width = 236;
const step = 1.7;
const height = 86;

/** Always the same little number between 0 and 1 for a thing, so that its edge does not jump. */
function steady(id: string): number {
  let h = 0;
  for (let n = 0; n < id.length; n++) h = (Math.imul(h, 31) + id.charCodeAt(n)) | 0;
  return ((h >>> 0) % 1000) / 1000;
}

export type Place = "both" | "desktop" | "downloads";
const places: [Place, string][] = [
  ["both", "both worktops"],
  ["desktop", "the desktop"],
  ["downloads", "downloads"],
];

/** What lies ahead, drawn as edges, one a thing; those that belong with the first stand out. Each can be pointed at and taken up. */
export function Pile({
  pile,
  families,
  order,
  onOrder,
  place,
  onPlace,
  onJump,
  onFind,
}: {
  pile: PileItem[];
  families: string[];
  order: Order;
  onOrder: (order: Order) => void;
  place: Place;
  onPlace: (place: Place) => void;
  onJump: (id: string) => void;
  onFind: () => void;
}) {
  const [pointed, setPointed] = useState<string>();
  const drawn = pile.slice(0, shown);
  const first = pile[0];
  const byFamily = order === "families first" && first?.family !== undefined;
  const isAlike = (item: PileItem) => (byFamily ? item.family === first?.family : item.kind === first?.kind);
  const run = pile.findIndex((item) => !isAlike(item));
  const alike = run === -1 ? pile.length : run;
  const yOf = (n: number) => height - 2 - (drawn.length - 1 - n) * step;
  const at = (event: PointerEvent<SVGSVGElement>): PileItem | undefined => {
    const box = event.currentTarget.getBoundingClientRect();
    const y = ((event.clientY - box.top) / box.height) * height;
    const n = Math.round(drawn.length - 1 - (height - 2 - y) / step);
    return drawn[Math.max(0, Math.min(drawn.length - 1, n))];
  };
  const named = drawn.find(({ id }) => id === pointed);
  return (
    <div className="mt-auto">
      <svg
        aria-hidden="true"
        viewBox={`0 0 ${width} ${height}`}
        preserveAspectRatio="none"
        className="block h-[86px] w-full cursor-pointer"
        onPointerMove={(event) => setPointed(at(event)?.id)}
        onPointerLeave={() => setPointed(undefined)}
        onClick={(event) => {
          const found = at(event as unknown as PointerEvent<SVGSVGElement>);
          if (found) onJump(found.id);
        }}
      >
        {drawn.map((item, n) => {
          const x = steady(item.id) * 18;
          const isPointed = item.id === pointed;
          return (
            <line
              key={item.id}
              x1={x}
              x2={x + 200 - steady(`${item.id}.`) * 26}
              y1={yOf(n)}
              y2={yOf(n)}
              stroke={isPointed ? "var(--verdigris)" : "var(--ink)"}
              strokeWidth={isPointed ? 2.6 : n < alike ? 1.3 : 0.8}
              opacity={isPointed || n < alike ? 1 : 0.55}
            />
          );
        })}
      </svg>
      <p className="mt-1.5 min-h-10 text-small text-ink-2">
        {named ? (
          <>
            take up <b className="font-[650] break-words text-ink">{named.name}</b>
          </>
        ) : (
          <>
            <b className="font-[650] text-ink">{pile.length === 1 ? "This is the last one." : `${pile.length} lie ahead.`}</b>{" "}
            {alike > 1 &&
              (byFamily
                ? `The next ${alike} belong together: ${families[first.family! - 1]}.`
                : `The next ${alike} are of the kind ${first?.kind}.`)}
          </>
        )}
      </p>
      <p className="mt-1 flex flex-wrap gap-x-3 gap-y-1 text-[12px]">
        <select
          aria-label="the order of the pile"
          className="border-b border-ink-2 bg-ground py-0.5"
          value={order}
          onChange={(event) => onOrder(event.target.value as Order)}
        >
          {orders.map((one) => (
            <option key={one}>{one}</option>
          ))}
        </select>
        <select
          aria-label="which worktops"
          className="border-b border-ink-2 bg-ground py-0.5"
          value={place}
          onChange={(event) => onPlace(event.target.value as Place)}
        >
          {places.map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
        </select>
        <button type="button" className="doing" onClick={onFind}>
          find <KeyOf command="find in the pile" />
        </button>
      </p>
    </div>
  );
}
