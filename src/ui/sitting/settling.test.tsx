// @vitest-environment happy-dom
import { act, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { GivenAnswer } from "@/contract/sitting";
import type { PileItem } from "@/contract/views";
import { type Refusal, useSettling } from "./settling";

/** What is asked of Vuoto, and what it answers: verdicts are written down at once, and done when the test says so. */
const asked: { path: string; input: Record<string, unknown> }[] = [];
let given: { id: string; act: string; input: Record<string, unknown> }[];
let done: Map<string, GivenAnswer>;
let waiting: (() => void)[];

vi.mock("../kit/live", () => {
  const live = { say: () => {}, act: (answer: Promise<unknown>) => answer.catch(() => undefined) };
  return { useLive: () => live };
});
vi.mock("../kit/ask", () => ({
  AskProblem: class extends Error {},
  ask: async (path: string, input: Record<string, unknown>) => {
    asked.push({ path, input });
    if (path === "sitting/give") {
      given.push(...(input.verdicts as typeof given));
      return { given: [] };
    }
    if (path === "sitting/given") {
      const ids = input.ids as string[];
      while (!ids.some((id) => done.has(id))) await new Promise<void>((next) => waiting.push(next));
      return ids.flatMap((id) => done.get(id) ?? []);
    }
    return { entry: 77, done: 1, refused: [], words: "" };
  },
}));

const things = ["a", "b", "c", "d"].map((id) => ({ id, name: `${id}.txt` }) as unknown as PileItem);
const shown = (items: readonly PileItem[]) => items.map(({ id }) => id).join("");

beforeEach(() => {
  asked.length = 0;
  given = [];
  done = new Map();
  waiting = [];
});
afterEach(() => vi.restoreAllMocks());

function sitting(refused: (refusal: Refusal) => "pile" | "aside" | "gone" = () => "pile") {
  const { result } = renderHook(() => useSettling("s", things, [], refused));
  const verdict = (...ids: string[]) =>
    act(async () => {
      const items = things.filter(({ id }) => ids.includes(id));
      void result.current.settle(items, "let go", { act: "sitting/let-go", input: { items: ids } });
    });
  /** The n-th of what was given comes to its end. */
  const comes = (n: number, report: { entry: number | null; done: number; refused?: [string, string][] }) =>
    act(async () => {
      const { id } = given[n]!;
      const refusals = (report.refused ?? []).map(([item, code]) => ({ item, name: item, code, why: code }));
      done.set(id, { id, report: { words: "", ...report, refused: refusals } } as unknown as GivenAnswer);
      for (const next of waiting.splice(0)) next();
      await new Promise((next) => setTimeout(next, 0));
    });
  return { result, verdict, comes };
}

test("the next lies there at once, before the verdict is done; both are given in the order of the keys", async () => {
  const { result, verdict } = sitting();
  await verdict("a");
  await verdict("b");
  expect([shown(result.current.pile), result.current.settled.length]).toEqual(["cd", 2]);
  expect(given.map(({ input }) => input.items)).toEqual([["a"], ["b"]]);
});

test("what was refused lies on the pile again, and is no longer counted; of a family only what was refused", async () => {
  const { result, verdict, comes } = sitting();
  await verdict("a");
  await comes(0, { entry: null, done: 0, refused: [["a", "changed"]] });
  expect([shown(result.current.pile), result.current.settled.length]).toEqual(["abcd", 0]);
  await verdict("b", "c");
  await comes(1, { entry: 5, done: 1, refused: [["c", "changed"]] });
  expect(shown(result.current.pile)).toBe("cad");
  expect(result.current.settled.map(({ items, entry }) => [shown(items), entry])).toEqual([["b", 5]]);
});

test("what a program has open waits apart, and comes up again behind what is looked at once it is free", async () => {
  const { result, verdict, comes } = sitting(() => "aside");
  await verdict("a");
  await comes(0, { entry: null, done: 0, refused: [["a", "in-use"]] });
  expect([shown(result.current.pile), result.current.aside.map(({ item }) => item.id)]).toEqual(["bcd", ["a"]]);
  await act(async () => result.current.stillInUse(new Map([["a", "a writer has it open"]])));
  expect(result.current.aside.map(({ why }) => why)).toEqual(["a writer has it open"]);
  await act(async () => result.current.stillInUse(new Map()));
  expect([shown(result.current.pile), result.current.aside]).toEqual(["bacd", []]);
});

test("undo means the last verdict, also where it is not done yet; again gives it again", async () => {
  const { result, verdict, comes } = sitting();
  await verdict("a");
  await verdict("b");
  await act(async () => void result.current.undo());
  expect([shown(result.current.pile), result.current.settled.length]).toEqual(["bcd", 1]);
  // By the name under which it was given: it has no entry yet.
  expect(given[2]).toMatchObject({ act: "ledger/undo", input: { given: given[1]!.id } });
  for (const [n, entry] of [4, 5, 6].entries()) await comes(n, { entry, done: 1 });
  await act(async () => {
    result.current.again();
    await new Promise((next) => setTimeout(next, 0));
  });
  expect(asked.at(-1)).toEqual({ path: "ledger/undo", input: { entry: 6 } });
  expect([shown(result.current.pile), result.current.settled.length]).toEqual(["cd", 2]);
});

test("what could not be undone is settled still", async () => {
  const { result, verdict, comes } = sitting();
  await verdict("a");
  await comes(0, { entry: 4, done: 1 });
  await act(async () => void result.current.undo());
  expect(shown(result.current.pile)).toBe("abcd");
  await comes(1, { entry: null, done: 0, refused: [["a", "changed"]] });
  expect([shown(result.current.pile), result.current.settled.map(({ items }) => shown(items))]).toEqual(["bcd", ["a"]]);
});

test("one is put off to the end and fetched back; sorted anew it is in its place again", async () => {
  const { result } = sitting();
  const put = (work: () => void) => act(async () => work());
  await put(() => result.current.later(() => true));
  await put(() => result.current.later(() => true));
  expect(shown(result.current.pile)).toBe("cdab");
  await put(() => result.current.back());
  expect(shown(result.current.pile)).toBe("bcda");
  await put(() => result.current.jump("d"));
  expect(shown(result.current.pile)).toBe("dbca");
});
