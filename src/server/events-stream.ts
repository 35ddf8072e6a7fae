import type { Engine } from "./engine";
import type { NumberedEvent } from "./events";

const beat = 20_000;

/**
 * The stream of what happens (server-sent events), after the number that a page was drawn with. A browser that reconnects
 * names the last number it saw and gets what it missed, or "anew" where that is no longer kept.
 */
export function streamEvents(engine: Engine, query: URLSearchParams, request: Request): Response {
  const encoder = new TextEncoder();
  let stop = () => {};
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      const tell = ({ n, event }: NumberedEvent) => send(`id: ${n}\ndata: ${JSON.stringify(event)}\n\n`);
      const seen = Number(request.headers.get("last-event-id") ?? query.get("after") ?? Number.NaN);
      const missed = Number.isNaN(seen) ? [] : engine.events.since(seen);
      if (missed) for (const event of missed) tell(event);
      else send(`id: ${engine.events.last}\ndata: {"type":"anew"}\n\n`);
      for (const job of engine.jobs.list()) send(`data: ${JSON.stringify({ type: "job", job })}\n\n`);
      const forget = engine.events.listen(tell);
      const timer = setInterval(() => send(": still here\n\n"), beat);
      stop = () => {
        forget();
        clearInterval(timer);
      };
      request.signal.addEventListener("abort", () => {
        stop();
        try {
          controller.close();
        } catch {
          // Closed from the other side.
        }
      });
    },
    cancel: () => stop(),
  });
  return new Response(stream, { headers: { "content-type": "text/event-stream", "cache-control": "no-cache, no-transform" } });
}
