"use client";
import Link from "next/link";
import { useMemo, useState } from "react";
import { quietFrom, type Told } from "@/contract/told";
import type { QuietView } from "@/contract/views";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { useLive } from "../kit/live";
import { LongList } from "../kit/long-list";
import { Name } from "../kit/name";
import { useSize } from "../kit/size";
import { Glyph } from "../plan/glyph";
import { DrawnScreen } from "./drawn-screen";

/** How much the screen shows, the screen as it is now, and the way to what is out of sight. */
export function Quiet({ told }: { told: Told<QuietView> }) {
  const view = useMemo(() => quietFrom(told), [told]);
  const live = useLive();
  const [busy, setBusy] = useState(false);
  const [box, size] = useSize<HTMLDivElement>({ width: 716, height: 520 });
  const show = (level: QuietView["levels"][number]["level"]) => {
    if (busy) return;
    setBusy(true);
    void live.act(ask("quiet/show", { level })).finally(() => setBusy(false));
  };
  const { sheet } = view;
  const away = view.outOfSight.length;
  const width = sheet
    ? Math.max(320, Math.min(size.width, Math.floor(((size.height - 30) * sheet.width) / (sheet.screenHeight || sheet.height))))
    : 0;
  return (
    <div className="grid h-full min-h-[520px] grid-cols-[232px_minmax(0,1fr)_minmax(220px,260px)] gap-7 px-7 pt-5 pb-4">
      <section>
        <h1 className="mb-3 font-semibold">How much to show</h1>
        <div className="border-b border-line">
          {view.levels.map(({ level, words, now }) => (
            <button
              key={level}
              type="button"
              aria-pressed={now}
              disabled={busy}
              onClick={() => show(level)}
              className="relative block w-full border-t border-line py-3.5 pl-11 text-left hover:bg-wash"
            >
              <span className="absolute top-4 left-0">
                <LevelShape level={level} />
              </span>
              <b
                className={`block text-[19px] leading-tight font-semibold ${now ? "underline decoration-[2.5px] underline-offset-[5px]" : ""}`}
              >
                {level}
              </b>
              <span className="text-small text-ink-2">{words}</span>
            </button>
          ))}
        </div>
        <p className="mt-3.5 text-small text-ink-2">
          Nothing is deleted. {view.sentence} <KeyOf command="quiet" /> takes everything away and brings it back.
        </p>
        {view.arrived > 0 && (
          <p className="mt-3 text-small">
            {view.arrived === 1 ? "1 thing" : `${view.arrived} things`} arrived while the others were out of sight.
          </p>
        )}
      </section>
      <div ref={box} className="min-h-0 min-w-0 overflow-hidden">
        {sheet ? (
          <>
            <DrawnScreen sheet={sheet} width={width} label="the screen" />
            <p className="mt-1.5 flex justify-between gap-4 text-small text-ink-2" style={{ width }}>
              <span>
                {view.positioned
                  ? `1 : ${(sheet.width / width).toFixed(2)} of your screen · saved positions are exact to the pixel`
                  : `laid out by age: this screen does not say where icons lie, and keeps that itself${view.undrawn > 0 ? `; ${view.undrawn} more would not fit` : ""}`}
              </span>
              {view.positioned && (
                <Link className="doing whitespace-nowrap" href="/screen">
                  full size
                </Link>
              )}
            </p>
          </>
        ) : (
          <p className="text-ink-2">This account has no desktop folder, so there are no icons to take out of sight.</p>
        )}
      </div>
      <section className="flex min-h-0 flex-col">
        <h2 className="mb-3 border-b border-ink pb-2 font-semibold">
          {away === 0 ? "Everything is in sight" : `${away} out of sight`}
        </h2>
        {away === 0 ? (
          <p className="text-small text-ink-2">
            What you take out of sight is listed here, and the way to it stands in the foot of every view.
          </p>
        ) : (
          <>
            <LongList label="what is out of sight" rowHeight={26} list={view.outOfSight}>
              {(item) => (
                <span className="flex h-full items-center gap-2 text-small">
                  <Glyph kind={item.kind} width={15} />
                  <Name>{item.name}</Name>
                </span>
              )}
            </LongList>
            <button type="button" className="go mt-3 self-start" disabled={busy} onClick={() => show("everything")}>
              Bring everything back <KeyOf command="quiet" />
            </button>
          </>
        )}
      </section>
    </div>
  );
}

function LevelShape({ level }: { level: string }) {
  const cells = [0, 11, 22].flatMap((x) => [0, 13].map((y) => ({ x, y })));
  const kept = level === "everything" ? cells : [cells[2]!, cells[5]!];
  return (
    <svg width="30" height="24" aria-hidden="true">
      {level === "bare" ? (
        <rect x=".75" y=".75" width="28.5" height="22.5" fill="none" stroke="var(--ink)" strokeWidth="1.5" />
      ) : (
        kept.map(({ x, y }) => <rect key={`${x} ${y}`} x={x} y={y} width="8" height="10" fill="var(--ink)" />)
      )}
    </svg>
  );
}
