"use client";
import { type FormEvent, type MouseEvent, useCallback, useEffect, useMemo, useState } from "react";
import { type HollowLine, undrawnInWords } from "@/contract/hollow";
import type { QuietView } from "@/contract/views";
import { ask } from "../kit/ask";
import { useAsked } from "../kit/asked";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { useSize } from "../kit/size";
import { useWords } from "../kit/words";
import { DrawnScreen } from "../quiet/drawn-screen";
import { awayBy, drawnBy, screenHeight } from "../quiet/shown";
import { isDrawnAsNothing } from "./drawn-as-nothing";

interface Spot {
  x: number;
  y: number;
}

const nothing = {};

/** Hollows: folders on the desktop that are drawn as nothing. Made at a spot in the drawing, checked, repaired, and found again. */
export function HollowSheet({ view }: { view: QuietView }) {
  const { act } = useLive();
  const list = useAsked("quiet/hollows", nothing);
  const [spot, setSpot] = useState<Spot>();
  const [note, setNote] = useState("");
  const [hidden, setHidden] = useState(false);
  const [shown, setShown] = useState(false);
  const [busy, setBusy] = useState(false);
  const [box, size] = useSize<HTMLDivElement>({ width: 800, height: 600 });
  const { sheet } = view;
  const { tiles } = useMemo(() => drawnBy(view, awayBy(view)), [view]);
  const height = screenHeight(view);
  const width = sheet
    ? Math.max(300, Math.min(size.width, Math.floor(((size.height - 80) * sheet.width) / Math.max(1, height))))
    : 0;
  const lying = useMemo(() => {
    const ids = new Set(list?.flatMap(({ item }) => item ?? []));
    return tiles.filter(({ id }) => ids.has(id));
  }, [list, tiles]);
  const over = useCallback(
    (draw: CanvasRenderingContext2D, scale: number) => {
      if (!sheet) return;
      const { icon } = sheet;
      const outline = ({ x, y }: Spot, dash: number[]) => {
        draw.setLineDash(dash);
        for (const [style, line] of [
          ["rgba(0, 0, 0, 0.6)", 4],
          ["#ffffff", 2],
        ] as const) {
          draw.strokeStyle = style;
          draw.lineWidth = line;
          draw.strokeRect(x * scale, y * scale, icon.width * scale, icon.height * scale);
        }
        draw.setLineDash([]);
      };
      if (shown) for (const tile of lying) outline(tile, []);
      if (spot && !hidden) outline(spot, [4, 3]);
    },
    [sheet, shown, lying, spot, hidden],
  );
  const choose = (event: MouseEvent<HTMLDivElement>) => {
    if (!sheet || !view.placesIcons || hidden) return;
    const rect = event.currentTarget.getBoundingClientRect();
    const scale = width / sheet.width;
    const at = (from: number, own: number, most: number) => Math.round(Math.max(0, Math.min(most - own, from / scale - own / 2)));
    setSpot({
      x: at(event.clientX - rect.left, sheet.icon.width, sheet.width),
      y: at(event.clientY - rect.top, sheet.icon.height, height),
    });
  };
  const does = (work: Parameters<typeof act>[0]) => {
    setBusy(true);
    return act(work).finally(() => setBusy(false));
  };
  const make = (event: FormEvent) => {
    event.preventDefault();
    void does(ask("quiet/make-hollow", { ...(hidden ? { hidden: true } : spot), note })).then((report) => {
      if (!report) return;
      setNote("");
      setSpot(undefined);
    });
  };
  return (
    <div className="grid h-full min-h-[560px] grid-cols-[320px_minmax(0,1fr)] gap-7 px-7 pt-5 pb-4 max-[900px]:h-auto max-[900px]:grid-cols-1">
      <section className="flex min-h-0 flex-col overflow-auto pr-1">
        <p className="mb-2 text-small">
          <Link className="doing" href="/quiet">
            back to quiet
          </Link>
        </p>
        <h1 className="mb-2 text-head leading-tight font-semibold">Hollows</h1>
        <p className="mb-3 text-small text-ink-2">
          A hollow is a folder on the desktop that is drawn as nothing, at a spot that you know. It hides from the eye, and
          protects nothing: whoever lists the folder, a search, and other programs meet it as any other. The survey leaves it out,
          so make sure yourself that there is a copy of what lies in it.
        </p>
        {sheet && (
          <form onSubmit={make} className="border-t border-line pt-2.5">
            <label className="block text-small">
              A note, by which you will know it
              <input className="field w-full" value={note} maxLength={200} onChange={(event) => setNote(event.target.value)} />
            </label>
            <fieldset className="mt-2 text-small">
              <legend className="sr-only">how it is kept from the eye</legend>
              {(
                [
                  [false, "drawn as nothing: press its spot, and it opens"],
                  [true, "marked hidden, with a dot in front of its name: the desktop does not show it at all"],
                ] as const
              ).map(([way, words]) => (
                <label key={String(way)} className="flex gap-2 py-0.5">
                  <input
                    type="radio"
                    name="way"
                    className="accent-verdigris"
                    checked={hidden === way}
                    onChange={() => setHidden(way)}
                  />
                  {words}
                </label>
              ))}
            </fieldset>
            {view.placesIcons && !hidden && (
              <div className="mt-2 flex items-end gap-4 text-small">
                {(["x", "y"] as const).map((axis) => (
                  <label key={axis} className="flex flex-col">
                    {axis === "x" ? "from the left" : "from above"}
                    <input
                      type="number"
                      className="field w-24"
                      min={0}
                      value={spot?.[axis] ?? ""}
                      onChange={(event) => setSpot({ x: 0, y: 0, ...spot, [axis]: Number(event.target.value) })}
                    />
                  </label>
                ))}
                <span className="pb-1 text-ink-2">or press the spot in the drawing</span>
              </div>
            )}
            <button type="submit" className="go mt-3" disabled={busy}>
              Make a hollow
            </button>
          </form>
        )}
        <ul className="mt-4 border-t border-line" aria-label="hollows">
          {list?.map((line) => (
            <Line key={line.id} line={line} simulated={view.placesIcons} busy={busy} does={does} />
          ))}
          {list?.length === 0 && <li className="py-2 text-small text-ink-2">There is none yet.</li>}
        </ul>
      </section>
      <div ref={box} className="min-h-0 min-w-0 overflow-auto max-[900px]:h-[520px]">
        {sheet ? (
          <>
            {/* biome-ignore lint/a11y/noStaticElementInteractions: the two numbers do the same by keyboard. */}
            {/* biome-ignore lint/a11y/useKeyWithClickEvents: likewise. */}
            <div style={{ width }} onClick={choose}>
              <DrawnScreen sheet={sheet} tiles={tiles} width={width} height={height} label="the screen" over={over} />
            </div>
            {view.placesIcons && (list?.length ?? 0) > 0 && (
              <p className="mt-2 text-small">
                <button type="button" className="doing" aria-pressed={shown} onClick={() => setShown(!shown)}>
                  {shown ? "hide them again" : "show where they lie"}
                </button>
              </p>
            )}
          </>
        ) : (
          <p className="text-ink-2">This account has no desktop folder, so there is no place for a hollow.</p>
        )}
      </div>
    </div>
  );
}

