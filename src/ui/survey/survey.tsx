"use client";
import { useRouter, useSearchParams } from "next/navigation";
import { memo, useCallback, useMemo, useRef, useState } from "react";
import { surveyFrom, type Told } from "@/contract/told";
import type { FindingView, SurveyView } from "@/contract/views";
import type { CommandName } from "@/core/settings/keys";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { useSince } from "../kit/since";
import { useSize } from "../kit/size";
import { Plan, scaleOf, tileBox, tilePlace } from "../plan/plan";
import { type Shading, shadings } from "../plan/shade";
import { CloserLook } from "../sitting/closer-look";
import { Chosen } from "./chosen";
import { ItemTable } from "./item-table";
import { Notes } from "./notes";
import { Places } from "./places";
import { Settle } from "./settle";
import { Tide } from "./tide";

/** What the caption and the tide line take below the plan, and a scroll bar beside it, in pixels. */
const below = 108;
const scrollBar = 16;

/** Everything that lies there, where it lies, what is known about it, and the three ways to start. */
export function Survey({ told }: { told: Told<SurveyView> }) {
  const paper = useSearchParams().get("sheet") ?? undefined;
  const since = useCallback((mark: string) => ask("survey/since", { mark, sheet: paper }), [paper]);
  const view = useSince(told, surveyFrom, since);
  const { sheet } = view;
  const [shading, setShading] = useState<Shading>("kind");
  const [listed, setListed] = useState(false);
  const [chosenIds, setChosenIds] = useState<ReadonlySet<string>>(new Set());
  const [note, setNote] = useState<FindingView>();
  const [opened, setOpened] = useState<string>();
  const [settling, setSettling] = useState<FindingView>();
  const [marking, setMarking] = useState(false);
  const [hollows, setHollows] = useState(false);
  const stopSettling = useCallback(() => setSettling(undefined), []);
  const stopMarking = useCallback(() => setMarking(false), []);
  const [box, size] = useSize<HTMLDivElement>({ width: 784, height: 441 + below });
  const plan = useRef<HTMLDivElement>(null);

  const here = useMemo(() => new Set(sheet.tiles.map((tile) => tile.id)), [sheet]);
  const chosen = useMemo(() => new Set([...chosenIds].filter((id) => here.has(id))), [chosenIds, here]);
  const lit = useMemo(() => (note ? new Set([...note.items, ...note.stay]) : undefined), [note]);
  const close = useCallback(() => setOpened(undefined), []);
  const choose = useCallback(
    (ids: string[], how: "only" | "toggle" | "add") =>
      setChosenIds((before) => {
        if (how === "only") return new Set(ids);
        const next = new Set(before);
        for (const id of ids)
          if (how === "toggle" && next.has(id)) next.delete(id);
          else next.add(id);
        return next;
      }),
    [],
  );
  const chooseOnly = useCallback((ids: string[]) => choose(ids, "only"), [choose]);

  if (sheet.tiles.length === 0) return <Bare view={view} />;
  const width = Math.max(
    320,
    sheet.screenHeight > 0
      ? Math.min(size.width, Math.floor(((size.height - below) * sheet.width) / sheet.height))
      : size.width - scrollBar,
  );
  const scale = scaleOf(sheet, width);

  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_minmax(300px,386px)] gap-7 px-7 pt-5 max-[900px]:h-auto max-[900px]:grid-cols-[minmax(0,1fr)]">
      <div className="flex min-h-0 flex-col">
        <Sentence view={view} onOpen={chooseOnly} />
        <p className="-mt-2.5 mb-2.5 text-small text-ink-2">
          {view.sinceLastTime && <span className="mr-4">{view.sinceLastTime}</span>}
          {view.protectedPlaces === 0
            ? "What would be lost if this computer died is not known: you have not said yet which folders are backed up. "
            : `${view.protectedPlaces === 1 ? "One place is" : `${view.protectedPlaces} places are`} marked as protected. `}
          {view.absentPlaces.length > 0 &&
            `What exists nowhere else is not known: ${view.absentPlaces.join(", ")} ${view.absentPlaces.length === 1 ? "is" : "are"} not here now. `}
          {view.hidden > 0 &&
            `${view.hidden === 1 ? "One thing with a dot in front of its name is" : `${view.hidden} things with a dot in front of their names are`} hidden, as is usual for these, and no icon. `}
          {view.unreadableFolders > 0 &&
            `${view.unreadableFolders === 1 ? "One folder" : `${view.unreadableFolders} folders`} could not be read. `}
          <button type="button" className="doing" onClick={() => setMarking(true)}>
            {view.protectedPlaces === 0 ? "say which are" : "see which"}
          </button>
        </p>
        <div ref={box} className="flex min-h-0 flex-1 flex-col max-[900px]:h-[420px] max-[900px]:flex-none">
          <div className={sheet.screenHeight > 0 && !listed ? "overflow-hidden" : "min-h-0 flex-1 overflow-auto"}>
            {listed ? (
              <ItemTable tiles={sheet.tiles} worktop={sheet.worktop} chosen={chosen} onChoose={choose} onOpen={setOpened} />
            ) : (
              <div ref={plan} style={{ width }}>
                <Plan
                  sheet={sheet}
                  width={width}
                  shading={shading}
                  chosen={chosen}
                  lit={lit}
                  onChoose={choose}
                  onOpen={setOpened}
                  label={`${sheet.worktop}, drawn`}
                >
                  {(from, to) => (
                    <>
                      {view.findings.map((finding) => (
                        <Letters
                          key={finding.letter}
                          finding={finding}
                          sheet={sheet}
                          width={width}
                          lit={finding.letter === note?.letter}
                          from={from}
                          to={to}
                        />
                      ))}
                      {hollows &&
                        view.hollows.spots.map(({ x, y }) => (
                          <span
                            key={`${x},${y}`}
                            className="pointer-events-none absolute border-2 border-dashed border-ink"
                            style={{
                              left: x / scale,
                              top: y / scale,
                              width: sheet.icon.width / scale,
                              height: sheet.icon.height / scale,
                            }}
                          />
                        ))}
                    </>
                  )}
                </Plan>
              </div>
            )}
          </div>
          <div className="flex flex-wrap items-center gap-x-5 gap-y-2 py-2 text-[12px] text-ink-2">
            {view.sheets.map(({ id, title, count }) => (
              <Link
                key={id}
                href={`/survey?sheet=${id}`}
                aria-current={id === sheet.worktop ? "true" : undefined}
                className={id === sheet.worktop ? "border-b-2 border-ink font-semibold text-ink" : "hover:text-ink"}
              >
                {title} {count}
              </Link>
            ))}
            <span>{sheet.screenHeight > 0 ? `1 : ${scale.toFixed(2)} of your screen` : view.note}</span>
            <span>
              before and after{" "}
              {(["svg", "png"] as const).map((form) => (
                <a
                  key={form}
                  className="mr-1.5 hover:text-ink hover:underline"
                  href={`/api/survey/keepsake?sheet=${sheet.worktop}&as=${form}`}
                  aria-label={`before and after, as ${form.toUpperCase()}`}
                  download
                >
                  {form.toUpperCase()}
                </a>
              ))}
            </span>
            {view.hollows.count > 0 && (
              <span>
                <Link className="doing" href="/quiet?sheet=hollows">
                  {view.hollows.count === 1 ? "one hollow" : `${view.hollows.count} hollows`}
                </Link>
                {view.hollows.spots.length > 0 && !listed && (
                  <button type="button" className="doing ml-2" aria-pressed={hollows} onClick={() => setHollows(!hollows)}>
                    {hollows ? "no outline" : "outline"}
                  </button>
                )}
              </span>
            )}
            <span className="ml-auto flex gap-3">
              <Choice words="drawn" on={!listed} onPick={() => setListed(false)} />
              <Choice words="as a list" on={listed} onPick={() => setListed(true)} />
            </span>
            {!listed && (
              <span className="flex gap-3">
                the shade shows
                {shadings.map((by) => (
                  <Choice key={by} words={by} on={shading === by} onPick={() => setShading(by)} />
                ))}
              </span>
            )}
          </div>
          <Tide tiles={sheet.tiles} marks={view.tideMarks} chosen={chosen} onChoose={chooseOnly} />
        </div>
      </div>
      <div className="flex min-h-0 flex-col pb-4">
        {view.unreadable.map((place) => (
          <p key={place} className="mb-3 border-l-4 border-let-go pl-3 text-small">
            <b className="block font-semibold">{place} is missing or cannot be read.</b>
            What is shown is how it was at the last look. Make it again, or change its permissions.
          </p>
        ))}
        <div className="min-h-0 flex-1 overflow-auto">
          <Notes
            findings={view.findings}
            plan={plan}
            lit={note}
            onLight={setNote}
            onChoose={chooseOnly}
            onSettle={setSettling}
            here={here}
          />
        </div>
        {chosen.size > 0 ? (
          <Chosen
            tiles={sheet.tiles.filter((tile) => chosen.has(tile.id))}
            onDone={() => setChosenIds(new Set())}
            onOpen={setOpened}
          />
        ) : (
          <Starts undecided={view.undecided} />
        )}
      </div>
      {settling && <Settle finding={settling} onClose={stopSettling} />}
      {marking && <Places onClose={stopMarking} />}
      <CloserLook item={opened} onClose={close} />
    </div>
  );
}

