"use client";
import { useRouter } from "next/navigation";
import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useEffect,
  useMemo,
  useRef,
  useState,
  useTransition,
} from "react";
import type { ReportJson } from "@/contract/items";
import type { JobLine } from "@/contract/views";
import { AskProblem } from "./ask";
import { listenTogether } from "./stream";

export interface Notice {
  id: number;
  title: string;
  lines: string[];
}

interface Live {
  jobs: JobLine[];
  notice?: Notice;
  dismiss(): void;
  /** Waits for an act, shows what was refused or went wrong, and brings the view up to date. Answers undefined where it failed. */
  act(work: Promise<ReportJson>): Promise<ReportJson | undefined>;
  say(problem: unknown): void;
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

/**
 * Brings the view up to date, soon and once at a time: a refresh that is under way is not thrown away for another, or on a
 * busy machine, where something always happens meanwhile, none would ever arrive.
 */
function useRefresh(): () => void {
  const router = useRouter();
  const [underWay, start] = useTransition();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const wanted = useRef(false);
  const busy = useRef(false);
  const last = useRef(0);
  const refresh = useCallback(() => {
    wanted.current = true;
    timer.current ??= setTimeout(
      () => {
        timer.current = undefined;
        if (busy.current) return;
        wanted.current = false;
        last.current = performance.now();
        start(() => router.refresh());
      },
      Math.max(soonMs, last.current + seldomMs - performance.now()),
    );
  }, [router]);
  useEffect(() => {
    busy.current = underWay;
    if (!underWay && wanted.current) refresh();
  }, [underWay, refresh]);
  return refresh;
}

/** Hears the server's events, from the one on that the page was drawn after, and keeps the views up to date. */
export function LiveProvider({
  initial,
  after,
  stream,
  children,
}: {
  initial: JobLine[];
  after: string;
  stream: string;
  children: ReactNode;
}) {
  const from = useRef(after);
  const [jobs, setJobs] = useState(initial);
  const [notice, setNotice] = useState<Notice>();
  const refreshSoon = useRefresh();

  useEffect(
    () =>
      listenTogether(stream, from.current, (event) => {
        if (event.type === "jobs") setJobs(event.jobs);
        else if (event.type === "job") {
          const { job } = event;
          setJobs((before) => [...before.filter((other) => other.id !== job.id), ...(job.state === "over" ? [] : [job])]);
        } else if (event.type === "changed" || event.type === "anew") refreshSoon();
      }),
    [stream, refreshSoon],
  );

  const say = useCallback((problem: unknown) => {
    const { title, remedy } =
      problem instanceof AskProblem
        ? problem
        : { title: "Something unexpected went wrong.", remedy: "What was done is in the ledger." };
    setNotice({ id: Date.now(), title, lines: [remedy] });
  }, []);

  const live = useMemo<Live>(
    () => ({
      jobs,
      notice,
      dismiss: () => setNotice(undefined),
      say,
      async act(work) {
        try {
          const report = await work;
          if (report.refused.length > 0) {
            const title = report.done > 0 ? `${report.words}. ${report.refused.length} could not be done:` : "Nothing was done:";
            const lines = report.refused.slice(0, shownRefusals).map(({ why }) => why);
            const more = report.refused.length - lines.length;
            setNotice({ id: Date.now(), title, lines: more > 0 ? [...lines, `and ${more} more, listed in the ledger`] : lines });
          } else setNotice(undefined);
          refreshSoon();
          return report;
        } catch (problem) {
          say(problem);
          refreshSoon();
          return undefined;
        }
      },
    }),
    [jobs, notice, say, refreshSoon],
  );
  return <LiveContext.Provider value={live}>{children}</LiveContext.Provider>;
}
