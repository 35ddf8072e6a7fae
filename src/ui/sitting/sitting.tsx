"use client";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { VerdictAct } from "@/contract/sitting";
import { sittingFrom, type Told } from "@/contract/told";
import type { PileItem, SittingView, ThingView, Verdict } from "@/contract/views";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { HomePicker } from "../kit/home-picker";
import { KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useKeepsItself, useLive } from "../kit/live";
import { VerdictShape } from "../kit/shapes";
import { useWords } from "../kit/words";
import { Glyph } from "../plan/glyph";
import { SettleFamily } from "../survey/family";
import { Proofs } from "./closer-look";
import { End } from "./end";
import { Look } from "./look";
import { Pile } from "./pile";
import { type Settled, useSettling } from "./settling";

const ahead = 4;
const offered = 5;

/** One thing at a time: looked at, decided with one key, and the next is there at once. */
export function Sitting({ told }: { told: Told<SittingView> }) {
  const view = useMemo(() => sittingFrom(told), [told]);
  // The pile as it was when the sitting began; what the server says later only confirms it.
  const [sitting] = useState(view);
  const of = sitting.sitting;
  const { pile, next, settled, settle, undo, again, drop } = useSettling(of, sitting.pile, sitting.settled);
  const [things, setThings] = useState<ReadonlyMap<string, ThingView>>(
    new Map(sitting.first ? [[sitting.first.id, sitting.first]] : []),
  );
  const [parcel, setParcel] = useState(sitting.parcel);
  const [picking, setPicking] = useState<"home" | "new">();
  const [waiting, setWaiting] = useState(false);
  const [family, setFamily] = useState<string>();
  const noFamily = useCallback(() => setFamily(undefined), []);
  useKeepsItself();
  const asked = useRef(new Set(things.keys()));

  const current = pile[0];
  const leaving = settled.at(-1);
  const thing = current && things.get(current.id);

  useEffect(() => {
    for (const item of pile.slice(0, ahead)) {
      if (asked.current.has(item.id)) continue;
      asked.current.add(item.id);
      ask("sitting/thing", { item: item.id })
        .then((found) => {
          if (found.look.form === "picture") new Image().src = `/api/looks/picture?item=${found.id}&size=large`;
          setThings((before) => new Map(before).set(found.id, found));
        })
        // Gone meanwhile: it leaves the pile by itself.
        .catch(() => drop(item.id));
    }
  }, [pile, drop]);

  // Loaded anew, the same sitting goes on.
  useEffect(() => window.history.replaceState(null, "", `/sitting?of=${of}`), [of]);

  const settleOne = (verdict: Verdict, act: VerdictAct, more: Record<string, unknown> = {}) =>
    current && next() === current && void settle([current], verdict, { act, input: { ...more, items: [current.id] } });
  const put = (home: HomeRef) => settleOne("put away", "homes/put", { home });
  const wait = (until?: number) => settleOne("wait", "sitting/wait", { until });
  const give: Record<Verdict, () => void> = {
    stay: () => settleOne("stay", "sitting/stay"),
    "put away": () => (thing?.homes[0] ? put({ id: thing.homes[0].id }) : setPicking("home")),
    archive: () => {
      setParcel((before) => before ?? `Archive ${new Date().getFullYear()}`);
      settleOne("archive", "sitting/archive");
    },
    wait: () => wait(),
    "let go": () => settleOne("let go", "sitting/let-go"),
  };
  const numbers = Object.fromEntries(
    (thing?.homes ?? []).slice(0, offered).map((home, n) => [String(n + 1), () => put({ id: home.id })]),
  );
  const live = useLive();
  const away = thing?.outOfSight;
  const hide = () => {
    if (!current || away === undefined) return;
    const { id } = current;
    void live.act(ask(away ? "quiet/bring-back" : "quiet/hide", { items: [id] })).then((report) => {
      if (report && report.done > 0)
        setThings((before) => {
          const known = before.get(id);
          return known ? new Map(before).set(id, { ...known, outOfSight: !away }) : before;
        });
    });
  };
  useKeys({
    ...give,
    ...(away === undefined ? {} : { "out of sight": hide }),
    "type a home": () => setPicking("home"),
    "wait until": () => setWaiting(true),
    family: () => current && setFamily(current.id),
    undo,
    again,
    ...numbers,
  });

  if (!current) return <End sitting={of} settled={settled.reduce((sum, { items }) => sum + items.length, 0)} onUndo={undo} />;
  return (
    <div className="grid h-full min-h-[640px] grid-cols-[minmax(160px,236px)_minmax(460px,1fr)_minmax(160px,236px)] gap-x-(--aside) px-7 pt-5 pb-4 [--aside:clamp(24px,5vw,66px)] max-[900px]:h-auto max-[900px]:grid-cols-[minmax(0,1fr)] max-[900px]:gap-y-5">
      <div className="flex flex-col">
        <HomeCards homes={(thing?.homes ?? []).slice(0, 3)} first={1} onPut={put} joined />
        <Pile pile={pile} />
      </div>
      <div className="flex min-h-0 flex-col max-[900px]:order-first">
        <div className="relative min-h-0 flex-1 border max-[900px]:min-h-[280px] border-ink bg-sheet">
          {thing ? <Look thing={thing} /> : <Coming item={current} />}
          {leaving && (
            <div
              key={leaving.items[0]!.id}
              aria-hidden="true"
              className={`leave-${leaving.verdict.replace(" ", "-")} pointer-events-none absolute inset-0 grid place-content-center border border-ink bg-sheet`}
            >
              <Glyph kind={leaving.items[0]!.kind} width={64} tone="var(--ink-3)" />
            </div>
          )}
        </div>
        <h1 className="mt-3 text-head leading-[1.2] font-semibold break-words">
          <bdi>{current.name}</bdi>
        </h1>
        <p className="mt-0.5 mb-1 text-ink-2">{thing ? thing.facts.join(" · ") : current.kind}</p>
        <div className="min-h-[50px]">{thing && <Proofs thing={thing} />}</div>
        <Verdicts
          give={give}
          thing={thing}
          parcel={parcel}
          onDate={() => setWaiting(true)}
          onFamily={() => setFamily(current.id)}
          onHide={hide}
        />
      </div>
      <div className="flex flex-col">
        <button
          type="button"
          onClick={() => setPicking("home")}
          className="flex justify-between border-b-[1.5px] border-ink py-1.5 text-left text-ink-2"
        >
          <span>type a home, or a new one</span>
          <KeyOf command="type a home" />
        </button>
        <div className="h-3.5" />
        <HomeCards homes={(thing?.homes ?? []).slice(3, offered)} first={4} onPut={put} />
        <Pace left={pile.length} pace={sitting.pace} settled={settled} />
      </div>
      <HomePicker
        open={picking !== undefined}
        onClose={() => setPicking(undefined)}
        title={`Put ${current.name} away`}
        onPick={(home) => {
          setPicking(undefined);
          put(home);
        }}
      />
      {family && (
        <SettleFamily
          item={family}
          onClose={noFamily}
          onVerdict={(ids, verdict, asked) => {
            const chosen = new Set(ids);
            void settle(
              pile.filter((item) => chosen.has(item.id)),
              verdict,
              asked,
            );
          }}
        />
      )}
      <WaitUntil
        open={waiting}
        onClose={() => setWaiting(false)}
        onPick={(until) => {
          setWaiting(false);
          wait(until);
        }}
      />
    </div>
  );
}

