"use client";
import { useId, useState } from "react";
import type { QuietView } from "@/contract/views";
import { type KindGroup, kindGroups, quietLevels } from "@/core/quiet/levels";
import { untilFrom } from "@/core/quiet/until";
import type { QuietLevel } from "@/core/screen/state";
import { type Kind, kinds } from "@/core/survey/kinds";
import { KeyOf } from "../kit/key";
import { icons } from "../kit/numbers";
import { awayBy, iconsOf, type Tried } from "./shown";

const groupWords: Record<KindGroup, string> = { drive: "drives", shortcut: "shortcuts", folder: "folders", file: "files" };

/** What is asked for: a level, with what goes with it. */
export interface Asked extends Tried {
  along?: boolean;
  until?: number;
  evenInUse?: true;
}

/** How much is to be shown. What would remain is drawn before it is done: `onTry` hears of it. */
export function HowMuch({
  view,
  busy,
  tried,
  onTry,
  onShow,
}: {
  view: QuietView;
  busy: boolean;
  tried?: Tried;
  onTry: (tried?: Tried) => void;
  onShow: (asked: Asked) => void;
}) {
  const [chosen, setChosen] = useState<ReadonlySet<Kind>>(new Set(view.kinds));
  const [open, setOpen] = useState(view.level === "some kinds");
  const [along, setAlong] = useState(view.along);
  const [until, setUntil] = useState("");
  const ends = until.trim() === "" ? undefined : untilFrom(until, Date.now());
  const wrong = until.trim() !== "" && ends === undefined;
  const all = iconsOf(view.sheet?.tiles ?? []).length;
  const of = (level: QuietLevel): Tried => ({ level, kinds: level === "some kinds" ? kinds.filter((k) => chosen.has(k)) : [] });
  const show = (level: QuietLevel) => {
    // A time that is not understood is said beside its field; nothing begins without the end that was meant.
    if (!wrong || level === "everything") onShow({ ...of(level), along, until: ends });
  };
  const choose = (next: ReadonlySet<Kind>) => {
    setChosen(next);
    onTry({ level: "some kinds", kinds: kinds.filter((kind) => next.has(kind)) });
  };
  const canBe = (level: QuietLevel) => !view.allOrNothing || level === "everything" || level === "bare";
  const remain = (level: QuietLevel) => all - awayBy(view, of(level)).size;
  const wordsOf: Record<QuietLevel, string> = {
    everything: icons(all),
    "some kinds": chosen.size > 0 ? `${icons(remain("some kinds"))} would remain` : "all but the kinds you choose",
    "what stays": view.stays.length === 0 ? "you left none on purpose yet" : `${icons(view.stays.length)} you left on purpose`,
    bare: "the wallpaper alone",
  };
  return (
    <section className="flex min-h-0 flex-col overflow-auto pr-1">
      <h1 className="mb-3 font-semibold">How much to show</h1>
      <div className="border-b border-line">
        {quietLevels.filter(canBe).map((level) => (
          <div key={level} className="border-t border-line">
            <button
              type="button"
              aria-pressed={view.level === level}
              aria-expanded={level === "some kinds" ? open : undefined}
              disabled={busy}
              onPointerEnter={() => onTry(of(level))}
              onPointerLeave={() => onTry(open ? of("some kinds") : undefined)}
              onFocus={() => onTry(of(level))}
              onBlur={() => onTry(undefined)}
              onClick={() => (level === "some kinds" ? setOpen(!open) : show(level))}
              className="relative block w-full py-2.5 pl-11 text-left hover:bg-wash"
            >
              <span className="absolute top-3 left-0">
                <LevelShape level={level} />
              </span>
              <b
                className={`block text-[19px] leading-tight font-semibold ${view.level === level ? "underline decoration-[2.5px] underline-offset-[5px]" : ""}`}
              >
                {level}
              </b>
              <span className="text-small text-ink-2">{wordsOf[level]}</span>
            </button>
            {level === "some kinds" && open && (
              <Kinds
                view={view}
                chosen={chosen}
                busy={busy}
                onChoose={choose}
                onShow={() => show("some kinds")}
                away={all - remain("some kinds")}
              />
            )}
          </div>
        ))}
      </div>
      <label className="mt-3 flex items-start gap-2 text-small">
        <input
          type="checkbox"
          className="mt-0.5 accent-verdigris"
          checked={along}
          onChange={(event) => setAlong(event.target.checked)}
        />
        <span>What arrives meanwhile goes out of sight too; a download once it is finished</span>
      </label>
      <Until value={until} wrong={wrong} onChange={setUntil} now={view.until} />
      {view.level !== "everything" && (along !== view.along || ends !== undefined) && (
        <button
          type="button"
          className="doing mt-2 self-start"
          disabled={busy || wrong}
          onClick={() => onShow({ level: view.level, kinds: view.kinds, along, until: ends })}
        >
          use that from now on
        </button>
      )}
      <p className="mt-3 text-small text-ink-2">
        {view.sentence} <KeyOf command="quiet" /> takes everything away and brings it back.
      </p>
      {view.caution && <p className="mt-2 border-l-4 border-ink pl-3 text-small">{view.caution}</p>}
      <p className="sr-only" aria-live="polite">
        {tried ? `${icons(all - awayBy(view, tried).size)} would remain in sight` : ""}
      </p>
    </section>
  );
}

