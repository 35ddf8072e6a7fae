import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Answers } from "./answers";

let asked: string[][];
/** How the server answers, request by request: the ids that are done, or not at all. */
let answers: (string[] | "down")[];
beforeEach(() => {
  asked = [];
  answers = [];
  vi.useFakeTimers();
  vi.stubGlobal("fetch", async (_: string, { body }: { body: string }) => {
    asked.push((JSON.parse(body) as { ids: string[] }).ids);
    const done = answers.shift();
    if (done === undefined) return new Promise(() => {});
    if (done === "down") throw new TypeError("no answer");
    return { ok: true, json: async () => done.map((id) => ({ id, report: { done: 1 } })) };
  });
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

test("verdicts that wait for what they came to are asked about together, and each is told its own", async () => {
  const all = new Answers(() => {});
  answers = [["a"], ["c", "b"]];
  const came = ["a", "b", "c"].map((id) => all.of(id));
  expect((await Promise.all(came)).map(({ id }) => id)).toEqual(["a", "b", "c"]);
  expect(asked).toEqual([["a"], ["b", "c"]]);
});

test("where Vuoto does not answer it is asked again until it does, and said once", async () => {
  const said: unknown[] = [];
  const all = new Answers((problem) => said.push(problem));
  answers = ["down", "down", "down", ["a"]];
  const came = all.of("a");
  await vi.advanceTimersByTimeAsync(10_000);
  expect(await came).toMatchObject({ id: "a", report: { done: 1 } });
  expect(asked).toHaveLength(4);
  expect(said).toHaveLength(1);
});
