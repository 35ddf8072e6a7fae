"use client";
import { usePathname, useRouter } from "next/navigation";
import { type ReactNode, useEffect, useState } from "react";
import type { FrameView } from "@/contract/views";
import { commands, drawnKey } from "@/core/settings/keys";
import { ask } from "../kit/ask";
import { InBrowser } from "../kit/in-browser";
import { Key } from "../kit/key";
import { useKeys, useUnheard } from "../kit/keys";
import { Link } from "../kit/link";
import { LiveProvider, useLive } from "../kit/live";
import { Wordmark } from "../kit/wordmark";
import { WordsProvider } from "../kit/words";
import { Foot } from "./foot";
import { KeysDialog } from "./keys-dialog";
import { Sharing } from "./sharing";
import { TabSign } from "./tab-sign";

const course = ["survey", "homes", "sitting", "depots", "quiet"] as const;

/** The course on top, the foot below, and the room between them. */
export function Frame({ frame, children }: { frame: FrameView; children: ReactNode }) {
  return (
    <LiveProvider drawn={frame}>
      <WordsProvider of={frame.words}>
        <div className="grid h-full grid-cols-[minmax(0,1fr)] grid-rows-[48px_minmax(0,1fr)_auto]">
          <TabSign />
          <Course />
          <main className="min-h-0 overflow-auto">
            <InBrowser>
              <Room>{children}</Room>
            </InBrowser>
          </main>
          <Commands />
        </div>
      </WordsProvider>
    </LiveProvider>
  );
}

/** What a view shows; while others see the screen, no view shows more than how many. */
function Room({ children }: { children: ReactNode }) {
  const { sharing } = useLive().frame;
  return sharing ? <Sharing sharing={sharing} /> : children;
}

function Course() {
  const { frame } = useLive();
  const path = usePathname();
  const word = (area: string, count?: string) => {
    const now = path.startsWith(`/${area}`);
    return (
      <Link
        key={area}
        href={`/${area}`}
        aria-current={now ? "page" : undefined}
        className={`-mb-px flex shrink-0 items-center gap-1.5 self-stretch whitespace-nowrap border-b-[3px] ${now ? "border-ink font-semibold text-ink" : "border-transparent text-ink-2 hover:text-ink"}`}
      >
        {area}
        {count && <b className="text-[12px] font-medium text-ink-2">{count}</b>}
      </Link>
    );
  };
  return (
    <nav
      aria-label="the course of the work"
      className="flex items-stretch gap-[clamp(9px,2vw,26px)] overflow-x-auto overflow-y-hidden border-b border-line px-[clamp(12px,2.2vw,28px)]"
    >
      <Link href="/survey" className="mr-[clamp(0px,1.4vw,18px)] shrink-0 self-center">
        <Wordmark />
      </Link>
      {course.map((area) => word(area, frame.counts[area]))}
      <span className="flex-1" />
      {word("ledger")}
      {word("settings")}
    </nav>
  );
}

const heardFor = 4000;

/** A key that did nothing says so, for a moment, and what it would do elsewhere. */
function Unheard() {
  const { frame } = useLive();
  const [said, setSaid] = useState<{ key: string; does?: string }>();
  useUnheard((key, command) => setSaid({ key, does: command && commands[command].does }));
  useEffect(() => {
    if (!said) return;
    const timer = setTimeout(() => setSaid(undefined), heardFor);
    return () => clearTimeout(timer);
  }, [said]);
  return (
    <p
      role="status"
      className={
        said ? "absolute right-7 bottom-11 z-30 border border-ink bg-sheet px-3 py-1.5 text-small text-ink-2" : "sr-only"
      }
    >
      {said && (
        <>
          <Key>{drawnKey(said.key)}</Key> does nothing here{said.does ? `; elsewhere: ${said.does}` : ""}.{" "}
          <Key>{drawnKey(frame.keys.keys)}</Key> shows the keys.
        </>
      )}
    </p>
  );
}

/** The keys that work everywhere, and what they do. */
function Commands() {
  const live = useLive();
  const router = useRouter();
  const [keysOpen, setKeysOpen] = useState(false);
  const undo = () => void live.act(ask("ledger/undo", {}));
  const again = () => void live.act(ask("ledger/again", {}));
  const quiet = () => void live.act(ask("quiet/show", { level: "toggle" }));
  useKeys(
    {
      undo,
      again,
      quiet,
      homes: () => router.push("/homes"),
      sitting: () => router.push("/sitting"),
      keys: () => setKeysOpen(true),
    },
    "frame",
  );
  return (
    <>
      <Unheard />
      <Foot onKeys={() => setKeysOpen(true)} />
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} />
    </>
  );
}