function Choice({ words, on, onPick }: { words: string; on: boolean; onPick: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onPick}
      className={on ? "border-b-2 border-ink font-semibold text-ink" : "hover:text-ink"}
    >
      {words}
    </button>
  );
}

function Sentence({ view, onOpen }: { view: SurveyView; onOpen: (ids: string[]) => void }) {
  return (
    <h1 className="mb-4 max-w-[900px] text-say leading-[1.25] font-medium">
      {view.sentence.map(({ text, items }, n) =>
        items ? (
          <button
            key={n}
            type="button"
            onClick={() => onOpen(items)}
            className="border-b-2 border-verdigris leading-[1.15] font-bold hover:bg-wash"
          >
            {text}
          </button>
        ) : (
          <span key={n}>{text}</span>
        ),
      )}
    </h1>
  );
}

/** So near one another the same letter stands once for all its things. */
const letterRoom = 32;

/** The letter of a finding at its things. */
const Letters = memo(function Letters({
  finding,
  sheet,
  width,
  lit,
  from,
  to,
}: {
  finding: FindingView;
  sheet: SurveyView["sheet"];
  width: number;
  lit: boolean;
  from: number;
  to: number;
}) {
  const tiles = new Map(sheet.tiles.map((one) => [one.id, one]));
  const box = tileBox(sheet, width);
  const taken = new Set<string>();
  return finding.items.flatMap((id) => {
    const tile = tiles.get(id);
    if (!tile) return [];
    const { left, top } = tilePlace(tile, sheet, width);
    if (top < from || top > to) return [];
    const room = `${Math.floor(left / letterRoom)},${Math.floor(top / letterRoom)}`;
    if (taken.has(room)) return [];
    taken.add(room);
    return (
      <span
        key={id}
        data-letter={finding.letter}
        aria-hidden="true"
        className={`pointer-events-none absolute grid size-[15px] place-content-center rounded-full border border-ink bg-sheet text-[10px] leading-none font-semibold ${lit ? "z-20" : "z-[5]"}`}
        style={{ left: Math.min(width - 16, left + box.width - 7), top: Math.max(0, top - 7) }}
      >
        {finding.letter}
      </span>
    );
  });
});