function Line({
  line,
  simulated,
  busy,
  does,
}: {
  line: HollowLine;
  /** The screen is drawn here: what is drawn can be looked at. */
  simulated: boolean;
  busy: boolean;
  does: (work: ReturnType<typeof ask<"quiet/repair-hollow">>) => Promise<unknown>;
}) {
  const words = useWords();
  const { id, note, place, name, wrong, undrawn, hidden, seen, things: count, inside, blank } = line;
  const [naming, setNaming] = useState<string>();
  const [nothing, setNothing] = useState<boolean>();
  const [looking, setLooking] = useState(false);
  useEffect(() => {
    if (simulated) setNothing(isDrawnAsNothing(blank, getComputedStyle(document.body).fontFamily));
  }, [simulated, blank]);
  const title = note || `the hollow of ${words.date(Date.parse(line.madeAt))}`;
  return (
    <li className="border-b border-line py-2.5">
      <b className="block font-semibold">
        <Name>{title}</Name>
      </b>
      <span className="block text-small text-ink-2">
        {place === null ? "not found" : <bdi>{place}</bdi>}; {count === 0 ? "empty" : `${things(count)} in it`}; its name:{" "}
        {name || "unknown"}
      </span>
      {wrong.map((sentence) => (
        <span key={sentence} className="mt-1 block border-l-4 border-let-go pl-3 text-small">
          {sentence}
        </span>
      ))}
      {undrawn && hidden && <span className="mt-1 block text-small text-ink-2">{undrawnInWords(line)}</span>}
      {undrawn && !hidden && simulated && nothing !== undefined && (
        <span className={`mt-1 block text-small ${nothing ? "text-ink-2" : "border-l-4 border-let-go pl-3"}`}>
          {nothing
            ? "Checked: where it lies the wallpaper is as it is without it, to the pixel."
            : "Its name is drawn after all in the font of this screen."}
        </span>
      )}
      {undrawn && !hidden && !simulated && (
        <span className="mt-1 block text-small text-ink-2">
          {seen === null
            ? `${undrawnInWords(line)} The desktop gave it its next free place: select all icons there, and you see which; then drag it to where you want it. When nothing is selected, what do you see in its place?`
            : `You looked, and saw ${seen}.`}
        </span>
      )}
      {looking && (
        <ul className="mt-1 text-small" aria-label={`what lies in ${title}`}>
          {inside.map((one) => (
            <li key={one}>
              <Name>{one}</Name>
            </li>
          ))}
          {count > inside.length && <li className="text-ink-2">and {count - inside.length} more</li>}
        </ul>
      )}
      <span className="mt-1 flex flex-wrap gap-x-4 gap-y-1 text-small">
        {count > 0 && (
          <button type="button" className="doing" aria-expanded={looking} onClick={() => setLooking(!looking)}>
            {looking ? "close it" : "look into it"}
            <span className="sr-only">: {title}</span>
          </button>
        )}
        {undrawn &&
          !hidden &&
          !simulated &&
          (["nothing", "a box", "a label"] as const).map((what) => (
            <button
              key={what}
              type="button"
              className="doing"
              aria-pressed={seen === what}
              disabled={busy}
              onClick={() => void does(ask("quiet/seen-hollow", { hollow: id, seen: what }))}
            >
              {what}
            </button>
          ))}
        {place !== null && !undrawn && (
          <button
            type="button"
            className="doing"
            disabled={busy}
            onClick={() => void does(ask("quiet/repair-hollow", { hollow: id }))}
          >
            repair it
          </button>
        )}
        {naming === undefined && (
          <button type="button" className="doing" disabled={busy} onClick={() => setNaming(note)}>
            {place === null ? "take it off the list" : "make an ordinary folder of it"}
            <span className="sr-only">: {title}</span>
          </button>
        )}
      </span>
      {naming !== undefined && (
        <form
          className="mt-2 flex items-end gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            void does(ask("quiet/open-hollow", { hollow: id, name: naming })).then(() => setNaming(undefined));
          }}
        >
          <label className="min-w-0 flex-1 text-small">
            Its name then
            <input className="field w-full" value={naming} maxLength={200} onChange={(event) => setNaming(event.target.value)} />
          </label>
          <button type="submit" className="doing min-h-6" disabled={busy || naming.trim() === ""}>
            {place === null ? "take it off" : "make it so"}
          </button>
          <button type="button" className="doing min-h-6" onClick={() => setNaming(undefined)}>
            leave it
          </button>
        </form>
      )}
    </li>
  );
}
