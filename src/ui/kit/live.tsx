"use client";
import { useRouter } from "next/navigation";
import {
  createContext,
  type ReactNode,
  type RefObject,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  useTransition,
} from "react";
import { isNoted, type ReportJson } from "@/contract/items";
import type { FrameView, JobLine } from "@/contract/views";
import { AskProblem, ask } from "./ask";
import { noteGrown } from "./grown";
import { useKeysOf } from "./keys";
import { type Heard, listenTogether } from "./stream";

export interface Notice {
  id: number;
  title: string;
  lines: string[];
}

interface Live {
  frame: FrameView;
  jobs: JobLine[];
  notice?: Notice;
  dismiss(): void;
  /**
   * Waits for an act, shows what was refused or went wrong, and brings the view up to date. Answers undefined where it failed.
   * `beside`: shows what went wrong beside the field that it came from.
   */
  act(work: Promise<ReportJson>, beside?: (problem: AskProblem) => void): Promise<ReportJson | undefined>;
  /** Waits until the page shows what was done up to now. */
  upToDate(): Promise<void>;
  say(problem: unknown): void;
  /** Says something that is no problem. */
  tell(title: string, lines: string[]): void;
  /** Has something done as soon as anything changed, before the view is brought up to date. Answers how to end that. */
  atOnce(work: () => void): () => void;
  /** A page that can be brought up to date by what changed alone: how; else all of it is asked for anew. Answers how to end that. */
  bringsItself(work: () => Promise<void>): () => void;
  /** The page keeps itself up to date while things come and go: only what stands around it is asked for anew. Answers how to end that. */
  keepItself(): () => void;
}

const LiveContext = createContext<Live | undefined>(undefined);

export function useLive(): Live {
  const live = useContext(LiveContext);
  if (!live) throw new Error("outside the frame");
  return live;
}

const shownRefusals = 4;

const soonMs = 120;
/** While much happens it is brought up to date no more often: drawing it takes the time in which the next act could be done. */
const seldomMs = 700;

type Changed = Extract<Heard, { type: "changed" }>["what"];

/** How much is to be brought up to date: the frame alone, or the page in it, too. */
type Part = "frame" | "page";

/**
 * Brings the view up to date, soon and once at a time: a refresh that is under way is not thrown away for another, or on a
 * busy machine, where something always happens meanwhile, none would ever arrive. `then` is called once a refresh of the
 * page that began after this has been drawn.
 */
function useRefresh(
  takeFrame: (frame: FrameView) => void,
  own: RefObject<(() => Promise<void>) | undefined>,
): (part: Part, then?: () => void) => void {
  const router = useRouter();
  const [underWay, start] = useTransition();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const wanted = useRef<Part>(undefined);
  const busy = useRef(false);
  const last = useRef(0);
  const waiting = useRef<(() => void)[]>([]);
  const served = useRef<(() => void)[]>([]);
  const refresh = useCallback(
    (part: Part, then?: () => void) => {
      wanted.current = wanted.current === "page" ? "page" : part;
      if (then) waiting.current.push(then);
      timer.current ??= setTimeout(
        () => {
          timer.current = undefined;
          if (busy.current) return;
          // Nobody sees it: it is brought up to date once somebody does.
          if (document.hidden && waiting.current.length === 0) return;
          const now = wanted.current;
          wanted.current = undefined;
          last.current = performance.now();
          served.current = waiting.current;
          waiting.current = [];
          start(async () => {
            const { current: bring } = own;
            if (now === "page" && !bring) return router.refresh();
            const frame = ask("frame/frame", {}).then(takeFrame, () => {
              // The next event asks again.
            });
            await Promise.all([frame, now === "page" ? bring?.().catch(() => router.refresh()) : undefined]);
          });
        },
        Math.max(soonMs, last.current + seldomMs - performance.now()),
      );
    },
    [router, takeFrame, own],
  );
  useEffect(() => {
    const seen = () => {
      if (!document.hidden && wanted.current) refresh(wanted.current);
    };
    document.addEventListener("visibilitychange", seen);
    return () => document.removeEventListener("visibilitychange", seen);
  }, [refresh]);
  useEffect(() => {
    busy.current = underWay;
    if (!underWay) for (const then of served.current.splice(0)) then();
    if (!underWay && wanted.current) refresh(wanted.current);
  }, [underWay, refresh]);
  return refresh;
}