function Coming({ item }: { item: PileItem }) {
  return (
    <div className="grid size-full place-content-center">
      <Glyph kind={item.kind} width={64} tone="var(--ink-3)" />
    </div>
  );
}

function HomeCards({
  homes,
  first,
  onPut,
  joined = false,
}: {
  homes: ThingView["homes"];
  first: number;
  onPut: (home: HomeRef) => void;
  joined?: boolean;
}) {
  if (homes.length === 0)
    return joined ? <p className="text-small text-ink-2">No home is sure for this one. Type one, or a new one.</p> : null;
  return (
    <ol>
      {homes.map((home, n) => {
        const surest = joined && n === 0;
        const parts = home.title.split(" / ");
        return (
          <li key={home.id} className="relative mb-3.5">
            <button
              type="button"
              onClick={() => onPut({ id: home.id })}
              className={`block min-h-[84px] w-full bg-sheet px-3 py-2 text-left hover:bg-wash ${surest ? "border-2 border-verdigris" : "border border-line"}`}
            >
              <span
                className={`float-right -mt-2 -mr-3 ml-2 grid h-[26px] w-[26px] place-content-center border font-bold ${surest ? "border-verdigris bg-verdigris text-sheet" : "border-line bg-ground"}`}
              >
                {first + n}
              </span>
              <span className="block text-[11px] text-ink-2">{parts.slice(0, -2).join(" / ")}</span>
              <b className="block text-[15px] leading-tight font-[650]">{parts.slice(-2).join(" / ")}</b>
              <span className="mt-0.5 block text-[12px] leading-[1.3] text-ink-2">{home.why}</span>
            </button>
            {surest && <span aria-hidden="true" className="absolute top-10 left-full w-(--aside) border-t-2 border-verdigris" />}
          </li>
        );
      })}
    </ol>
  );
}

