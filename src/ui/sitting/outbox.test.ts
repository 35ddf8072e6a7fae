import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Outbox } from "./outbox";

interface Sent {
  verdicts: { id: string }[];
  keepalive?: boolean;
}

let sent: Sent[];
let answers: ("down" | "up")[];
beforeEach(() => {
  sent = [];
  answers = [];
  vi.useFakeTimers();
  vi.stubGlobal("fetch", async (_: string, { body, keepalive }: { body: string; keepalive?: boolean }) => {
    sent.push({ ...(JSON.parse(body) as Sent), keepalive });
    if (answers.shift() === "down") throw new TypeError("no answer");
    return { ok: true, json: async () => ({ given: [] }) };
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const verdict = (id: string, input = {}) => ({ id, act: "sitting/stay" as const, input });
const ids = () => sent.map(({ verdicts }) => verdicts.map(({ id }) => id));

test("each verdict is sent at once; those that come while one is under way go together, in order", async () => {
  const outbox = new Outbox(() => {});
  const arrived = ["a", "b", "c"].map((id) => outbox.give(verdict(id)));
  expect(ids()).toEqual([["a"]]);
  await Promise.all(arrived);
  expect(ids()).toEqual([["a"], ["b", "c"]]);
});

test("what is not answered is sent again until it is, and said once", async () => {
  const said: unknown[] = [];
  const outbox = new Outbox((problem) => said.push(problem));
  answers = ["down", "down", "down", "up"];
  let arrived = false;
  const given = outbox.give(verdict("a")).then(() => {
    arrived = true;
  });
  await vi.advanceTimersByTimeAsync(1000);
  expect(arrived).toBe(false);
  await vi.advanceTimersByTimeAsync(10_000);
  await given;
  expect(ids()).toEqual([["a"], ["a"], ["a"], ["a"]]);
  expect(said).toHaveLength(1);
});

test("when the page is left the browser is given what is not yet written down, in parts that it takes", async () => {
  const outbox = new Outbox(() => {});
  answers = ["down"];
  const long = { items: Array.from({ length: 400 }, (_, n) => `item-${n}-of-a-family`) };
  for (const id of ["a", "b", "c", "d", "e", "f", "g", "h"]) void outbox.give(verdict(id, long));
  await vi.advanceTimersByTimeAsync(100);
  sent = [];
  outbox.leave();
  expect(sent.every(({ keepalive }) => keepalive)).toBe(true);
  expect(ids().flat()).toEqual(["a", "b", "c", "d", "e", "f", "g", "h"]);
  for (const one of sent) expect(JSON.stringify(one).length).toBeLessThan(64_000);
  expect(sent.length).toBeGreaterThan(1);
});
