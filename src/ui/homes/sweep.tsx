"use client";
import { useRouter } from "next/navigation";
import { useCallback, useMemo, useState } from "react";
import type { HomeRef } from "@/contract/homes";
import { sweepFrom, type Told } from "@/contract/told";
import type { BelongView, SlotView, SweepView } from "@/contract/views";
import { ask } from "../kit/ask";
import { HomePicker } from "../kit/home-picker";
import { Key, KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useLeftOut } from "../kit/left-out";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { things } from "../kit/numbers";
import { useWords } from "../kit/words";
import { BelongSheet } from "./belong-sheet";
import { Dragging, Landing } from "./drag";
import { FilingPlan } from "./filing-plan";
import { Gather } from "./gather";
import { NewTitles } from "./new-titles";
import { Groups } from "./overlooked";
import { Prepare } from "./prepare";
import { TakeAll } from "./take-all";

/** Homes as open slots; what belongs to the chosen one, surest first, up to the cut; one act takes it. */
export function Sweep({ told }: { told: Told<SweepView> }) {
  const view = useMemo(() => sweepFrom(told), [told]);
  const router = useRouter();
  const live = useLive();
  const [picking, setPicking] = useState(false);
  const [takingAll, setTakingAll] = useState(false);
  const notTakingAll = useCallback(() => setTakingAll(false), []);
  const { chosen, sheet } = view;
  const open = (id: string) => router.push(`/homes?home=${id}`);
  const sureThings = view.ready.reduce((sum, home) => sum + home.count, 0);
  const sheets = [
    { id: "belongs", words: `what belongs ${sureThings}` },
    { id: "overlooked", words: `overlooked ${view.overlookedCount}` },
    ...(view.finerCount > 0 || sheet === "finer" ? [{ id: "finer", words: `in broad homes ${view.finerCount}` } as const] : []),
    { id: "prepare", words: "new homes" },
    { id: "plan", words: "filing plan" },
    { id: "gather", words: "gather and set out" },
  ] as const;
  const pick = (home: HomeRef) => {
    setPicking(false);
    if ("id" in home) return open(home.id);
    const work = ask("homes/add", { homes: [home] });
    void live.act(work).then(async (report) => report && open((await work).homes[0]!.id));
  };
  const slotKeys = Object.fromEntries(view.slots.map((slot, n) => [String(n + 1), () => open(slot.id)]));
  useKeys({
    ...slotKeys,
    "another home": () => setPicking(true),
    everything: () => sureThings > 0 && setTakingAll(true),
    overlooked: () => router.push("/homes?sheet=overlooked"),
    finer: () => router.push("/homes?sheet=finer"),
    suggested: () => router.push("/homes?sheet=prepare"),
    plan: () => router.push("/homes?sheet=plan"),
    gather: () => router.push("/homes?sheet=gather"),
  });

  const drop = (item: string, home: string) => void live.act(ask("homes/put", { home: { id: home }, items: [item] }));
  return (
    <Dragging onDrop={drop}>
      <div className="flex h-full min-h-[560px] flex-col px-7 pt-5 pb-4">
        <div className="grid shrink-0 grid-cols-7 items-end gap-2.5 max-[900px]:auto-cols-[8.5rem] max-[900px]:grid-flow-col max-[900px]:grid-cols-none max-[900px]:overflow-x-auto">
          {view.slots.map((slot, n) => (
            <Landing key={slot.id} home={slot.id}>
              {(over) => (
                <Slot
                  slot={slot}
                  n={n + 1}
                  now={over || (slot.id === chosen?.id && sheet === "belongs")}
                  onOpen={() => open(slot.id)}
                />
              )}
            </Landing>
          ))}
          <button
            type="button"
            onClick={() => setPicking(true)}
            className="relative flex h-28 flex-col justify-end border border-t-0 border-dashed border-ink-3 px-2.5 pb-2 text-left hover:bg-wash"
          >
            <span className="absolute top-2 right-2">
              <KeyOf command="another home" />
            </span>
            <b className="leading-tight font-[650]">another home</b>
            <span className="text-[12px] text-ink-2">found, or made here</span>
          </button>
        </div>
        <nav aria-label="sheets of homes" className="mt-4 flex flex-wrap items-baseline gap-x-5 gap-y-1 text-[12px] text-ink-2">
          {sheets.map(({ id, words }) => (
            <Link
              key={id}
              href={id === "belongs" ? "/homes" : `/homes?sheet=${id}`}
              aria-current={id === sheet ? "true" : undefined}
              className={id === sheet ? "border-b-2 border-ink font-semibold text-ink" : "hover:text-ink"}
            >
              {words}
            </Link>
          ))}
          {sureThings > 0 && (
            <button type="button" className="doing ml-auto" onClick={() => setTakingAll(true)}>
              take everything sure, into every home <KeyOf command="everything" />
            </button>
          )}
        </nav>
        {sheet === "overlooked" ? (
          <Groups key="overlooked" of="overlooked" groups={view.overlooked} />
        ) : sheet === "finer" ? (
          <Groups key="finer" of="finer" groups={view.finer} />
        ) : sheet === "prepare" ? (
          <Prepare suggested={view.suggested} />
        ) : sheet === "plan" ? (
          <FilingPlan homes={view.plan} />
        ) : sheet === "gather" ? (
          <Gather worktops={view.worktops} />
        ) : chosen ? (
          <Belongs key={chosen.id + chosen.rows.map((row) => row.tile.id).join()} chosen={chosen} view={view} />
        ) : (
          <div className="grid flex-1 place-content-center gap-3 text-center">
            <h1 className="text-say font-medium">Nothing surely belongs to a home yet.</h1>
            <p className="text-ink-2">Choose or make a home; what resembles the things in it is found by name and kind.</p>
            <p className="flex flex-wrap justify-center gap-x-6">
              <button type="button" className="doing" onClick={() => setPicking(true)}>
                choose or make one
              </button>
              <Link className="doing" href="/homes?sheet=prepare">
                see which new homes are suggested
              </Link>
            </p>
          </div>
        )}
        {takingAll && <TakeAll onClose={notTakingAll} />}
        <HomePicker open={picking} onClose={() => setPicking(false)} onPick={pick} title="Another home" />
      </div>
    </Dragging>
  );
}

