import { randomUUID } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { ledgerList } from "../ledger/list";
import { operate } from "../operations";
import { goOnGiving } from "./give";
import { sittingView } from "./view";

let place: Place;
let engine: Engine;
beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 21, 30));
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

const lying = () => fs.readdirSync(path.join(place.root, "Bureau")).length;
const letGo = (item: string, id: string = randomUUID()) => ({
  id,
  act: "sitting/let-go",
  input: { items: [item], sitting: "s", tookMs: 5 },
});
const give = (...verdicts: ReturnType<typeof letGo>[]) => operate(engine, "sitting/give", { verdicts });
interface Came {
  id: string;
  report?: { done: number; entry: number; refused: { item?: string }[] };
  problem?: { code: string };
}
const cameAll = (...ids: string[]) => operate(engine, "sitting/given", { ids }) as Promise<Came[]>;
const came = async (id: string) => (await cameAll(id))[0]!;

test("what was given is done, in order, whatever becomes of its page, and is answered", async () => {
  const verdicts = idsOn(engine).map((item) => letGo(item));
  expect(await give(...verdicts)).toEqual({ given: verdicts.map(({ id }) => id) });
  for (const { id } of verdicts) expect(await came(id)).toMatchObject({ report: { done: 1, refused: [] } });
  expect(lying()).toBe(0);
  const done = ledgerList(engine).filter((entry) => entry.act === "let-go");
  expect(done).toHaveLength(30);
});

test("who waits for several is told of those that are done, and need not wait for the last", async () => {
  const verdicts = idsOn(engine).map((item) => letGo(item));
  await give(...verdicts);
  const waiting = new Set(verdicts.map(({ id }) => id));
  let asked = 0;
  for (; waiting.size > 0; asked++)
    for (const { id, report } of await cameAll(...waiting)) {
      expect(report).toMatchObject({ done: 1 });
      expect(waiting.delete(id)).toBe(true);
    }
  expect(asked).toBeGreaterThan(1);
});

test("given twice it is done once, and each time answered the same", async () => {
  const [item] = idsOn(engine);
  const verdict = letGo(item!);
  await give(verdict);
  const first = await came(verdict.id);
  await give(verdict, verdict);
  expect(await came(verdict.id)).toEqual(first);
  expect(ledgerList(engine)).toHaveLength(1);
});

test("what could not be done is answered too, and holds up nothing after it", async () => {
  const [a, b] = idsOn(engine);
  const [wrong, torn, right] = [letGo("no-such-thing"), { ...letGo(a!), input: {} as never }, letGo(b!)];
  await give(wrong, torn, right);
  expect(await came(wrong.id)).toMatchObject({ problem: { code: "unknown-item" } });
  expect(await came(torn.id)).toMatchObject({ problem: { code: "malformed" } });
  expect(await came(right.id)).toMatchObject({ report: { done: 1 } });
  expect(await came("never-given")).toMatchObject({ problem: { code: "unknown-entry" } });
});

test("a verdict is taken back by the id under which it was given, once it is done", async () => {
  const items = idsOn(engine).slice(0, 10);
  const verdicts = items.map((item) => letGo(item));
  await give(...verdicts);
  const undos = verdicts.toReversed().map(({ id }) => ({ id: randomUUID(), act: "ledger/undo", input: { given: id } }));
  await give(...(undos as never[]));
  for (const { id } of undos) expect(await came(id)).toMatchObject({ report: { done: 1, refused: [] } });
  expect(lying()).toBe(30);
});

test("what was written down and not yet done when Vuoto ended is done at its next start, and nothing twice", async () => {
  const items = idsOn(engine);
  const verdicts = items.slice(0, 5).map((item) => letGo(item));
  await give(...verdicts.slice(0, 2));
  for (const { id } of verdicts.slice(0, 2)) await came(id);
  // Of the second the answer was lost; the others were only just written down.
  engine.db.prepare("UPDATE given SET answer = NULL WHERE id = ?").run(verdicts[1]!.id);
  const insert = engine.db.prepare("INSERT INTO given (id, act, input, at) VALUES (?, ?, ?, 0)");
  for (const { id, act, input } of verdicts.slice(2)) insert.run(id, act, JSON.stringify(input));
  await engine.close();
  engine = await place.open();
  goOnGiving(engine, (act, input) => operate(engine, act, input));
  for (const { id } of verdicts) expect(await came(id)).toMatchObject({ report: { done: 1 } });
  expect(lying()).toBe(25);
  expect(ledgerList(engine)).toHaveLength(5);
});

test("a sitting that is gone on with shows what was settled in it", async () => {
  const [a, b, c] = idsOn(engine);
  const verdicts = [letGo(a!), letGo(b!)];
  await give(...verdicts);
  for (const { id } of verdicts) await came(id);
  await operate(engine, "sitting/stay", { items: [c], sitting: "s", tookMs: 7 });
  const view = await sittingView(engine, "s");
  expect(view.sitting).toBe("s");
  expect(view.settled.map(({ items, verdict }) => [items.map((item) => item.id), verdict])).toEqual([
    [[a], "let go"],
    [[b], "let go"],
    [[c], "stay"],
  ]);
  expect(view.pile.map((item) => item.id)).not.toContain(a);
  expect((await sittingView(engine)).settled).toEqual([]);
});

test("where there is no room to write down what one came to, who waits is told, and the rest is done once there is", async () => {
  const verdicts = idsOn(engine)
    .slice(0, 3)
    .map((item) => letGo(item));
  const prepare = engine.db.prepare.bind(engine.db);
  let full = true;
  engine.db.prepare = ((sql: string) => {
    const statement = prepare(sql);
    if (!sql.startsWith("UPDATE given SET answer")) return statement;
    const run = statement.run.bind(statement);
    statement.run = (...values: unknown[]) => {
      if (full) throw Object.assign(new Error("SQLITE_FULL: full"), { code: "SQLITE_FULL" });
      return run(...values);
    };
    return statement;
  }) as typeof engine.db.prepare;
  await give(...verdicts);
  expect(await came(verdicts[0]!.id)).toMatchObject({ report: { done: 1 } });
  full = false;
  goOnGiving(engine, (act, input) => operate(engine, act, input));
  for (const { id } of verdicts) expect(await came(id)).toMatchObject({ report: { done: 1, refused: [] } });
  expect(lying()).toBe(27);
  expect(ledgerList(engine).filter((entry) => entry.act === "let-go")).toHaveLength(3);
});
