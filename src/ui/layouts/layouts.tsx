"use client";
import { type FormEvent, useCallback, useId, useMemo, useRef, useState } from "react";
import type { Compared, LayoutLine } from "@/contract/layouts";
import type { QuietView, Tile } from "@/contract/views";
import { type AskProblem, ask } from "../kit/ask";
import { useAsked } from "../kit/asked";
import { Beside } from "../kit/field";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { useSize } from "../kit/size";
import { useWords } from "../kit/words";
import { DrawnScreen } from "../quiet/drawn-screen";
import { awayBy, drawnBy, screenHeight } from "../quiet/shown";
import { lines } from "../straighten/lines";

const nothing = {};

/** Layouts, each as a small drawing of itself; what one would change is drawn before it is brought back. */
export function LayoutsSheet({ view }: { view: QuietView }) {
  const live = useLive();
  const words = useWords();
  const { act, say } = live;
  const list = useAsked("quiet/layouts", nothing);
  const [chosen, setChosen] = useState<string>();
  const [busy, setBusy] = useState(false);
  const [box, size] = useSize<HTMLDivElement>({ width: 800, height: 600 });
  const current = list?.find(({ id }) => id === chosen) ?? list?.[0];
  const id = current?.id;
  const { placesIcons } = view;
  const compared = useAsked(
    "quiet/compare-layout",
    useMemo(() => (id === undefined || !placesIcons ? undefined : { layout: id }), [id, placesIcons]),
  );
  const { sheet } = view;
  const { tiles } = useMemo(() => drawnBy(view, awayBy(view)), [view]);
  const moved = useMemo(() => new Map(compared?.spots.map((spot) => [spot.item, spot])), [compared]);
  const drawn = useMemo(
    () => (sheet && compared ? { ...sheet, icon: compared.screen.icon, label: compared.screen.label } : sheet),
    [sheet, compared],
  );
  const after = useMemo(() => tiles.map((tile): Tile => ({ ...tile, ...(moved.get(tile.id) ?? {}) })), [tiles, moved]);
  const over = useCallback(
    (draw: CanvasRenderingContext2D, scale: number) => drawn && lines(draw, scale, tiles, moved, drawn.icon),
    [drawn, tiles, moved],
  );
  const does = (work: Parameters<typeof act>[0]) => {
    setBusy(true);
    void act(work).finally(() => setBusy(false));
  };
  const height = screenHeight(view);
  const width = sheet
    ? Math.max(300, Math.min(size.width, Math.floor(((size.height - 130) * sheet.width) / Math.max(1, height))))
    : 0;
  return (
    <div className="grid h-full min-h-[560px] grid-cols-[300px_minmax(0,1fr)] gap-7 px-7 pt-5 pb-4 max-[900px]:h-auto max-[900px]:grid-cols-1">
      <section className="flex min-h-0 flex-col">
        <p className="mb-2 text-small">
          <Link className="doing" href="/quiet">
            back to quiet
          </Link>
        </p>
        <h1 className="mb-3 text-head leading-tight font-semibold">Layouts</h1>
        {view.placesIcons ? <Keep list={list ?? []} /> : null}
        <ul className="mt-3 min-h-0 flex-1 overflow-auto border-t border-line" aria-label="layouts">
          {list?.map((layout) => (
            <li key={layout.id} className="border-b border-line">
              <button
                type="button"
                aria-pressed={layout.id === id}
                className="flex w-full items-start gap-4 py-2.5 text-left hover:bg-wash"
                onClick={() => setChosen(layout.id)}
              >
                <Small layout={layout} />
                <span className="min-w-0">
                  <b
                    className={`block truncate font-semibold ${layout.id === id ? "underline decoration-2 underline-offset-4" : ""}`}
                  >
                    <Name>{layout.title}</Name>
                  </b>
                  <span className="block text-small text-ink-2">
                    {words.counted(layout.icons, "icon")}, {words.ago(Date.parse(layout.at))}
                  </span>
                  <span className="block text-small text-ink-2">{sinceWords(layout)}</span>
                </span>
              </button>
            </li>
          ))}
          {list?.length === 0 && (
            <li className="py-3 text-ink-2">
              None is kept yet. Keep how it is now, and it can be brought back after any change, on a larger or smaller screen
              too.
            </li>
          )}
        </ul>
        <Import />
      </section>
      <div ref={box} className="min-h-0 min-w-0 overflow-auto max-[900px]:h-[520px]">
        {!view.placesIcons && (
          <p className="max-w-[62ch] text-ink-2">
            This screen keeps the places of its icons to itself, so they can be neither kept nor brought back here.
          </p>
        )}
        {view.placesIcons && sheet && drawn && current && (
          <>
            <DrawnScreen
              sheet={drawn}
              tiles={after}
              width={width}
              height={height}
              label="the screen as it would be"
              over={over}
            />
            <p className="mt-2 text-small text-ink-2" role="status" style={{ width }}>
              {compared && <Change compared={compared} layout={current} />}
            </p>
            <div className="mt-3 flex flex-wrap items-baseline gap-6">
              <button
                type="button"
                className="go"
                disabled={busy || !compared || isSo(compared)}
                onClick={() => does(ask("quiet/bring-layout", { layout: current.id }))}
              >
                {compared && isSo(compared) ? "It is so already" : "Bring it back"}
              </button>
              <button type="button" className="doing" onClick={() => void download(current).catch(say)}>
                save as a file
              </button>
              <button
                type="button"
                className="doing ml-auto"
                disabled={busy}
                onClick={() => does(ask("quiet/remove-layout", { layout: current.id }))}
              >
                take it off the list
              </button>
            </div>
          </>
        )}
      </div>
    </div>
  );
}

