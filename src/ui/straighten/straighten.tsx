"use client";
import { useCallback, useEffect, useId, useMemo, useRef, useState } from "react";
import type { Straight, StraightenInput, Straightening } from "@/contract/straighten";
import type { QuietView, Tile } from "@/contract/views";
import { iconBoxes, iconSizes } from "@/core/screen/state";
import { firstGridLook, gridOn, mostMargin, nearestOf } from "@/core/straighten/grid";
import { ask } from "../kit/ask";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { useSize } from "../kit/size";
import { useWords } from "../kit/words";
import { Desktop } from "../quiet/desktop";
import { DrawnScreen } from "../quiet/drawn-screen";
import { awayBy, drawnBy, screenHeight } from "../quiet/shown";
import { lines } from "./lines";

const ways: { by: Straightening | "hand"; title: string; words: string }[] = [
  { by: "near", title: "each near its place", words: "onto the grid with the shortest way, so that your hand still finds them" },
  { by: "beds", title: "like beside like", words: "each kind in a bed of its own" },
  { by: "name", title: "by name", words: "from A to Z, column by column" },
  { by: "kind", title: "by kind", words: "kind after kind, by name in each" },
  { by: "size", title: "by size", words: "the largest first" },
  { by: "date", title: "by date", words: "the latest changed first" },
  { by: "hand", title: "by hand", words: "drag one or many, or move them with Alt and the arrows" },
];

const settleMs = 250;
/** After so long it is said that it takes its time. */
const longMs = 900;

/** Where icons lie, and what of them a way of straightening goes by; the same text while all of that is the same. */
function lyingOn(
  { tiles, width, screenHeight, icon, label }: NonNullable<QuietView["sheet"]>,
  by: Straightening | "hand",
): string {
  const of: Partial<Record<typeof by, keyof Tile>> = { beds: "kind", kind: "kind", size: "bytes", date: "mtimeMs" };
  const known = of[by];
  const icons = tiles.map((tile) => [tile.id, tile.name, tile.x, tile.y, tile.outOfSight, known && tile[known]]);
  return JSON.stringify([width, screenHeight, icon, label, icons]);
}