function Slot({ slot, n, now, onOpen }: { slot: SlotView; n: number; now: boolean; onOpen: () => void }) {
  const whole = slot.taken + slot.ready;
  const words = [slot.taken > 0 ? `${slot.taken} taken` : "", slot.ready > 0 ? `${slot.ready} ready` : ""]
    .filter(Boolean)
    .join(", ");
  return (
    <button
      type="button"
      onClick={onOpen}
      aria-pressed={now}
      className={`relative flex h-28 w-full flex-col justify-end border-t-0 px-2.5 pb-2 text-left ${now ? "border-2 border-t-0 border-verdigris bg-wash" : "border border-t-0 border-line bg-sheet hover:bg-wash"}`}
    >
      {whole > 0 && slot.taken > 0 && (
        <span
          aria-hidden="true"
          className="hatch absolute inset-x-0 bottom-0 border-t border-ink-3"
          style={{ height: `${Math.round((90 * slot.taken) / whole)}%` }}
        />
      )}
      <span className="absolute top-2 right-2">
        <Key>{String(n)}</Key>
      </span>
      <span className="relative w-full">
        {slot.above && <span className="block truncate text-[11px] text-ink-2">{slot.above}</span>}
        <b className={`line-clamp-2 leading-[1.15] font-[650] ${slot.taken > 0 ? "bg-sheet/80" : ""}`}>{slot.title}</b>
        <span className={`text-[12px] text-ink-2 ${slot.taken > 0 ? "bg-sheet/90" : ""}`}>
          {words || "nothing yet"}
          {slot.synchronised && <span className="block">synchronised, not archived</span>}
        </span>
      </span>
      {now && <span aria-hidden="true" className="absolute -bottom-[15px] left-1/2 h-[14px] border-l-2 border-verdigris" />}
    </button>
  );
}

