import type { PileItem } from "@/contract/views";

const shown = 48;
const width = 236;
const step = 1.7;

/** Always the same little number between 0 and 1 for a thing, so that its edge does not jump. */
function steady(id: string): number {
  let h = 0;
  for (let n = 0; n < id.length; n++) h = (Math.imul(h, 31) + id.charCodeAt(n)) | 0;
  return ((h >>> 0) % 1000) / 1000;
}

/** What lies ahead, drawn as edges, one a thing; those of the first kind stand out. */
export function Pile({ pile }: { pile: PileItem[] }) {
  const drawn = pile.slice(0, shown);
  const kind = pile[0]?.kind;
  const run = pile.findIndex((item) => item.kind !== kind);
  const alike = run === -1 ? pile.length : run;
  return (
    <div className="mt-auto">
      <svg aria-hidden="true" viewBox={`0 0 ${width} 86`} preserveAspectRatio="none" className="block h-[86px] w-full">
        {drawn.map((item, n) => {
          const y = 84 - (drawn.length - 1 - n) * step;
          const x = steady(item.id) * 18;
          return (
            <line
              key={item.id}
              x1={x}
              x2={x + 200 - steady(`${item.id}.`) * 26}
              y1={y}
              y2={y}
              stroke="var(--ink)"
              strokeWidth={n < alike ? 1.3 : 0.8}
              opacity={n < alike ? 1 : 0.55}
            />
          );
        })}
      </svg>
      <p className="mt-1.5 text-small text-ink-2">
        <b className="font-[650] text-ink">{pile.length === 1 ? "This is the last one." : `${pile.length} lie ahead.`}</b>{" "}
        {alike > 1 && `The next ${alike} are of the kind ${kind}.`}
      </p>
    </div>
  );
}