/** The icons that remain are put onto a grid: what would come of it is drawn before, as lines from where they lie. */
export function StraightenSheet({ view }: { view: QuietView }) {
  const live = useLive();
  const words = useWords();
  const id = useId();
  const [by, setBy] = useState<Straightening | "hand">("near");
  const [icon, setIcon] = useState<number>();
  const [spacing, setSpacing] = useState(firstGridLook.spacing);
  const [margin, setMargin] = useState(firstGridLook.margin);
  const [straight, setStraight] = useState<Straight>();
  const [long, setLong] = useState(false);
  const [busy, setBusy] = useState(false);
  const [box, size] = useSize<HTMLDivElement>({ width: 900, height: 600 });
  const { sheet } = view;
  const { tiles } = useMemo(() => drawnBy(view, awayBy(view)), [view]);
  const height = screenHeight(view);
  const { say } = live;
  const input = useMemo(
    (): StraightenInput | undefined => (by === "hand" ? undefined : { by, icon, spacing, margin }),
    [by, icon, spacing, margin],
  );
  const chosen = useRef(false);
  const now = sheet?.icon.width;
  const take = useCallback(
    (best: { icon: number; spacing: number; margin: number }) => {
      chosen.current = true;
      setIcon(best.icon === now ? undefined : best.icon);
      setSpacing(best.spacing);
      setMargin(best.margin);
    },
    [now],
  );
  const lying = useMemo(() => (view.placesIcons && sheet ? lyingOn(sheet, by) : undefined), [view.placesIcons, sheet, by]);
  // Tried anew when something else is wanted, and when icons lie otherwise: a file that grows meanwhile would let none come to its end.
  useEffect(() => {
    if (!input || lying === undefined) return;
    const nobody = new AbortController();
    let long: ReturnType<typeof setTimeout>;
    const timer = setTimeout(() => {
      long = setTimeout(() => setLong(true), longMs);
      ask("quiet/straighten", { ...input, dryRun: true }, nobody.signal)
        .then(({ straight: found }) => {
          if (nobody.signal.aborted) return;
          setStraight(found);
          // What is drawn first is something that can be had.
          const { best } = found;
          if (!chosen.current && best && best.fits >= found.icons) take(best);
        })
        .catch((problem) => nobody.signal.aborted || say(problem))
        .finally(() => {
          clearTimeout(long);
          if (!nobody.signal.aborted) setLong(false);
        });
    }, settleMs);
    return () => {
      nobody.abort();
      clearTimeout(timer);
      clearTimeout(long);
      setLong(false);
    };
  }, [input, lying, say, take]);
  const trial = input && straight;
  const drawn = useMemo(() => (sheet && icon ? { ...sheet, ...iconBoxes(icon) } : sheet), [sheet, icon]);
  const moved = useMemo(() => new Map(trial?.spots.map((spot) => [spot.item, spot])), [trial]);
  const after = useMemo(() => tiles.map((tile): Tile => ({ ...tile, ...(moved.get(tile.id) ?? {}) })), [tiles, moved]);
  const over = useCallback(
    (draw: CanvasRenderingContext2D, scale: number) => {
      if (!drawn) return;
      lines(draw, scale, tiles, moved, drawn.icon);
      beds(draw, scale, trial?.beds ?? []);
    },
    [drawn, tiles, moved, trial],
  );
  const snap = useMemo(() => {
    if (!sheet) return undefined;
    const { spots } = gridOn(
      { width: sheet.width, height: sheet.screenHeight, icon: sheet.icon, label: sheet.label },
      { spacing, margin },
    );
    return (at: { x: number; y: number }) => nearestOf(spots, at) ?? at;
  }, [sheet, spacing, margin]);
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set());
  const choose = useCallback((ids: string[]) => setSelected(new Set(ids)), []);
  const [onGrid, setOnGrid] = useState(true);
  const { act, upToDate } = live;
  const place = useCallback(
    (spots: { item: string; x: number; y: number }[]) =>
      act(ask("quiet/place", { spots })).then((report) => (report?.done ? upToDate() : undefined)),
    [act, upToDate],
  );
  const go = () => {
    if (!input || busy) return;
    setBusy(true);
    void act(ask("quiet/straighten", input)).finally(() => setBusy(false));
  };
  if (!view.placesIcons || !sheet || !drawn)
    return (
      <div className="mx-auto h-full max-w-[780px] px-7 pt-6">
        <Back />
        <h1 className="mb-4 text-say leading-tight font-medium">Straighten what remains</h1>
        <p className="max-w-[62ch] text-ink-2">
          {sheet
            ? "This screen keeps the places of its icons to itself: they are straightened on the desktop, with the program that draws it."
            : "This account has no desktop folder, so there are no icons to straighten."}
        </p>
      </div>
    );
  const width = Math.max(300, Math.min(size.width, Math.floor(((size.height - 96) * sheet.width) / Math.max(1, height))));
  const fits = trial ? trial.icons <= trial.fits : true;
  return (
    <div className="grid h-full min-h-[560px] grid-cols-[270px_minmax(0,1fr)] gap-7 px-7 pt-5 pb-4 max-[900px]:h-auto max-[900px]:grid-cols-1">
      <section className="flex min-h-0 flex-col overflow-auto pr-1">
        <Back />
        <h1 className="mb-3 text-head leading-tight font-semibold">Straighten what remains</h1>
        <fieldset className="border-b border-line">
          <legend className="sr-only">How</legend>
          {ways.map((way) => (
            <label key={way.by} className="flex items-start gap-3 border-t border-line py-1.5">
              <input
                type="radio"
                name={id}
                className="mt-1.5 accent-verdigris"
                checked={by === way.by}
                onChange={() => {
                  setBy(way.by);
                  setStraight(undefined);
                }}
              />
              <span>
                <b className="font-semibold">{way.title}</b>
                <span className="block text-small leading-snug text-ink-2">{way.words}</span>
              </span>
            </label>
          ))}
        </fieldset>
        {by !== "hand" && (
          <fieldset className="mt-3">
            <legend className="mb-1 text-small font-semibold">Size of the icons, and how many would fit</legend>
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {iconSizes.map((one) => {
                const is = (icon ?? sheet.icon.width) === one;
                return (
                  <button
                    key={one}
                    type="button"
                    aria-pressed={is}
                    className={`min-h-6 text-small ${is ? "border-b-2 border-ink font-semibold" : "doing"}`}
                    onClick={() => setIcon(one === sheet.icon.width ? undefined : one)}
                  >
                    {one}: {words.count(trial?.room.find((room) => room.icon === one)?.fits ?? 0)}
                  </button>
                );
              })}
            </div>
          </fieldset>
        )}
        <Amount label="Between two icons" value={spacing} most={60} onChange={setSpacing} />
        <Amount label="Kept free along the edges" value={margin} most={Math.min(mostMargin, 300)} onChange={setMargin} />
        {by === "hand" ? (
          <label className="mt-3 flex items-start gap-2 text-small">
            <input
              type="checkbox"
              className="mt-0.5 accent-verdigris"
              checked={onGrid}
              onChange={(event) => setOnGrid(event.target.checked)}
            />
            <span>An icon that you drop goes to the nearest place on the grid</span>
          </label>
        ) : (
          <button
            type="button"
            className="go mt-4 self-start"
            disabled={busy || !trial || !fits || trial.spots.length === 0}
            onClick={go}
          >
            {trial && fits && trial.spots.length === 0 ? "They already lie like this" : "Straighten them"}
          </button>
        )}
      </section>
      <div ref={box} className="min-h-0 min-w-0 overflow-auto max-[900px]:h-[520px]">
        {by === "hand" ? (
          <Desktop
            sheet={sheet}
            tiles={tiles}
            width={width}
            height={height}
            chosen={selected}
            onChoose={choose}
            onOpen={() => {}}
            onPlace={place}
            snap={onGrid ? snap : undefined}
            label="the screen"
          />
        ) : (
          <DrawnScreen sheet={drawn} tiles={after} width={width} height={height} label="the screen as it would be" over={over} />
        )}
        <p className="mt-2 max-w-[80ch] text-small text-ink-2" role="status" style={{ width }}>
          {by === "hand"
            ? "Each move is in the ledger, and can be undone."
            : long
              ? `Looking for the shortest way for ${words.counted(tiles.length, "icon")}; of so many it takes some seconds. Choose another way, and it ends.`
              : trial && <Outcome straight={trial} by={by} onBest={take} />}
        </p>
      </div>
    </div>
  );
}