function Belongs({ chosen, view }: { chosen: NonNullable<SweepView["chosen"]>; view: SweepView }) {
  const live = useLive();
  const words = useWords();
  const { rows } = chosen;
  const [cut, setCut] = useState(chosen.cut);
  const [left, toggle] = useLeftOut();
  const [at, setAt] = useState(0);
  const [busy, setBusy] = useState(false);
  const [elsewhere, setElsewhere] = useState<BelongView>();
  const [titling, setTitling] = useState(false);
  const taking = rows.slice(0, cut).filter((row) => !left.has(row.tile.id));
  const bytes = taking.reduce((sum, row) => sum + row.tile.bytes, 0);
  const share = view.shareOf && taking.reduce((sum, row) => sum + (view.shareOf?.[row.tile.id] ?? 0), 0);
  const move = (by: number) => setCut((now) => Math.min(rows.length, Math.max(0, now + by)));
  const take = () => {
    if (taking.length === 0 || busy) return;
    setBusy(true);
    void live
      .act(ask("homes/sweep", { home: { id: chosen.id }, items: taking.map((row) => row.tile.id) }))
      .finally(() => setBusy(false));
  };
  useKeys({
    ArrowLeft: () => move(-1),
    ArrowRight: () => move(1),
    ArrowUp: () => setAt((n) => Math.max(0, n - 1)),
    ArrowDown: () => setAt((n) => Math.min(rows.length - 1, n + 1)),
    "leave out": () => rows[at] && toggle(rows[at].tile.id),
    Enter: take,
    "put away": () => rows[at] && setElsewhere(rows[at]),
    "new titles": () => taking.length > 0 && setTitling(true),
  });

  return (
    <>
      <div className="mt-3 mb-3 flex items-baseline gap-4">
        <h1 className="min-w-0 text-[24px] leading-tight font-medium">
          {chosen.cut > 0 && <b className="border-b-2 border-verdigris font-bold">{things(chosen.cut)}</b>}
          {chosen.cut > 0
            ? ` ${chosen.cut === 1 ? "belongs" : "belong"} to ${chosen.title}`
            : `Nothing more surely belongs to ${chosen.title}`}
          {rows.length > chosen.cut ? `; ${rows.length - chosen.cut} might.` : "."}
        </h1>
        {rows.length > 0 && (
          <span className="ml-auto text-[13px] whitespace-nowrap text-ink-2">
            surest first · drag the cut, or press <Key>←</Key> <Key>→</Key> · <KeyOf command="leave out" /> leaves one out
          </span>
        )}
      </div>
      <BelongSheet rows={rows} cut={cut} left={left} at={at} onAt={setAt} onToggle={toggle} onCut={setCut} />
      <div className="mt-3 flex items-center gap-6 border-t-2 border-ink pt-3">
        <button type="button" className="go whitespace-nowrap" onClick={take} disabled={taking.length === 0 || busy}>
          Take {taking.length} <Key>↵</Key>
        </button>
        <button type="button" className="doing whitespace-nowrap" disabled={taking.length === 0} onClick={() => setTitling(true)}>
          with new titles <KeyOf command="new titles" />
        </button>
        {titling && (
          <NewTitles
            items={taking.map((row) => row.tile.id)}
            home={{ ref: { id: chosen.id }, title: chosen.title }}
            onClose={() => setTitling(false)}
          />
        )}
        <p className="text-[13px] text-ink-2">
          <b className="font-semibold text-ink">{words.bytes(bytes)}</b> leave the worktops
          {share !== undefined && (
            <>
              , up to <b className="font-semibold text-ink">{(share * 100).toFixed(1)} %</b> of the screen comes free
            </>
          )}
          .
        </p>
        <p className="ml-auto text-[13px] whitespace-nowrap text-ink-2">
          drag one to any home, or <KeyOf command="put away" /> types it
        </p>
        <HomePicker
          open={elsewhere !== undefined}
          onClose={() => setElsewhere(undefined)}
          title={`Put ${elsewhere?.tile.name ?? "it"} away`}
          onPick={(home) => {
            setElsewhere(undefined);
            if (elsewhere) void live.act(ask("homes/put", { home, items: [elsewhere.tile.id] }));
          }}
        />
      </div>
    </>
  );
}