/** The kinds that lie on the desktop, in four groups, the files also each by itself. */
function Kinds({
  view,
  chosen,
  busy,
  away,
  onChoose,
  onShow,
}: {
  view: QuietView;
  chosen: ReadonlySet<Kind>;
  busy: boolean;
  away: number;
  onChoose: (next: ReadonlySet<Kind>) => void;
  onShow: () => void;
}) {
  const [each, setEach] = useState(false);
  // Just these are out of sight already.
  const isSo = view.level === "some kinds" && view.kinds.length === chosen.size && view.kinds.every((kind) => chosen.has(kind));
  const counts = new Map<Kind, number>();
  for (const { kind } of view.sheet?.tiles ?? []) counts.set(kind, (counts.get(kind) ?? 0) + 1);
  const set = (some: readonly Kind[], on: boolean) => {
    const next = new Set(chosen);
    for (const kind of some)
      if (on) next.add(kind);
      else next.delete(kind);
    onChoose(next);
  };
  const line = (words: string, some: readonly Kind[], inset: boolean) => {
    const count = some.reduce((sum, kind) => sum + (counts.get(kind) ?? 0), 0);
    if (count === 0) return null;
    const on = some.filter((kind) => chosen.has(kind)).length;
    const present = some.filter((kind) => counts.has(kind));
    return (
      <label key={words} className={`flex min-h-[26px] items-center gap-2 text-small ${inset ? "pl-5" : ""}`}>
        <input
          type="checkbox"
          className="accent-verdigris"
          checked={on > 0 && present.every((kind) => chosen.has(kind))}
          ref={(box) => {
            if (box) box.indeterminate = on > 0 && !present.every((kind) => chosen.has(kind));
          }}
          onChange={(event) => set(some, event.target.checked)}
        />
        <span className="flex-1">{words}</span>
        <span className="text-ink-2 tabular-nums">{count}</span>
      </label>
    );
  };
  return (
    <fieldset className="pb-3 pl-11">
      <legend className="sr-only">The kinds that go out of sight</legend>
      {(Object.keys(kindGroups) as KindGroup[]).map((group) => line(groupWords[group], kindGroups[group], false))}
      {each && kindGroups.file.map((kind) => line(kind, [kind], true))}
      <button type="button" className="doing text-small" aria-expanded={each} onClick={() => setEach(!each)}>
        {each ? "in groups" : "each kind of file"}
      </button>
      <button
        type="button"
        className="go mt-2 block whitespace-nowrap"
        disabled={busy || chosen.size === 0 || away === 0 || isSo}
        onClick={onShow}
      >
        Take {icons(away)} away
      </button>
    </fieldset>
  );
}

function Until({
  value,
  wrong,
  now,
  onChange,
}: {
  value: string;
  wrong: boolean;
  now?: string;
  onChange: (value: string) => void;
}) {
  const id = useId();
  return (
    <div className="mt-2.5">
      <label className="block text-small text-ink-2">
        {now ? `Everything comes back at ${now}. Another time` : "Everything comes back when you say, or at"}
        <input
          className="mt-0.5 block w-full border-b border-ink bg-transparent py-0.5 text-ink outline-none focus:border-verdigris"
          placeholder="17:30, 45m, 2h"
          value={value}
          aria-invalid={wrong}
          aria-describedby={id}
          onChange={(event) => onChange(event.target.value)}
        />
      </label>
      <p id={id} className={wrong ? "mt-1 text-small text-let-go" : "sr-only"}>
        {wrong ? "That is not a time in the future. Say 17:30, 45m, 2h, or a date as 2026-12-01." : ""}
      </p>
    </div>
  );
}

function LevelShape({ level }: { level: QuietLevel }) {
  const cells = [0, 11, 22].flatMap((x) => [0, 13].map((y) => ({ x, y })));
  const kept: Record<QuietLevel, number[]> = {
    everything: [0, 1, 2, 3, 4, 5],
    "some kinds": [0, 1, 4, 5],
    "what stays": [2, 5],
    bare: [],
  };
  return (
    <svg width="30" height="24" aria-hidden="true">
      {level === "bare" ? (
        <rect x=".75" y=".75" width="28.5" height="22.5" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      ) : (
        cells.map(({ x, y }, n) =>
          kept[level].includes(n) ? (
            <rect key={`${x} ${y}`} x={x} y={y} width="8" height="10" fill="var(--ink)" />
          ) : level === "some kinds" ? (
            <rect key={`${x} ${y}`} x={x + 0.5} y={y + 0.5} width="7" height="9" fill="none" stroke="var(--ink-2)" />
          ) : null,
        )
      )}
    </svg>
  );
}
