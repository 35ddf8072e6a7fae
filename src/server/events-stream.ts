import { Problem } from "@/core/problem";
import type { Engine } from "./engine";
import type { NumberedEvent } from "./events";
import { unnamedEvent, unnamedJob } from "./guard/unnamed";
import { sharingNow } from "./quiet/sharing";
import { sharedMemory } from "./shared";

const beat = 20_000;
/** The pages of a browser share one stream; some more are there while pages are loaded anew. Each that is open is told of all that happens. */
const mostOfOne = 16;

const open = sharedMemory<Engine, Map<string, number>>("event streams");

/**
 * The stream of what happens (server-sent events), after the mark that a page was drawn with. A browser that reconnects
 * names the last mark it saw and gets what it missed, or "anew" where that is no longer kept; and the jobs under way, so
 * that none that ended meanwhile is kept. It ends with the session that asked for it.
 */
export function streamEvents(engine: Engine, query: URLSearchParams, request: Request, session?: string): Response {
  const streams = open.get(engine) ?? new Map<string, number>();
  open.set(engine, streams);
  const of = session ?? "";
  if ((streams.get(of) ?? 0) >= mostOfOne) throw new Problem("too-many-streams");
  streams.set(of, (streams.get(of) ?? 0) + 1);
  const encoder = new TextEncoder();
  let stop = () => {};
  let over = false;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const close = () => {
        stop();
        try {
          controller.close();
        } catch {
          // Closed from the other side.
        }
      };
      const isUnnamed = () => session !== undefined && sharingNow(engine) !== undefined;
      const tell = ({ n, event: happened }: NumberedEvent) => {
        const event = isUnnamed() ? unnamedEvent(happened) : happened;
        if (!event) return;
        if (event.type !== "ended") send(`id: ${engine.events.markOf(n)}\ndata: ${JSON.stringify(event)}\n\n`);
        else if (session !== undefined && event.sessions.includes(session)) {
          send('data: {"type":"ended"}\n\n');
          close();
        }
      };
      const missed = engine.events.since(request.headers.get("last-event-id") ?? query.get("after") ?? "");
      if (missed) for (const event of missed) tell(event);
      else send(`id: ${engine.events.last}\ndata: {"type":"anew"}\n\n`);
      send(
        `data: ${JSON.stringify({ type: "jobs", jobs: isUnnamed() ? engine.jobs.list().map(unnamedJob) : engine.jobs.list() })}\n\n`,
      );
      const forget = engine.events.listen(tell, true);
      const quiet = engine.clock.every(beat, () => send(": still here\n\n"));
      stop = () => {
        if (over) return;
        over = true;
        streams.set(of, streams.get(of)! - 1);
        forget();
        quiet();
      };
      request.signal.addEventListener("abort", close);
    },
    cancel: () => stop(),
  });
  return new Response(stream, { headers: { "content-type": "text/event-stream", "cache-control": "no-cache, no-transform" } });
}
