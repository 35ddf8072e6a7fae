"use client";
import { useRouter } from "next/navigation";
import { useCallback, useEffect, useMemo, useState } from "react";
import { quietFrom, type Told } from "@/contract/told";
import type { FrameView, QuietView } from "@/contract/views";
import { TabSign } from "../frame/tab-sign";
import { ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { InBrowser } from "../kit/in-browser";
import { Key, KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { LiveProvider, useLive } from "../kit/live";
import { icons } from "../kit/numbers";
import { sinceMark, useSince } from "../kit/since";
import { useSize } from "../kit/size";
import { WordsProvider } from "../kit/words";
import { CloserLook } from "../sitting/closer-look";
import { awayWords } from "./away-words";
import { Desktop } from "./desktop";
import { OutOfSight } from "./out-of-sight";
import { awayBy, drawnBy, screenHeight } from "./shown";

/** The sample computer's screen, as large as the window allows: icons are dragged, looked at, hidden and shown. */
export function FullScreen({ told, frame }: { told: Told<QuietView>; frame: FrameView }) {
  return (
    <LiveProvider drawn={frame}>
      <WordsProvider of={frame.words}>
        <TabSign />
        <InBrowser>
          <Screen told={told} />
        </InBrowser>
      </WordsProvider>
    </LiveProvider>
  );
}

function idsOf({ sheet }: QuietView, outOfSight: string[] | "all" | "nothing"): ReadonlySet<string> {
  if (outOfSight === "nothing") return nothing;
  return new Set(outOfSight === "all" ? sheet?.tiles.map(({ id }) => id) : outOfSight);
}

const nothing: ReadonlySet<string> = new Set();

function Screen({ told }: { told: Told<QuietView> }) {
  const view = useSince(told, quietFrom, sinceMark);
  const live = useLive();
  const router = useRouter();
  const [box, size] = useSize<HTMLDivElement>({ width: 1280, height: 740 });
  const [selected, setSelected] = useState(nothing);
  const [looked, setLooked] = useState<string>();
  const [away, setAway] = useState(false);
  const { act, upToDate } = live;
  const { sheet } = view;
  const [shown, setShown] = useState<{ of: QuietView; away: ReadonlySet<string> }>();
  const { atOnce } = live;
  // A command is followed at once; the view itself comes after.
  useEffect(
    () =>
      atOnce(() => {
        ask("quiet/shown", {}).then(
          ({ outOfSight }) => setShown({ of: view, away: idsOf(view, outOfSight) }),
          () => {
            // The view that comes tells.
          },
        );
      }),
    [atOnce, view],
  );
  const { tiles } = useMemo(() => drawnBy(view, shown?.of === view ? shown.away : awayBy(view)), [view, shown]);
  // What went out of sight, or from the desktop, is no longer chosen.
  const chosen = useMemo(() => new Set(tiles.flatMap(({ id }) => (selected.has(id) ? [id] : []))), [tiles, selected]);
  const height = screenHeight(view);
  const quiet = () => void act(ask("quiet/show", { level: "toggle" }));
  const hide = () => void (chosen.size > 0 && act(ask("quiet/hide", { items: [...chosen] })));
  const choose = useCallback((ids: string[]) => setSelected(new Set(ids)), []);
  const close = useCallback(() => setLooked(undefined), []);
  const place = useCallback(
    (spots: { item: string; x: number; y: number }[]) =>
      act(ask("quiet/place", { spots })).then((report) => (report?.done ? upToDate() : undefined)),
    [act, upToDate],
  );
  useKeys({
    quiet,
    "out of sight": hide,
    undo: () => void act(ask("ledger/undo", {})),
    again: () => void act(ask("ledger/again", {})),
    Escape: () => router.push("/quiet"),
  });
  const { outOfSight, believed, sharing, last } = live.frame;
  const [only] = chosen.size === 1 ? chosen : [];
  return (
    <main className="grid h-full grid-rows-[minmax(0,1fr)_auto]">
      <h1 className="sr-only">The screen, full size</h1>
      <div ref={box} className="grid min-h-0 place-content-center">
        {sheet && (
          <Desktop
            sheet={sheet}
            tiles={tiles}
            width={Math.min(size.width, Math.floor((size.height * sheet.width) / height))}
            height={height}
            chosen={chosen}
            onChoose={choose}
            onOpen={setLooked}
            onPlace={place}
            label="the screen, full size"
          />
        )}
      </div>
      <div className="flex min-h-[36px] flex-wrap items-center gap-x-6 px-7 text-[13px] text-ink-2">
        <button type="button" className="doing" onClick={quiet}>
          {view.level === "everything" ? "quiet" : "bring everything back"} <KeyOf command="quiet" />
        </button>
        {chosen.size > 0 ? (
          <>
            <span className="text-ink">{icons(chosen.size)} chosen</span>
            {only && !sharing && (
              <button type="button" className="doing" onClick={() => setLooked(only)}>
                look <Key>Enter</Key>
              </button>
            )}
            <button type="button" className="doing" onClick={hide}>
              out of sight <KeyOf command="out of sight" />
            </button>
            <span>
              dragged, or moved with <Key>Alt</Key> and the arrows
            </span>
          </>
        ) : outOfSight > 0 && !sharing ? (
          <button type="button" className="doing" onClick={() => setAway(true)}>
            {awayWords(outOfSight, believed)}
          </button>
        ) : (
          <span>{outOfSight > 0 ? `${awayWords(outOfSight, believed)}; nothing is deleted` : "icons shown"}</span>
        )}
        <span role="status" className="ml-auto max-w-[46ch] truncate">
          {live.notice ? `${live.notice.title} ${live.notice.lines[0] ?? ""}` : last && `${last.words}, ${last.when}`}
        </span>
        <button type="button" className="doing" onClick={() => router.push("/quiet")}>
          back <Key>Esc</Key>
        </button>
      </div>
      <Dialog open={away} onClose={() => setAway(false)} title="What is out of sight">
        <div className="flex h-[52vh] flex-col">
          <OutOfSight
            view={view}
            busy={false}
            onLook={setLooked}
            onBring={(items) => void act(ask("quiet/bring-back", { items }))}
            onEverything={() => {
              setAway(false);
              void act(ask("quiet/show", { level: "everything" }));
            }}
          />
        </div>
      </Dialog>
      <CloserLook item={looked} onClose={close} />
    </main>
  );
}
