import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import { onBehalfOf } from "../actor";
import { realClock } from "../clock";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { operate } from "../operations";
import { give, givenSoFar } from "../sitting/give";
import { letGo } from "../sitting/let-go";
import { ledgerList } from "./list";
import { undo } from "./undo";

let place: Place;
let engine: Engine;
let now = Date.parse("2026-03-01T12:00:00Z");
beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 41, 6));
  engine = await place.open({ clock: { ...realClock, now: () => now } });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("who gave an act is kept: a window, a command, and a window for what was given in a sitting", async () => {
  const [a, b, c] = idsOn(engine);
  await onBehalfOf("command", () => letGo(engine, { items: [a!] }));
  await onBehalfOf("window", () => letGo(engine, { items: [b!] }));
  const doIt = (act: Parameters<typeof operate>[1], input: unknown) => operate(engine, act, input);
  onBehalfOf("command", () =>
    give(engine, { verdicts: [{ id: "given-here", act: "sitting/let-go", input: { items: [c] } }] }, doIt),
  );
  await givenSoFar(engine);
  await undo(engine, {});
  expect(ledgerList(engine).map(({ act, by }) => [act, by])).toEqual([
    ["undo", null],
    ["let-go", "window"],
    ["let-go", "window"],
    ["let-go", "command"],
  ]);
});

test("when a thing left the worktops is kept, by an act or by another program, and not what became of it later", async () => {
  const left = (id: string) => engine.db.prepare<[string], number>("SELECT left_at FROM item WHERE id = ?").pluck().get(id);
  const [a, b] = idsOn(engine);
  const gone = engine.db.prepare<[string], string>("SELECT label FROM item WHERE id = ?").pluck().get(b!)!;
  expect([left(a!), left(b!)]).toEqual([null, null]);
  await put(engine, { home: { title: "First" }, items: [a!] });
  const then = now;
  now += 86_400_000;
  await put(engine, { home: { title: "Second" }, items: [a!] }).catch(() => {});
  fs.rmSync(path.join(place.root, "Bureau", gone), { recursive: true, force: true });
  await engine.lookAgain("all");
  expect([left(a!), left(b!)]).toEqual([then, now]);
  await undo(engine, { entry: "all" });
  expect(left(a!)).toBeNull();
});
