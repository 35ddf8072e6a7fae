"use client";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { VerdictAct } from "@/contract/sitting";
import { sittingFrom, type Told } from "@/contract/told";
import type { Outcome, PileItem, SittingAround, SittingView, Verdict } from "@/contract/views";
import type { Order } from "@/core/sitting/order";
import { ask } from "../kit/ask";
import { HomePicker } from "../kit/home-picker";
import { KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useKeepsItself, useLive } from "../kit/live";
import { Pick } from "../kit/pick";
import { Glyph } from "../plan/glyph";
import { SettleFamily } from "../survey/family";
import { InUse, OnlyInUse } from "./aside";
import { Clash } from "./clash";
import { Proofs } from "./closer-look";
import { End } from "./end";
import { HomeCards } from "./home-cards";
import { InProgram } from "./in-program";
import { Look } from "./look";
import { IntoNote } from "./note";
import { Pace } from "./pace";
import { Pile, type Place } from "./pile";
import { type Refusal, useSettling } from "./settling";
import { SheetsOfSitting } from "./sheets";
import { useThings } from "./things";
import { Until } from "./until";
import { type More, Verdicts } from "./verdicts";

const offered = 5;
const looksForFree = 4000;

type Open =
  | { sheet: "home"; newTitle?: true }
  | { sheet: "wait" | "stay" | "parcel" | "find" | "notes" | "into a note" | "program" }
  | { sheet: "family"; item: string }
  | { sheet: "clash"; item: PileItem; home: HomeRef };

/** The name without its ending, and that: "tide.pdf" is "tide" and ".pdf". */
function parted(name: string): { stem: string; ending: string } {
  const [, stem = name, ending = ""] = /^(.+?)(\.[^. ]{1,15})?$/.exec(name) ?? [];
  return { stem, ending };
}

/** What is ahead cannot be asked for: it stays in the pile. */
const Late = ({ why }: { why: string }) => (
  <p role="status" className="grid size-full place-content-center p-8 text-center text-ink-2">
    {why} This waits here, and is tried again by itself.
  </p>
);

/** What is looked at needs no verdict any more. */
const Over = ({ why, onNext }: { why: string; onNext: () => void }) => (
  <div role="status" className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
    <p>{why}</p>
    <button type="button" className="go" onClick={onNext}>
      the next one
    </button>
  </div>
);