function Starts({ undecided }: { undecided: number }) {
  const live = useLive();
  const router = useRouter();
  const start = (title: string, command: CommandName, words: string, go: () => void) => (
    <button
      type="button"
      onClick={go}
      className="grid w-full grid-cols-[1fr_auto] border-b border-line py-2 text-left hover:bg-wash"
    >
      <b className="text-name font-[650]">{title}</b>
      <span className="mt-1">
        <KeyOf command={command} />
      </span>
      <span className="col-start-1 text-small text-ink-2">{words}</span>
    </button>
  );
  return (
    <section aria-label="three ways to start" className="border-t-2 border-ink">
      {start(
        "Quiet now",
        "quiet",
        "All icons out of sight, and back where they were.",
        () => void live.act(ask("quiet/show", { level: "bare" })),
      )}
      {start("Sweep into homes", "homes", "Choose where, then take everything that belongs there.", () => router.push("/homes"))}
      {start("One by one", "sitting", `${undecided} to decide, one key each.`, () => router.push("/sitting"))}
    </section>
  );
}

/** A worktop on which nothing lies: a moment worth seeing. What lay there fades, and leaves it bare. */
function Bare({ view }: { view: SurveyView }) {
  const { sheet, sheets, cleared, sentence } = view;
  const other = sheets.find(({ id, count }) => id !== sheet.worktop && count > 0);
  return (
    <div className="grid min-h-full place-content-center justify-items-center gap-5 px-7 py-6 text-center">
      <div className="relative grid aspect-video w-[min(720px,86vw,88vh)] place-content-center overflow-hidden border border-ink bg-plan">
        {cleared?.points.map(({ x, y }, n) => (
          <span
            key={n}
            className="fading absolute h-[7%] w-[3.4%] border border-ink-2 bg-sheet"
            style={{ left: `${x * 100}%`, top: `${y * 100}%`, animationDelay: `${600 + ((n * 37) % 100) * 22}ms` }}
          />
        ))}
        <i className="relative size-[74px] rounded-full border-[9px] border-ink" />
      </div>
      <h1 className="text-[30px] leading-tight font-medium">{sentence[0]?.text}</h1>
      <p className="max-w-[62ch] text-ink-2">
        {cleared?.words ?? "What you put away is in its homes; what you let go is in the trash, and comes back from there."}
      </p>
      <p className="flex flex-wrap justify-center gap-x-6 gap-y-1">
        {other && (
          <Link className="doing" href={`/survey?sheet=${other.id}`}>
            {other.count === 1 ? `1 still lies in ${other.title}` : `${other.count} still lie in ${other.title}`}
          </Link>
        )}
        <Link className="doing" href="/ledger">
          see what was done, or undo some of it
        </Link>
        {cleared && (
          <a className="doing" href={`/api/survey/keepsake?sheet=${sheet.worktop}&as=png`} download>
            keep a picture of before and after
          </a>
        )}
      </p>
    </div>
  );
}