function Back() {
  return (
    <p className="mb-2 text-small">
      <Link className="doing" href="/quiet">
        back to quiet
      </Link>
    </p>
  );
}

function Amount({
  label,
  value,
  most,
  onChange,
}: {
  label: string;
  value: number;
  most: number;
  onChange: (to: number) => void;
}) {
  return (
    <label className="mt-3 block text-small">
      <span className="flex justify-between">
        {label}
        <span className="text-ink-2 tabular-nums">{value} pixels</span>
      </span>
      <input
        type="range"
        min={0}
        max={most}
        step={2}
        value={value}
        className="w-full accent-verdigris"
        onChange={(event) => onChange(Number(event.target.value))}
      />
    </label>
  );
}

/** What would come of it, in words. */
function Outcome({
  straight,
  by,
  onBest,
}: {
  straight: Straight;
  by: Straightening;
  onBest: (best: NonNullable<Straight["best"]>) => void;
}) {
  const words = useWords();
  const { icons: count, fits, best, way, sortedWay, spots, aside } = straight;
  if (best)
    return (
      <>
        <b className="font-semibold text-ink">
          {words.counted(count, "icon")} are in sight, and only {words.count(fits)} fit like this.
        </b>{" "}
        With icons of {best.icon}, {best.spacing} between them and a margin of {best.margin}{" "}
        {best.fits >= count ? "all of them do" : `${words.count(best.fits)} would, which is the most`}.{" "}
        <button type="button" className="doing" onClick={() => onBest(best)}>
          take these
        </button>
      </>
    );
  const less = sortedWay > 0 ? Math.round((100 * (sortedWay - way)) / sortedWay) : 0;
  return (
    <>
      <b className="font-semibold text-ink">
        {spots.length === 0
          ? "Nothing would move."
          : `${words.counted(spots.length, "icon")} of ${words.count(count)} would move, ${inAll(way, words)}.`}
      </b>{" "}
      {by === "near" && less > 0 && `Sorted by name they would go ${inAll(sortedWay, words)}: this saves ${less}% of it. `}
      {aside > 0 && `${words.counted(aside, "icon")} out of sight would make room. `}
      There is room for {words.count(fits)}.
    </>
  );
}

const inAll = (way: number, words: ReturnType<typeof useWords>) => `${words.count(way)} pixels in all`;

/** The beds, outlined, with what lies in each. */
function beds(draw: CanvasRenderingContext2D, scale: number, all: Straight["beds"]): void {
  const size = Math.max(10, 15 * scale);
  draw.font = `600 ${size}px sans-serif`;
  draw.textAlign = "left";
  draw.textBaseline = "bottom";
  for (const { kind, x, y, width, height, apart } of all) {
    if (apart) {
      draw.setLineDash([4, 3]);
      draw.lineWidth = 1.2;
      draw.strokeStyle = "#ffffff";
      draw.strokeRect(x * scale - 3, y * scale - 2, width * scale + 6, height * scale + 4);
      draw.setLineDash([]);
    }
    const top = Math.max(size + 2, y * scale - 3);
    draw.lineWidth = 3;
    draw.strokeStyle = "rgba(0, 0, 0, 0.7)";
    draw.strokeText(kind, x * scale, top, width * scale);
    draw.fillStyle = "#ffffff";
    draw.fillText(kind, x * scale, top, width * scale);
  }
}