function Verdicts({
  give,
  thing,
  parcel,
  onDate,
  onFamily,
  onHide,
}: {
  give: Record<Verdict, () => void>;
  thing?: ThingView;
  parcel?: string;
  onDate: () => void;
  onFamily: () => void;
  onHide: () => void;
}) {
  const list: [Verdict, string][] = [
    ["stay", "in use; leave it lying"],
    ["put away", thing?.homes[0] ? "into home 1, or press its number" : "type a home, or a new one"],
    ["archive", parcel ? `into the parcel “${parcel}”` : "into a new parcel"],
    ["wait", "ask again in 30 days"],
    ["let go", "to the trash, and back"],
  ];
  return (
    <div className="mt-2">
      <div className="grid grid-cols-5 border border-ink bg-sheet">
        {list.map(([verdict, words], n) => (
          <button
            key={verdict}
            type="button"
            onClick={give[verdict]}
            className={`relative flex h-[92px] flex-col items-start px-3 pt-2.5 pb-2 text-left hover:bg-wash ${n > 0 ? "border-l border-line" : ""}`}
          >
            <VerdictShape verdict={verdict} />
            <span className="absolute top-2.5 right-2">
              <KeyOf command={verdict} />
            </span>
            <b className="mt-1 block text-[16px] leading-tight font-[650]">{verdict}</b>
            <span className="line-clamp-2 text-[11.5px] leading-[1.25] text-ink-2">{words}</span>
          </button>
        ))}
      </div>
      <p className="mt-1 flex justify-end gap-4 text-[12px]">
        {thing?.outOfSight !== undefined && (
          <button type="button" className="doing" onClick={onHide}>
            {thing.outOfSight ? "back in sight" : "out of sight"} <KeyOf command="out of sight" />
          </button>
        )}
        <button type="button" className="doing" onClick={onFamily}>
          its family <KeyOf command="family" />
        </button>
        <button type="button" className="doing" onClick={onDate}>
          wait until a date <KeyOf command="wait until" />
        </button>
      </p>
    </div>
  );
}

const perVerdictMinutes = 60_000;

/** A look that took longer was an interruption and says nothing about the pace. */
const longestLook = 120_000;
const fewest = 10;

function Pace({ left, pace: before, settled }: { left: number; pace?: number; settled: readonly Settled[] }) {
  const gone = settled.filter(({ verdict }) => verdict === "let go" || verdict === "put away");
  // A family's time is shared by all in it.
  const words = useWords();
  const looks = settled
    .flatMap(({ items, tookMs }) => items.map(() => tookMs / items.length))
    .filter((ms) => ms > 0 && ms <= longestLook);
  const pace = looks.length >= fewest ? looks.reduce((sum, ms) => sum + ms, 0) / looks.length : before;
  const minutes = pace === undefined ? undefined : Math.max(1, Math.round((pace * left) / perVerdictMinutes));
  return (
    <div className="mt-auto text-right text-small text-ink-2">
      {minutes !== undefined ? (
        <>
          <b className="block text-[30px] leading-[1.1] font-medium tracking-[-0.02em] text-ink">{minutes} min</b>
          left at your pace
        </>
      ) : (
        "your pace is known after ten verdicts"
      )}
      <br />
      {settled.reduce((sum, { items }) => sum + items.length, 0)} settled,{" "}
      {words.bytes(gone.flatMap(({ items }) => items).reduce((sum, item) => sum + item.bytes, 0))} moved off
    </div>
  );
}

const day = 86_400_000;

function WaitUntil({ open, onClose, onPick }: { open: boolean; onClose: () => void; onPick: (until: number) => void }) {
  const iso = (at: number) => new Date(at).toLocaleDateString("sv-SE");
  const [date, setDate] = useState(() => iso(Date.now() + 30 * day));
  const tomorrow = iso(Date.now() + day);
  return (
    <Dialog open={open} onClose={onClose} title="Wait until">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          const [y, m, d] = date.split("-").map(Number);
          if (y && m && d) onPick(new Date(y, m - 1, d).getTime());
        }}
      >
        <div className="mb-4 flex flex-wrap gap-4">
          {(
            [
              ["a week", 7],
              ["a month", 30],
              ["three months", 91],
              ["a year", 365],
            ] as const
          ).map(([words, days]) => (
            <button key={words} type="button" className="doing" onClick={() => onPick(Date.now() + days * day)}>
              {words}
            </button>
          ))}
        </div>
        <label className="mb-4 block">
          or a date
          <input
            type="date"
            required
            min={tomorrow}
            className="field mt-1"
            value={date}
            onChange={(event) => setDate(event.target.value)}
          />
        </label>
        <button type="submit" className="go">
          Wait until then
        </button>
      </form>
    </Dialog>
  );
}
