"use client";
import { useCallback, useMemo, useState } from "react";
import type { ReportJson } from "@/contract/items";
import { quietFrom, type Told } from "@/contract/told";
import type { QuietView } from "@/contract/views";
import { HollowSheet } from "../hollow/hollow";
import { ask } from "../kit/ask";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { icons } from "../kit/numbers";
import { sinceMark, useSince } from "../kit/since";
import { useSize } from "../kit/size";
import { LayoutsSheet } from "../layouts/layouts";
import { CloserLook } from "../sitting/closer-look";
import { StraightenSheet } from "../straighten/straighten";
import { DrawnScreen } from "./drawn-screen";
import { type Asked, HowMuch } from "./how-much";
import { Occasions } from "./occasions";
import { OutOfSight } from "./out-of-sight";
import { OwnKey } from "./own-key";
import { awayBy, drawnBy, iconsOf, screenHeight, type Tried } from "./shown";

/** How much the screen shows, the screen as it is or would be, and the way to what is out of sight. */
export function Quiet({ told, sheet: paper }: { told: Told<QuietView>; sheet?: string }) {
  const view = useSince(told, quietFrom, sinceMark);
  const live = useLive();
  const [busy, setBusy] = useState(false);
  const [tried, setTried] = useState<Tried>();
  // What was tried before it changed is no trial of what is shown now.
  const how = `${view.level} ${view.kinds.join()}`;
  const [lastHow, setLastHow] = useState(how);
  if (lastHow !== how) {
    setLastHow(how);
    setTried(undefined);
  }
  const [looked, setLooked] = useState<string>();
  const close = useCallback(() => setLooked(undefined), []);
  const [box, size] = useSize<HTMLDivElement>({ width: 716, height: 520 });
  const act = (work: () => Promise<ReportJson>) => {
    if (busy) return;
    setBusy(true);
    setTried(undefined);
    void live.act(work()).finally(() => setBusy(false));
  };
  const show = (asked: Asked) => act(() => ask("quiet/show", asked));
  const bring = (items: string[]) => act(() => ask("quiet/bring-back", { items }));
  const away = useMemo(() => awayBy(view, tried), [view, tried]);
  const all = iconsOf(view.sheet?.tiles ?? []).length;
  const { tiles, undrawn } = useMemo(() => drawnBy(view, away), [view, away]);
  const { sheet } = view;
  const height = screenHeight(view);
  const width = sheet
    ? Math.max(320, Math.min(size.width, Math.floor(((size.height - 170) * sheet.width) / Math.max(1, height))))
    : 0;
  if (paper === "key") return <OwnKey view={view} />;
  if (paper === "hollows") return <HollowSheet view={view} />;
  if (paper === "layouts") return <LayoutsSheet view={view} />;
  if (paper === "straighten") return <StraightenSheet view={view} />;
  return (
    <div className="grid h-full min-h-[520px] grid-cols-[248px_minmax(0,1fr)_minmax(220px,260px)] gap-7 px-7 pt-5 pb-4 max-[900px]:h-auto max-[900px]:grid-cols-1">
      <HowMuch
        key={`${view.level} ${view.kinds.join()} ${view.along}`}
        view={view}
        busy={busy}
        tried={tried}
        onTry={setTried}
        onShow={show}
      />
      <div ref={box} className="min-h-0 min-w-0 overflow-auto max-[900px]:h-[520px]">
        {sheet ? (
          <>
            <DrawnScreen
              sheet={sheet}
              tiles={tiles}
              width={width}
              height={height}
              label={tried ? "the screen as it would be" : "the screen"}
            />
            <p className="mt-1.5 flex justify-between gap-4 text-small text-ink-2" style={{ width }}>
              <span>
                {tried ? (
                  <b className="font-semibold text-ink">
                    Like this, {icons(all - away.size)} of {all} would be in sight.
                  </b>
                ) : view.positioned ? (
                  `1 : ${(sheet.width / width).toFixed(2)} of your screen; saved positions are exact to the pixel`
                ) : (
                  `This screen does not tell where its icons lie, so they are drawn by age here${undrawn > 0 ? `; ${undrawn} more would not fit` : ""}`
                )}
              </span>
              <span className="flex gap-4 whitespace-nowrap">
                {view.placesIcons && (
                  <Link className="doing" href="/quiet?sheet=straighten">
                    straighten
                  </Link>
                )}
                <Link className="doing" href="/quiet?sheet=layouts">
                  layouts
                </Link>
                <Link className="doing" href="/quiet?sheet=hollows">
                  hollows
                </Link>
                <Link className="doing" href="/quiet?sheet=key">
                  a key of your own
                </Link>
                {view.positioned && (
                  <Link className="doing" href="/screen">
                    full size
                  </Link>
                )}
              </span>
            </p>
            <Occasions view={view} busy={busy} onAct={act} />
          </>
        ) : (
          <p className="text-ink-2">This account has no desktop folder, so there are no icons to take out of sight.</p>
        )}
      </div>
      <section className="flex min-h-0 flex-col max-[900px]:h-[420px]">
        <State view={view} busy={busy} onShow={show} />
        <OutOfSight
          view={view}
          busy={busy}
          onLook={setLooked}
          onBring={bring}
          onEverything={() => show({ level: "everything", kinds: [] })}
        />
      </section>
      <CloserLook item={looked} onClose={close} />
    </div>
  );
}