/** The views that show something of what changed; an act is seen in each. */
const views: Partial<Record<Changed, string[]>> = {
  items: ["survey", "homes", "sitting", "depots", "quiet", "screen"],
  homes: ["survey", "homes", "sitting", "depots", "settings"],
  // How parcels stand is seen in depots alone.
  parcels: ["depots"],
};
const showsIt = (what: Changed): boolean => views[what]?.includes(location.pathname.split("/")[1] ?? "") ?? true;

/** Says that a page keeps itself up to date, for as long as it is shown. */
export function useKeepsItself(): void {
  const { keepItself } = useLive();
  useEffect(() => keepItself(), [keepItself]);
}

/** Hears the server's events, from the one on that the page was drawn after, and keeps the views up to date. */
export function LiveProvider({ drawn, children }: { drawn: FrameView; children: ReactNode }) {
  const from = useRef(drawn.after);
  const { stream } = drawn;
  // The frame that came last, with the page or by itself.
  const [frame, setFrame] = useState(drawn);
  const [lastDrawn, setLastDrawn] = useState(drawn);
  if (lastDrawn !== drawn) {
    setLastDrawn(drawn);
    setFrame(drawn);
  }
  const [jobs, setJobs] = useState(drawn.jobs);
  const [notice, setNotice] = useState<Notice>();
  useKeysOf(frame.keys);
  const keepsItself = useRef(false);
  const first = useRef(new Set<() => void>());
  const own = useRef<() => Promise<void>>(undefined);
  const refresh = useRefresh(setFrame, own);
  const refreshSoon = useCallback((part?: Part) => refresh(part ?? (keepsItself.current ? "frame" : "page")), [refresh]);

  useEffect(
    () =>
      listenTogether(stream, from.current, (event) => {
        if (event.type === "jobs") setJobs(event.jobs);
        else if (event.type === "job") {
          const { job } = event;
          setJobs((before) => [...before.filter((other) => other.id !== job.id), ...(job.state === "over" ? [] : [job])]);
        } else if (event.type === "grown") noteGrown(event.items);
        else if (event.type === "changed") {
          if (event.what !== "parcels") for (const work of first.current) work();
          if (!showsIt(event.what)) refresh("frame");
          else refreshSoon(event.what === "items" || event.what === "ledger" ? undefined : "page");
        } else if (event.type === "anew") {
          for (const work of first.current) work();
          refreshSoon("page");
        }
      }),
    [stream, refresh, refreshSoon],
  );

  const say = useCallback((problem: unknown) => {
    const { title, remedy } =
      problem instanceof AskProblem
        ? problem
        : { title: "Something unexpected went wrong.", remedy: "What was done is in the ledger." };
    setNotice({ id: Date.now(), title, lines: [remedy] });
  }, []);

  // The same for as long as the page is open: who waits for a change is not to wait anew with each frame.
  const keepItself = useCallback(() => {
    keepsItself.current = true;
    return () => {
      keepsItself.current = false;
    };
  }, []);
  const bringsItself = useCallback((work: () => Promise<void>) => {
    own.current = work;
    return () => {
      if (own.current === work) own.current = undefined;
    };
  }, []);
  const atOnce = useCallback((work: () => void) => {
    first.current.add(work);
    return () => void first.current.delete(work);
  }, []);

  const live = useMemo<Live>(
    () => ({
      frame,
      jobs,
      notice,
      bringsItself,
      keepItself,
      atOnce,
      upToDate: () => new Promise((resolve) => refresh("page", resolve)),
      dismiss: () => setNotice(undefined),
      tell: (title, lines) => setNotice({ id: Date.now(), title, lines }),
      say,
      async act(work, beside) {
        try {
          const report = await work;
          if (report.refused.length > 0) {
            const title =
              report.done > 0 || isNoted(report)
                ? `${report.words}. ${report.refused.length} could not be done:`
                : "Nothing was done:";
            const lines = report.refused.slice(0, shownRefusals).map(({ why }) => why);
            const more = report.refused.length - lines.length;
            setNotice({ id: Date.now(), title, lines: more > 0 ? [...lines, `and ${more} more, listed in the ledger`] : lines });
          } else setNotice(undefined);
          refreshSoon();
          return report;
        } catch (problem) {
          if (beside && problem instanceof AskProblem) beside(problem);
          else say(problem);
          refreshSoon();
          return undefined;
        }
      },
    }),
    [frame, jobs, notice, say, refresh, refreshSoon, bringsItself, keepItself, atOnce],
  );
  return <LiveContext.Provider value={live}>{children}</LiveContext.Provider>;
}
