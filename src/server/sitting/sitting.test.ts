import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import { realClock } from "../clock";
import type { Engine } from "../engine";
import { frameView } from "../frame";
import { put } from "../homes/put";
import { undo } from "../ledger/undo";
import { quiet } from "../quiet/quiet";
import { archive } from "./archive";
import { letGo } from "./let-go";
import { timeToClear } from "./pace";
import { stay } from "./stay";
import { verdictsInForce } from "./verdict";
import { pileOf, sittingEnd, sittingView, thing } from "./view";
import { wait } from "./wait";

const day = 86_400_000;
let place: Place;
let engine: Engine;
let now: number;

beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 55, 24));
  now = Date.now();
  engine = await place.open({ clock: { ...realClock, now: () => now } });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("verdicts", () => {
  test("take a thing off the pile: for good, until a date, until its parcel is sent", async () => {
    const [a, b, c, d] = idsOn(engine) as [string, string, string, string];
    const whole = pileOf(engine).length;
    await stay(engine, { items: [a] });
    await stay(engine, { items: [b], until: now + 3 * day });
    await wait(engine, { items: [c] });
    await archive(engine, { items: [d], parcel: "P" });
    expect(pileOf(engine)).toHaveLength(whole - 4);
    now += 4 * day;
    expect(pileOf(engine).map((item) => item.id)).toContain(b);
    now += 30 * day;
    expect(pileOf(engine).map((item) => item.id)).toContain(c);
    expect([...verdictsInForce(engine).keys()].sort()).toEqual([a, d].sort());
  });

  test("can be changed, and undone one after the other", async () => {
    const [a] = idsOn(engine) as [string];
    await wait(engine, { items: [a] });
    await stay(engine, { items: [a] });
    expect(verdictsInForce(engine).get(a)?.verdict).toBe("stay");
    await undo(engine, {});
    expect(verdictsInForce(engine).get(a)?.verdict).toBe("wait");
    await undo(engine, {});
    expect(verdictsInForce(engine).has(a)).toBe(false);
  });

  test("stay decides what is still shown when only what stays is", async () => {
    const [a, b] = idsOn(engine) as [string, string];
    await stay(engine, { items: [a, b] });
    await quiet(engine, { level: "what stays" });
    expect(fs.readdirSync(path.join(place.root, "Bureau")).filter((name) => !name.startsWith("."))).toHaveLength(2);
  });

  test("say what they did in words, for one and for many", async () => {
    const [a, b, c] = idsOn(engine) as [string, string, string];
    const { label } = pileOf(engine).find((item) => item.id === a)!;
    expect((await stay(engine, { items: [a] })).words).toBe(`Left ${label} where it lies`);
    expect((await stay(engine, { items: [b, c] })).words).toBe("Left 2 things where they lie");
    expect((await wait(engine, { items: [b, c], until: Date.UTC(2031, 4, 6, 12) })).words).toBe(
      "Let 2 things wait until 6 May 2031",
    );
    expect((await archive(engine, { items: [b] })).words).toMatch(/^Collected .+ in the parcel “Archive \d{4}”$/);
  });
});

describe("a sitting", () => {
  test("has likes beside likes, and the first thing already looked at", async () => {
    const view = await sittingView(engine);
    const kinds = view.pile.map((item) => item.kind);
    expect(kinds.filter((kind, n) => kind !== kinds[n - 1])).toHaveLength(new Set(kinds).size);
    expect(view.first?.id).toBe(view.pile[0]?.id);
    expect(view.pace).toBeUndefined();
  });

  test("shows what is known about a thing: where a shortcut leads, that it is identical, that it is in use", async () => {
    fs.writeFileSync(path.join(place.root, "Bureau/a copy"), "same content");
    fs.writeFileSync(path.join(place.root, "Inbox/another"), "same content");
    fs.writeFileSync(path.join(place.root, "Bureau/.~lock.a copy#"), "");
    await engine.lookAgain();
    const copy = pileOf(engine).find((item) => item.label === "a copy")!;
    const titles = (await thing(engine, copy.id)).proofs.map((p) => p.title);
    expect(titles).toEqual(["identical elsewhere", "in use"]);
    const shortcut = pileOf(engine).find((item) => item.kind === "shortcut")!;
    expect((await thing(engine, shortcut.id)).proofs[0]).toMatchObject({ title: "leads nowhere" });
  });

  test("knows the pace after ten verdicts, leaving interruptions aside", async () => {
    const ids = idsOn(engine);
    for (const [n, id] of ids.slice(0, 10).entries()) {
      expect(timeToClear(engine, 100)).toBeUndefined();
      await stay(engine, { items: [id], sitting: "s", tookMs: n % 2 ? 2000 : 4000 });
    }
    expect(timeToClear(engine, 100)).toBe(300_000);
    await stay(engine, { items: [ids[10]!], sitting: "s", tookMs: 3_600_000 });
    expect(timeToClear(engine, 100)).toBe(300_000);
  });

  test("ends with before and after, and is undone as a whole", async () => {
    const before = place.tree();
    const [a, b, c, d, e] = idsOn(engine) as [string, string, string, string, string];
    const lying = idsOn(engine).length + idsOn(engine, "downloads").length;
    const of = { sitting: "s", tookMs: 1000 };
    await put(engine, { home: { title: "Home" }, items: [a], ...of });
    await letGo(engine, { items: [b], ...of });
    await stay(engine, { items: [c], ...of });
    await wait(engine, { items: [d], ...of });
    await archive(engine, { items: [e], parcel: "Season", ...of });
    expect(await sittingEnd(engine, "s")).toMatchObject({
      went: { "put away": 1, "let go": 1, stay: 1, wait: 1, archive: 1 },
      parcel: "Season",
    });
    expect(frameView(engine).waiting).toBe(1);
    await stay(engine, { items: [e] });
    expect(frameView(engine).waiting).toBe(0);
    expect(await sittingEnd(engine, "s")).toMatchObject({ before: lying, after: lying - 2, settled: 5, entries: 5 });
    await undo(engine, {});
    expect(await undo(engine, { sitting: "s" })).toMatchObject({ words: "Took back 5 acts", refused: [] });
    expect(pileOf(engine)).toHaveLength(lying);
    expect([...place.tree().keys()].filter((rel) => !rel.startsWith(".local"))).toEqual([...before.keys()]);
  });
});
