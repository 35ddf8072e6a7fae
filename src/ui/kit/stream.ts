import type { JobLine } from "@/contract/views";
import { AskProblem, ask } from "./ask";

/** What a page hears: what the server told, in its own words, or that it has to look at everything anew. */
export type Heard =
  | { type: "anew" | "said" | "ended" }
  | { type: "changed"; what: "items" | "ledger" | "homes" | "parcels" }
  | { type: "grown"; items: { id: string; bytes: number }[] }
  | { type: "job"; job: JobLine }
  | { type: "jobs"; jobs: JobLine[] };

/** What the pages of a browser tell each other. */
type Told =
  | { to: "all"; mark: string; event: Heard }
  /** A page that has just been opened. */
  | { to: "listener" }
  /** How far the one that listens has heard, and what is under way. */
  | { to: "new"; mark: string; jobs: JobLine[] };

const tryAgainAfter = 3000;

/** Whether a mark comes after another: of the same start by its number, and of another start always. */
function isLater(mark: string, than: string): boolean {
  const [epoch, n] = mark.split(".");
  const [seenEpoch, seen] = than.split(".");
  return epoch !== seenEpoch || Number(n) > Number(seen);
}

/**
 * Hears the server's events from the mark on that the page was drawn with. A browser opens only six connections to a server,
 * and a stream takes one for good: so of all its pages one listens, the one that holds the lock, and tells the others; when
 * it is closed, the next takes the lock and goes on where that one was. Answers how to stop.
 */
export function listenTogether(name: string, after: string, hear: (event: Heard) => void): () => void {
  let seen = after;
  const jobs = new Map<string, JobLine>();
  const stop = new AbortController();
  const channel = new BroadcastChannel(name);
  let listening = false;

  const note = (event: Heard) => {
    // This browser was shut out.
    if (event.type === "ended") window.location.reload();
    if (event.type === "jobs") {
      jobs.clear();
      for (const job of event.jobs) jobs.set(job.id, job);
    } else if (event.type === "job") {
      if (event.job.state === "over") jobs.delete(event.job.id);
      else jobs.set(event.job.id, event.job);
    }
    hear(event);
  };
  const take = (mark: string, event: Heard) => {
    // The jobs under way come without a mark.
    if (mark !== "" && event.type !== "jobs") {
      if (!isLater(mark, seen)) return;
      seen = mark;
    }
    note(event);
  };
  const tell = (told: Told) => channel.postMessage(told);

  channel.onmessage = ({ data }: MessageEvent<Told>) => {
    if (data.to === "all") take(data.mark, data.event);
    else if (data.to === "listener" && listening) tell({ to: "new", mark: seen, jobs: [...jobs.values()] });
    else if (data.to === "new" && !listening) {
      if (isLater(data.mark, seen)) {
        seen = data.mark;
        note({ type: "anew" });
      }
      note({ type: "jobs", jobs: data.jobs });
    }
  };
  tell({ to: "listener" });

  const open = () => {
    const source = new EventSource(`/api/events?after=${seen}`);
    source.onmessage = ({ data, lastEventId }: MessageEvent<string>) => {
      const event = JSON.parse(data) as Heard;
      take(lastEventId, event);
      tell({ to: "all", mark: lastEventId, event });
    };
    source.onerror = () => {
      if (source.readyState !== EventSource.CLOSED || stop.signal.aborted) return;
      // A browser tries again by itself, but not once it was answered with a refusal.
      setTimeout(() => {
        if (stop.signal.aborted) return;
        ask("guard/sessions", {}).then(open, (problem: unknown) => {
          if (problem instanceof AskProblem && problem.code === "no-session") window.location.reload();
          else open();
        });
      }, tryAgainAfter);
    };
    stop.signal.addEventListener("abort", () => source.close());
  };
  navigator.locks
    .request(
      name,
      { signal: stop.signal },
      () =>
        new Promise<void>((over) => {
          listening = true;
          stop.signal.addEventListener("abort", () => over());
          open();
        }),
    )
    .catch(() => {
      // Stopped while it waited for its turn.
    });
  return () => {
    stop.abort();
    channel.close();
  };
}
