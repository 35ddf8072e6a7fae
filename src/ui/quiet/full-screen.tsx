"use client";
import { useRouter } from "next/navigation";
import { useMemo } from "react";
import { quietFrom, type Told } from "@/contract/told";
import type { FrameView, QuietView } from "@/contract/views";
import { TabSign } from "../frame/tab-sign";
import { ask } from "../kit/ask";
import { InBrowser } from "../kit/in-browser";
import { Key, KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { LiveProvider, useLive } from "../kit/live";
import { useSize } from "../kit/size";
import { awayWords } from "./away-words";
import { DrawnScreen } from "./drawn-screen";
import { awayBy, drawnBy, screenHeight } from "./shown";

/** The sample computer's screen, as large as the window allows. */
export function FullScreen({ told, frame }: { told: Told<QuietView>; frame: FrameView }) {
  return (
    <LiveProvider drawn={frame}>
      <InBrowser>
        <TabSign />
        <Screen told={told} />
      </InBrowser>
    </LiveProvider>
  );
}

function Screen({ told }: { told: Told<QuietView> }) {
  const view = useMemo(() => quietFrom(told), [told]);
  const live = useLive();
  const router = useRouter();
  const [box, size] = useSize<HTMLDivElement>({ width: 1280, height: 740 });
  const quiet = () => void live.act(ask("quiet/show", { level: "toggle" }));
  useKeys({ quiet, undo: () => void live.act(ask("ledger/undo", {})), Escape: () => router.push("/quiet") });
  const { sheet } = view;
  const away = awayBy(view);
  const { tiles } = drawnBy(view, away);
  const height = screenHeight(view);
  return (
    <main className="grid h-full grid-rows-[minmax(0,1fr)_36px]">
      <h1 className="sr-only">The screen, full size</h1>
      <div ref={box} className="grid min-h-0 place-content-center">
        {sheet && (
          <DrawnScreen
            sheet={sheet}
            tiles={tiles}
            width={Math.min(size.width, Math.floor((size.height * sheet.width) / height))}
            height={height}
            label="the screen, full size"
          />
        )}
      </div>
      <p className="flex items-center gap-6 px-7 text-[13px] text-ink-2">
        <button type="button" className="doing" onClick={quiet}>
          {view.level === "everything" ? "quiet" : "bring everything back"} <KeyOf command="quiet" />
        </button>
        <span>{away.size > 0 ? `${awayWords(away.size, view.believed)}; nothing is deleted` : "icons shown"}</span>
        <button type="button" className="doing ml-auto" onClick={() => router.push("/quiet")}>
          back <Key>Esc</Key>
        </button>
      </p>
    </main>
  );
}
