import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { PileItem } from "@/contract/views";
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
import { undecided } from "./pile";
import { stay } from "./stay";
import { verdictsInForce } from "./verdict";
import { sittingEnd, sittingView, thing } from "./view";
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
    const whole = undecided(engine).length;
    await stay(engine, { items: [a] });
    await stay(engine, { items: [b], until: now + 3 * day });
    await wait(engine, { items: [c] });
    await archive(engine, { items: [d], parcel: "P" });
    expect(undecided(engine)).toHaveLength(whole - 4);
    now += 4 * day;
    expect(undecided(engine).map((item) => item.id)).toContain(b);
    now += 30 * day;
    expect(undecided(engine).map((item) => item.id)).toContain(c);
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
    const { label } = undecided(engine).find((item) => item.id === a)!;
    expect((await stay(engine, { items: [a] })).words).toBe(`Left ${label} where it lies`);
    expect((await stay(engine, { items: [b, c] })).words).toBe("Left 2 things where they lie");
    expect((await wait(engine, { items: [b, c], until: Date.UTC(2031, 4, 6, 12) })).words).toBe(
      "Let 2 things wait until 6 May 2031",
    );
    expect((await archive(engine, { items: [b] })).words).toMatch(/^Collected .+ in the parcel “Archive \d{4}”$/);
  });
});

describe("a sitting", () => {
  test("has what is due first, then families, then likes beside likes; the first is already looked at", async () => {
    const names = ["a", "b", "c"].map((letter) => `harbour ledger ${letter}.txt`);
    for (const name of names) fs.writeFileSync(path.join(place.root, "Inbox", name), name);
    await engine.lookAgain("all");
    const [due, later] = idsOn(engine) as [string, string];
    await wait(engine, { items: [due], until: now + 2 * day });
    await wait(engine, { items: [later], until: now + 9 * day });
    const before = await sittingView(engine);
    expect(before.around.waiting).toBe(2);
    expect(before.times).toEqual([]);
    now += 3 * day;
    const view = await sittingView(engine);
    expect(view.pile[0]).toMatchObject({ id: due, due: now - day });
    expect(view.pile.map((item) => item.id)).not.toContain(later);
    expect(view.around.waiting).toBe(2);
    expect(view.first?.id).toBe(due);
    expect(view.first?.proofs.map(({ title }) => title)).toContain("due");
    // Those of one family lie together, and so do those of one kind that are in none.
    for (const key of [({ family }: PileItem) => family, ({ kind, family }: PileItem) => (family ? undefined : kind)]) {
      const keys = view.pile.slice(1).flatMap((item) => key(item) ?? []);
      expect(keys.filter((one, n) => one !== keys[n - 1])).toHaveLength(new Set(keys).size);
    }
    const harbour = view.pile.find(({ name }) => name === names[0])!.family!;
    expect(view.pile.filter(({ family }) => family === harbour).map(({ name }) => name)).toEqual(names);
    expect(view.families[harbour - 1]).toContain("harbour ledger");
  });

  test("shows what is known about a thing: where a shortcut leads, that it is identical, that it is in use", async () => {
    fs.writeFileSync(path.join(place.root, "Bureau/a copy"), "same content");
    fs.writeFileSync(path.join(place.root, "Inbox/another"), "same content");
    fs.writeFileSync(path.join(place.root, "Bureau/.~lock.a copy#"), "");
    await engine.lookAgain();
    const copy = undecided(engine).find((item) => item.label === "a copy")!;
    const titles = (await thing(engine, copy.id)).proofs.map((p) => p.title);
    expect(titles).toEqual(["identical elsewhere", "in use", "why it is taken for this kind"]);
    const shortcut = undecided(engine).find((item) => item.kind === "shortcut")!;
    expect((await thing(engine, shortcut.id)).proofs[0]).toMatchObject({ title: "leads nowhere" });
  });

  test("knows the pace after ten verdicts, leaving interruptions aside", async () => {
    const ids = idsOn(engine);
    const rest = Array.from({ length: 100 }, () => ({ kind: "text" as const }));
    for (const [n, id] of ids.slice(0, 10).entries()) {
      expect(timeToClear(engine, rest)).toBeUndefined();
      await stay(engine, { items: [id], sitting: "s", tookMs: n % 2 ? 2000 : 4000 });
    }
    const { ms } = timeToClear(engine, rest)!;
    expect(ms).toBeGreaterThan(200_000);
    expect(ms).toBeLessThan(400_000);
    await stay(engine, { items: [ids[10]!], sitting: "s", tookMs: 3_600_000 });
    expect(timeToClear(engine, rest)!.ms).toBe(ms);
  });

  test("tells on its first screen where the last one stopped, and what is left", async () => {
    expect((await sittingView(engine)).before).toBeUndefined();
    const ids = idsOn(engine);
    const { label } = undecided(engine).find(({ id }) => id === ids[11])!;
    for (const id of ids.slice(0, 12)) await stay(engine, { items: [id], sitting: "first", tookMs: 3000 });
    // The same sitting goes on, and tells nothing of itself.
    expect((await sittingView(engine, "first")).before).toBeUndefined();
    const left = undecided(engine).length;
    expect((await sittingView(engine)).before).toMatch(
      new RegExp(`settled 12 and ended with ${label}; ${left} are left, .+ at your pace\\.$`),
    );
  });

  test("decides a thing once: what was decided elsewhere meanwhile is left so, and that is said", async () => {
    const [a, b] = idsOn(engine) as [string, string];
    await stay(engine, { items: [a], sitting: "one" });
    const other = await wait(engine, { items: [a, b], sitting: "other" });
    expect(other).toMatchObject({ done: 1, refused: [{ item: a, code: "decided" }] });
    expect(verdictsInForce(engine).get(a)?.verdict).toBe("stay");
    // By command, outside a sitting, the person may think again.
    expect(await wait(engine, { items: [a] })).toMatchObject({ done: 1, refused: [] });
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
    const end = await sittingEnd(engine, "s");
    expect(end).toMatchObject({ before: lying, after: lying - 2, settled: 5, entries: 5 });
    expect(end.won).toContainEqual({ figure: "things", before: String(lying), after: String(lying - 2) });
    await undo(engine, {});
    expect(await undo(engine, { sitting: "s" })).toMatchObject({ words: "Undid 5 acts", refused: [] });
    expect(undecided(engine)).toHaveLength(lying);
    expect([...place.tree().keys()].filter((rel) => !rel.startsWith(".local"))).toEqual([...before.keys()]);
  });
});
