import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { standingClock } from "../../fixtures/clock";
import { makePlace, type Place } from "../../fixtures/engine";
import type { Engine } from "./engine";
import { streamEvents } from "./events-stream";

let place: Place;
let engine: Engine;
const clock = standingClock(Date.UTC(2026, 10, 26));
beforeEach(async () => {
  place = makePlace((root) => fs.mkdirSync(path.join(root, "Desktop")));
  engine = await place.recover({ clock });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

/** A page that listens: what it has heard until now, as messages. */
function listening(after: string, { last, session }: { last?: string; session?: string } = {}) {
  const left = new AbortController();
  const request = new Request("http://127.0.0.1/", {
    signal: left.signal,
    headers: last === undefined ? {} : { "last-event-id": last },
  });
  const answer = streamEvents(engine, new URLSearchParams({ after }), request, session);
  const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader();
  const next = async () => (await reader.read()).value;
  return { answer, left, next, reader };
}

const changed = (what: "items" | "ledger" | "homes") => engine.events.emit({ type: "changed", what });

test("what happened since the page was drawn comes first, then what happens, each with its mark", async () => {
  const drawn = engine.events.last;
  changed("items");
  const { answer, next } = listening(drawn);
  expect(answer.headers.get("content-type")).toBe("text/event-stream");
  expect(answer.headers.get("cache-control")).toBe("no-cache, no-transform");
  expect(await next()).toBe(`id: ${engine.events.last}\ndata: {"type":"changed","what":"items"}\n\n`);
  expect(await next()).toBe('data: {"type":"jobs","jobs":[]}\n\n');
  changed("homes");
  expect(await next()).toContain('"what":"homes"');
  clock.pass(20_000);
  expect(await next()).toBe(": still here\n\n");
});

test("a browser that comes back hears what it missed; one from before a start looks at everything anew", async () => {
  changed("items");
  const heard = engine.events.last;
  changed("ledger");
  const back = listening("none", { last: heard });
  expect(await back.next()).toContain('"what":"ledger"');
  const other = listening("another-start.7");
  expect(await other.next()).toBe(`id: ${engine.events.last}\ndata: {"type":"anew"}\n\n`);
});

test("it ends with the session that asked, and not with another; nobody is told who has left", async () => {
  const mine = listening(engine.events.last, { session: "a" });
  await mine.next();
  engine.events.emit({ type: "ended", sessions: ["b"] });
  changed("items");
  expect(await mine.next()).toContain('"what":"items"');
  engine.events.emit({ type: "ended", sessions: ["a"] });
  expect(await mine.next()).toBe('data: {"type":"ended"}\n\n');
  expect((await mine.reader.read()).done).toBe(true);
  const gone = listening(engine.events.last);
  gone.left.abort();
  // What is told to a page that has left disturbs nothing.
  changed("items");
  clock.pass(60_000);
});

test("a browser has some streams and no more; each that ends makes room", () => {
  const open = Array.from({ length: 16 }, () => listening(engine.events.last, { session: "one" }));
  expect(() => listening(engine.events.last, { session: "one" })).toThrow("listens to what happens too many times");
  expect(listening(engine.events.last, { session: "other" }).answer.status).toBe(200);
  open[0]!.left.abort();
  const again = listening(engine.events.last, { session: "one" });
  expect(again.answer.status).toBe(200);
  for (const { left } of [...open, again]) left.abort();
});