const isSo = ({ spots, otherLevel, otherIcons }: Compared) => spots.length === 0 && !otherLevel && !otherIcons;

const sinceWords = ({ moved, came, went }: LayoutLine): string =>
  moved + came + went === 0
    ? "just as it is now"
    : [moved > 0 ? `${moved} lie elsewhere` : "", came > 0 ? `${came} came` : "", went > 0 ? `${went} gone` : ""]
        .filter(Boolean)
        .join(", ");

/** A layout as a small drawing of itself. */
function Small({ layout: { width, height, icon, drawn, title } }: { layout: LayoutLine }) {
  return (
    <svg
      role="img"
      aria-label={`drawing of ${title}`}
      viewBox={`0 0 ${width} ${height}`}
      width={92}
      height={Math.round((92 * height) / width)}
      className="mt-1 shrink-0 border border-ink bg-wash"
    >
      {drawn.map(([x, y], n) => (
        <rect key={n} x={x} y={y} width={icon} height={icon} className="fill-ink" />
      ))}
    </svg>
  );
}

/** What one changes, in words. */
function Change({ compared, layout }: { compared: Compared; layout: LayoutLine }) {
  const words = useWords();
  const { spots, came, went, shifted, crowded, otherLevel, otherIcons } = compared;
  const named = (names: string[]) =>
    names.length === 0
      ? ""
      : ` (${names.slice(0, 3).join(", ")}${names.length > 3 ? ` and ${words.count(names.length - 3)} more` : ""})`;
  return (
    <>
      <b className="font-semibold text-ink">
        {spots.length === 0 ? "No icon would move." : `${words.counted(spots.length, "icon")} would move.`}
      </b>{" "}
      {otherIcons && `The icons are ${layout.icon} pixels large then. `}
      {otherLevel && `It shows ${layout.level}. `}
      {came.length > 0 && (
        <>
          {words.counted(came.length, "icon")} came since <bdi>{named(came)}</bdi>, and {came.length === 1 ? "stays" : "stay"}{" "}
          where there is room.{" "}
        </>
      )}
      {went.length > 0 && (
        <>
          {words.counted(went.length, "icon")} of it {went.length === 1 ? "is" : "are"} no longer there <bdi>{named(went)}</bdi>.{" "}
        </>
      )}
      {shifted > 0 &&
        `${words.counted(shifted, "icon")} cannot lie just as before on this screen, and ${shifted === 1 ? "gets" : "get"} the nearest free place. `}
      {crowded > 0 &&
        `For ${words.counted(crowded, "icon")} there is no room: ${crowded === 1 ? "it lies" : "they lie"} over others.`}
    </>
  );
}

function Keep({ list }: { list: LayoutLine[] }) {
  const { act } = useLive();
  const [title, setTitle] = useState("");
  const [problem, setProblem] = useState<AskProblem>();
  const wrong = useId();
  const replaces = list.find((layout) => layout.title.toLowerCase() === title.trim().toLowerCase());
  const keep = (event: FormEvent) => {
    event.preventDefault();
    void act(ask("quiet/keep-layout", { title }), setProblem).then((report) => report && setTitle(""));
  };
  return (
    <form onSubmit={keep} className="flex flex-wrap items-end gap-x-4 gap-y-1">
      <label className="min-w-0 flex-1 text-small">
        Keep how it is now, as
        <input
          className="field w-full"
          value={title}
          maxLength={60}
          aria-describedby={wrong}
          onChange={(event) => {
            setTitle(event.target.value);
            setProblem(undefined);
          }}
        />
      </label>
      <button type="submit" className="go" disabled={title.trim() === ""}>
        Keep
      </button>
      {replaces && <p className="w-full text-small text-ink-2">It takes the place of the one that has this name.</p>}
      <Beside id={wrong} problem={problem} />
    </form>
  );
}

/** A layout from another computer. */
function Import() {
  const { act, say } = useLive();
  const field = useRef<HTMLInputElement>(null);
  const read = async (file: File | undefined) => {
    if (!file) return;
    const text = await file.text();
    if (field.current) field.current.value = "";
    let document: unknown = null;
    try {
      document = JSON.parse(text);
    } catch {
      // What is no JSON is no layout: that is said.
    }
    await act(ask("quiet/import-layout", { document }));
  };
  return (
    <p className="mt-3 border-t border-line pt-2 text-small">
      <label className="doing cursor-pointer focus-within:outline-2">
        take one from another computer
        <input
          ref={field}
          type="file"
          accept=".json,application/json"
          className="sr-only"
          onChange={(event) => void read(event.target.files?.[0]).catch(say)}
        />
      </label>
    </p>
  );
}

async function download({ id, title }: LayoutLine): Promise<void> {
  const layout = await ask("quiet/export-layout", { layout: id });
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([`${JSON.stringify(layout, null, 1)}\n`], { type: "application/json" }));
  link.download = `layout ${title.replaceAll(/[/\\]/g, "-")}.json`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