/** What is not as one might think: what arrived, what is in use, when it ends. */
function State({ view, busy, onShow }: { view: QuietView; busy: boolean; onShow: (asked: Asked) => void }) {
  const { arrived, inUse, gone, until, level, kinds, along } = view;
  const again = { level, kinds, along };
  return (
    <>
      {view.doubt ? (
        <p className="mb-3 border-l-4 border-ink pl-3 text-small">
          {view.doubt === "clock" ? "This computer's clock was set back" : "This computer's time zone changed under an occasion"},
          so it cannot be told what is over. All stays out of sight until you say.
        </p>
      ) : (
        until && (
          <p className="mb-3 border-l-4 border-ink pl-3 text-small">
            Everything comes back: <b className="font-semibold">{until}</b>.
          </p>
        )
      )}
      {view.believed === "asked" && (
        <p className="mb-3 border-l-4 border-ink pl-3 text-small">
          The screen was asked to hide its icons. It cannot be asked whether it did: look at it.
        </p>
      )}
      {view.believed === "otherwise" && (
        <p className="mb-3 border-l-4 border-ink pl-3 text-small">
          The screen was told to hide its icons, and says that it shows them.{" "}
          <button type="button" className="doing" disabled={busy} onClick={() => onShow(again)}>
            tell it again
          </button>
        </p>
      )}
      {arrived > 0 && (
        <p className="mb-3 border-l-4 border-ink pl-3 text-small">
          {arrived === 1 ? "1 thing" : `${arrived} things`} arrived since.{" "}
          <button type="button" className="doing" disabled={busy} onClick={() => onShow(again)}>
            take {arrived === 1 ? "it" : "them"} away too
          </button>
        </p>
      )}
      {gone.length > 0 && (
        <p className="mb-3 border-l-4 border-let-go pl-3 text-small">
          {gone.length === 1 ? "1 thing is" : `${gone.length} things are`} no longer where{" "}
          {gone.length === 1 ? "it was" : "they were"} put, {view.goneFrom}: <bdi>{gone.slice(0, 3).join(", ")}</bdi>
          {gone.length > 3 ? ` and ${gone.length - 3} more` : ""}. Somebody moved, renamed or deleted{" "}
          {gone.length === 1 ? "it" : "them"}; Vuoto did not.
        </p>
      )}
      {inUse.length > 0 && (
        <p className="mb-3 border-l-4 border-ink pl-3 text-small">
          In sight still, as a program has {inUse.length === 1 ? "it" : "them"} open: <bdi>{inUse.slice(0, 3).join(", ")}</bdi>
          {inUse.length > 3 ? ` and ${inUse.length - 3} more` : ""}.{" "}
          <button type="button" className="doing" disabled={busy} onClick={() => onShow({ ...again, evenInUse: true })}>
            take {inUse.length === 1 ? "it" : "them"} away all the same
          </button>
        </p>
      )}
    </>
  );
}