/** One thing at a time: looked at, decided with one key, and the next is there at once. */
export function Sitting({ told }: { told: Told<SittingView> }) {
  const view = useMemo(() => sittingFrom(told), [told]);
  // The pile as it was when the sitting began; what the server says later only confirms it.
  const [sitting] = useState(view);
  const of = sitting.sitting;
  const [open, setOpen] = useState<Open>();
  const close = useCallback(() => setOpen(undefined), []);
  /** The home for notes was chosen here just now, or what was given with it failed. */
  const [choseNotes, setChoseNotes] = useState<boolean>();
  const forgotten = useRef<(ids: Iterable<string>) => void>(() => {});
  const refuse = useCallback(({ item, code, asked: { act, input } }: Refusal) => {
    forgotten.current([item.id]);
    // With a first note that failed its home was not kept.
    if (act === "sitting/note" && input["home"]) setChoseNotes(undefined);
    if (code === "in-use") return "aside";
    if (code === "decided") return "gone";
    if (code === "name-there") setOpen({ sheet: "clash", item, home: input["home"] as HomeRef });
    return "pile";
  }, []);
  const settling = useSettling(of, sitting.pile, sitting.settled, refuse);
  const { next, aside, settled, settle, undo, again, drop, passOver, stillInUse, jump } = settling;
  const [order, setOrder] = useState<Order>("families first");
  const [place, setPlace] = useState<Place>("both");
  // What lies in an opened folder belongs to either worktop.
  const isMeant = (item: PileItem) => place === "both" || item.worktop === place || item.worktop === "";
  const pile = place === "both" ? settling.pile : settling.pile.filter(isMeant);
  const { things, around, over, trouble, forget, change } = useThings(pile, drop, settling, sitting);
  forgotten.current = forget;
  const notesHome = choseNotes ?? around.notes !== null;
  const [families, setFamilies] = useState(sitting.families);
  /** The parcel that was archived into last, for as long as it is collected. */
  const [into, setInto] = useState<{ title: string; at: SittingAround }>();
  const parcel = into && (into.at === around || around.parcels.includes(into.title)) ? into.title : (around.parcel ?? undefined);
  const [ended, setEnded] = useState(false);
  useKeepsItself();
  // What the person took up although a program has it open.
  const insisted = useRef(new Set<string>());

  const current = pile[0];
  const leaving = settled.findLast(({ items }) => items.length > 0);
  const thing = current && things.get(current.id);

  // What a program has open is passed over, and comes up again once it is free.
  useEffect(() => {
    if (thing?.inUse && !insisted.current.has(thing.id)) passOver(current!, thing.inUse);
  }, [thing, current, passOver]);
  useEffect(() => {
    if (aside.length === 0) return;
    let wanted = true;
    const look = () => {
      const items = aside.map(({ item }) => item.id);
      ask("sitting/in-use", { items }).then(
        (using) => {
          if (!wanted) return;
          const whys = new Map(using.map(({ id, why }) => [id, why]));
          const freed = items.filter((id) => !whys.has(id));
          if (freed.length > 0) forget(freed);
          stillInUse(whys);
        },
        () => {
          // It is asked again.
        },
      );
    };
    const timer = setInterval(look, looksForFree);
    if (aside.some(({ why }) => why === "")) look();
    return () => {
      wanted = false;
      clearInterval(timer);
    };
  }, [aside, forget, stillInUse]);

  // Loaded anew, the same sitting goes on.
  useEffect(() => window.history.replaceState(null, "", `/sitting?of=${of}`), [of]);

  const settleOne = (verdict: Outcome, act: VerdictAct, more: Record<string, unknown> = {}) => {
    // There is nothing to decide any more: the next one comes up.
    if (current && over) return drop(current.id);
    if (current && next(isMeant)?.id === current.id)
      void settle([current], verdict, { act, input: { ...more, items: [current.id] } });
  };
  const put = (home: HomeRef, title?: string) => settleOne("put away", "homes/put", { home, title, clash: "ask" });
  const wait = (until?: number) => settleOne("wait", "sitting/wait", { until });
  const archive = (into?: string) => {
    setInto({ title: into ?? parcel ?? `Archive ${new Date().getFullYear()}`, at: around });
    settleOne("archive", "sitting/archive", { parcel: into ?? parcel });
  };
  const look = useRef<HTMLDivElement>(null);
  const noteIt = (more: { into?: string; home?: HomeRef } = {}) => {
    const chosen = window.getSelection();
    const isHere = chosen?.anchorNode && look.current?.contains(chosen.anchorNode);
    const piece = (isHere && chosen.toString().trim()) || undefined;
    settleOne("note", "sitting/note", { piece, ...more });
  };
  const note = (into?: string) => (notesHome ? noteIt({ into }) : setOpen({ sheet: "notes" }));
  const give: Record<Verdict, () => void> = {
    stay: () => settleOne("stay", "sitting/stay"),
    "put away": () => (thing?.homes[0] ? put({ id: thing.homes[0].id }) : setOpen({ sheet: "home" })),
    archive: () => archive(),
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
    const act = live.act(ask(away ? "quiet/bring-back" : "quiet/hide", { items: [id] }));
    settling.noteDone(act.then((report) => (report && report.done > 0 ? (report.entry ?? undefined) : undefined)));
    void act.then((report) => {
      if (!report || report.done === 0) return;
      change(id, { outOfSight: !away });
    });
  };
  const openFolder = () => {
    if (!current || !thing?.folder) return;
    ask("sitting/open", { item: current.id }).then(({ pile: inside, families: joined, hidden }) => {
      setFamilies([...families, ...joined]);
      settling.lay(inside.map((item) => (item.family ? { ...item, family: item.family + families.length } : item)));
      const lines = [
        ...(inside.length === 0 ? ["Nothing in it is without a verdict."] : []),
        ...(hidden > 0 ? [`${hidden} hidden in it ${hidden === 1 ? "does" : "do"} not come up.`] : []),
      ];
      if (lines.length > 0) live.tell(`${current.name} is open.`, lines);
    }, live.say);
  };
  const takeUp = (id: string) => {
    insisted.current.add(id);
    forget([id]);
    jump(id);
  };
  const later = () => settling.later(isMeant);
  const { back } = settling;
  const undoLast = () => {
    const last = settled.at(-1);
    if (last?.verdict === "sight" && current) forget([current.id]);
    void undo();
  };
  useKeys({
    ...give,
    ...(away === undefined ? {} : { "out of sight": hide }),
    ...(thing?.folder ? { Enter: openFolder } : {}),
    "type a home": () => setOpen({ sheet: "home" }),
    "new titles": () => setOpen({ sheet: "home", newTitle: true }),
    "wait until": () => setOpen({ sheet: "wait" }),
    "stay until": () => setOpen({ sheet: "stay" }),
    "archive into": () => setOpen({ sheet: "parcel" }),
    "find in the pile": () => setOpen({ sheet: "find" }),
    note: () => note(),
    later,
    back,
    family: () => current && setOpen({ sheet: "family", item: current.id }),
    undo: undoLast,
    again,
    ...numbers,
  });

  const count = settled.reduce((sum, { items }) => sum + items.length, 0);
  const waits = settled.flatMap(({ items, verdict }) => (verdict === "wait" ? items : [])).filter(({ due }) => due === undefined);
  // Those that were given since it was asked how it stands come on top.
  const [counted, setCounted] = useState({ around, waits: waits.length });
  if (counted.around !== around) setCounted({ around, waits: waits.length });
  const waiting = around.waiting + waits.length - counted.waits;
  const sheets = <SheetsOfSitting now="pile" waiting={waiting} projects={around.projects.length} />;
  if (!current && settling.pile.length > 0)
    return (
      <div className="grid h-full place-content-center justify-items-center gap-4 text-center">
        <h1 className="text-[30px] font-medium">Everything there has a verdict.</h1>
        <button type="button" className="doing" onClick={() => setPlace("both")}>
          go on with the other worktop: {settling.pile.length} lie there
        </button>
      </div>
    );
  if (!current && aside.length > 0 && !ended) return <OnlyInUse aside={aside} onTakeUp={takeUp} onEnd={() => setEnded(true)} />;
  if (!current) return <End sitting={of} settled={count} waiting={waiting} onUndo={undoLast} />;
  const more: More[] = [
    ...(thing?.folder ? [{ words: "open it, thing by thing", key: "Enter", act: openFolder }] : []),
    { words: "as a note", command: "note", act: () => note() },
    { words: "into a note there is", act: () => setOpen({ sheet: notesHome ? "into a note" : "notes" }) },
    { words: "away with a new title", command: "new titles", act: () => setOpen({ sheet: "home", newTitle: true }) },
    { words: "stay until …", command: "stay until", act: () => setOpen({ sheet: "stay" }) },
    { words: "wait until …", command: "wait until", act: () => setOpen({ sheet: "wait" }) },
    { words: "another parcel", command: "archive into", act: () => setOpen({ sheet: "parcel" }) },
    { words: "its family", command: "family", act: () => setOpen({ sheet: "family", item: current.id }) },
    ...(away === undefined
      ? []
      : [{ words: away ? "back in sight" : "out of sight", command: "out of sight", act: hide } as const]),
    ...(thing?.program ? [{ words: "in its program", act: () => setOpen({ sheet: "program" }) }] : []),
    { words: "later", command: "later", act: later },
    { words: "back", command: "back", act: back },
  ];
  return (
    <div className="grid h-full min-h-[640px] grid-cols-[minmax(160px,236px)_minmax(460px,1fr)_minmax(160px,236px)] gap-x-(--aside) px-7 pt-4 pb-4 [--aside:clamp(24px,5vw,66px)] max-[900px]:h-auto max-[900px]:grid-cols-[minmax(0,1fr)] max-[900px]:gap-y-5">
      <div className="flex flex-col">
        {sheets}
        <HomeCards homes={(thing?.homes ?? []).slice(0, 3)} first={1} onPut={put} joined />
        <Pile
          pile={pile}
          families={families}
          order={order}
          onOrder={(wanted) => {
            setOrder(wanted);
            settling.arrange(wanted);
          }}
          place={place}
          onPlace={setPlace}
          onJump={takeUp}
          onFind={() => setOpen({ sheet: "find" })}
        />
      </div>
      <div className="flex min-h-0 flex-col max-[900px]:order-first">
        <div
          ref={look}
          className="relative min-h-0 flex-1 border max-[900px]:min-h-[280px] border-ink bg-sheet"
          data-look={thing ? thing.id : undefined}
        >
          {over ? (
            <Over why={over.why} onNext={() => drop(over.id)} />
          ) : thing ? (
            <Look thing={thing} />
          ) : trouble ? (
            <Late why={trouble} />
          ) : (
            <Coming item={current} />
          )}
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
        <h1 className="mt-2.5 text-head leading-[1.2] font-semibold break-words">
          <bdi>{current.name}</bdi>
        </h1>
        <p className="mt-0.5 mb-1 text-ink-2">{thing ? thing.facts.join(" · ") : current.kind}</p>
        <div className="min-h-[50px]">{thing && <Proofs thing={thing} />}</div>
        <Verdicts give={give} thing={thing} parcel={parcel} more={more} />
      </div>
      <div className="flex flex-col">
        <button
          type="button"
          onClick={() => setOpen({ sheet: "home" })}
          className="flex justify-between border-b-[1.5px] border-ink py-1.5 text-left text-ink-2"
        >
          <span>type a home, or a new one</span>
          <KeyOf command="type a home" />
        </button>
        <div className="h-3.5" />
        <HomeCards homes={(thing?.homes ?? []).slice(3, offered)} first={4} onPut={put} />
        {sitting.before && count === 0 && <p className="mb-3 text-small text-ink-2">{sitting.before}</p>}
        <InUse aside={aside} onTakeUp={takeUp} />
        <Pace pile={pile} times={sitting.times} settled={settled} />
      </div>
      {open?.sheet === "home" && (
        <HomePicker
          open
          onClose={close}
          title={`Put ${current.name} away`}
          naming={open.newTitle || !thing?.folder ? parted(current.name) : undefined}
          onPick={(home, _, newTitle) => {
            close();
            put(home, newTitle);
          }}
        />
      )}
      {open?.sheet === "notes" && (
        <HomePicker
          open
          onClose={close}
          title="In which home do your notes lie?"
          onPick={(home) => {
            close();
            setChoseNotes(true);
            noteIt({ home });
          }}
        />
      )}
      {open?.sheet === "into a note" && (
        <IntoNote
          name={current.name}
          onClose={close}
          onPick={(into) => {
            close();
            noteIt({ into });
          }}
        />
      )}
      {open?.sheet === "program" && <InProgram item={current.id} name={current.name} onClose={close} />}
      {open?.sheet === "family" && (
        <SettleFamily
          item={open.item}
          onClose={close}
          onVerdict={(ids, verdict, wanted) => {
            const chosen = new Set(ids);
            void settle(
              settling.pile.filter((item) => chosen.has(item.id)),
              verdict,
              wanted,
            );
          }}
        />
      )}
      {open?.sheet === "clash" && (
        <Clash
          item={open.item}
          home={open.home}
          onClose={close}
          onBoth={() => {
            close();
            void settle([open.item], "put away", { act: "homes/put", input: { home: open.home, items: [open.item.id] } });
          }}
          onTitle={(title) => {
            close();
            void settle([open.item], "put away", {
              act: "homes/put",
              input: { home: open.home, items: [open.item.id], title, clash: "ask" },
            });
          }}
          onLetGo={() => {
            close();
            void settle([open.item], "let go", { act: "sitting/let-go", input: { items: [open.item.id] } });
          }}
        />
      )}
      {(open?.sheet === "wait" || open?.sheet === "stay") && (
        <Until
          verdict={open.sheet}
          onClose={close}
          onPick={(until) => {
            close();
            if (open.sheet === "wait") wait(until);
            else settleOne("stay", "sitting/stay", { until });
          }}
          projects={around.projects}
          onProject={
            open.sheet === "stay"
              ? (project) => {
                  close();
                  settleOne("stay", "sitting/stay", { project });
                }
              : undefined
          }
        />
      )}
      {open?.sheet === "parcel" && (
        <Pick
          open
          onClose={close}
          title={`Archive ${current.name}`}
          placeholder="type a parcel, or a new one"
          choices={around.parcels.map((title) => ({ id: title, title }))}
          empty="There is no parcel yet. Type a name for one."
          make="begin"
          onPick={({ title }) => {
            close();
            archive(title);
          }}
          onMake={(title) => {
            close();
            archive(title);
          }}
        />
      )}
      {open?.sheet === "find" && (
        <Pick
          open
          onClose={close}
          title="Find a thing in the pile"
          placeholder="letters of its name"
          choices={pile.map(({ id, name, kind }) => ({ id, title: name, note: kind }))}
          empty="Nothing on the pile is called that."
          onPick={({ id }) => {
            close();
            takeUp(id);
          }}
        />
      )}
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
