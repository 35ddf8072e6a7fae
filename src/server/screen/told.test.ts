import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { differences } from "../../../fixtures/compare-trees";
import { makePlace, type Place } from "../../../fixtures/engine";
import { onBehalfOf } from "../actor";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { hide, quiet, quietNow } from "../quiet/quiet";
import { quietStatus } from "../quiet/status";
import { survey } from "../survey/survey";
import { runLine } from "./told-commands";
import { useScreen } from "./use";

let place: Place;
let engine: Engine;
const file = (name: string) => path.join(place.folder, name);
const script = (name: string, body: string) => {
  fs.writeFileSync(file(name), `#!/bin/sh\n${body}\n`, { mode: 0o755 });
  return [file(name)];
};
/** A screen that another program draws: what it shows stands in a file, and what it was told in another. */
const drawn = () => (fs.existsSync(file("drawn")) ? fs.readFileSync(file("drawn"), "utf8").trim() : "shown");
const told = () => (fs.existsSync(file("log")) ? fs.readFileSync(file("log"), "utf8").trim().split("\n") : []);
const honest = () => ({
  hide: script("hide", `echo hidden > ${file("drawn")}; echo hide >> ${file("log")}`),
  show: script("show", `echo shown > ${file("drawn")}; echo show >> ${file("log")}`),
  ask: script("ask", `cat ${file("drawn")} 2>/dev/null || echo shown`),
});
const write = (commands: object, mode = 0o600) =>
  fs.writeFileSync(path.join(place.data, "told.json"), JSON.stringify(commands), { mode });
const choose = () => onBehalfOf("command", () => useScreen(engine, { name: "told" }));

beforeEach(async () => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "Desktop/folder"), { recursive: true });
    for (const name of ["a.txt", "b.txt"]) fs.writeFileSync(path.join(root, "Desktop", name), name);
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("a screen that is told", () => {
  test("hides and shows by the person's own commands; nothing moves, and an undo tells it the contrary", async () => {
    write(honest());
    await choose();
    const before = place.tree();
    expect((await quiet(engine, { level: "bare" })).words).toBe("Took 3 icons out of sight");
    expect(drawn()).toBe("hidden");
    expect(quietStatus(engine)).toMatchObject({ hidden: true, believed: "known", inUse: 0 });
    expect(differences(before, place.tree(), () => false)).toEqual([]);
    await undo(engine, {});
    expect(drawn()).toBe("shown");
    expect(quietStatus(engine)).toMatchObject({ hidden: false, level: "everything", outOfSight: [] });
    await quiet(engine, { level: "toggle" });
    await quiet(engine, { level: "toggle" });
    expect(told()).toEqual(["hide", "show", "hide", "show"]);
  });

  test("that cannot be asked was asked to hide; that it did is not said", async () => {
    const { hide: off, show: on } = honest();
    write({ hide: off, show: on });
    await choose();
    const { words } = await quiet(engine, { level: "bare" });
    expect(words).toBe("Asked the screen to hide 3 icons");
    expect(quietStatus(engine)).toMatchObject({ hidden: false, believed: "asked", level: "bare" });
    expect(engine.ledger.latest()?.words).toBe(words);
  });

  test("that says it did, and when asked shows all the same, is no success; it is told to show again, or shows already", async () => {
    write({ ...honest(), hide: script("lie", "exit 0") });
    await choose();
    const { done, refused } = await quiet(engine, { level: "bare" });
    expect(done).toBe(0);
    expect(refused).toMatchObject([{ code: "told-failed", why: expect.stringContaining("they are shown") }]);
    expect(quietStatus(engine)).toMatchObject({ hidden: false, level: "everything" });
  });

  test("that says it hides and lets them be seen later is said to show them", async () => {
    write(honest());
    await choose();
    await quiet(engine, { level: "bare" });
    fs.writeFileSync(file("drawn"), "shown");
    await engine.lookAgain();
    const { operate } = await import("../operations");
    expect(await operate(engine, "quiet/status", {})).toMatchObject({
      hidden: false,
      believed: "otherwise",
      outOfSight: [],
      inUse: 0,
    });
    await quiet(engine, { level: "bare" });
    expect(drawn()).toBe("hidden");
  });

  test("hides all or nothing", async () => {
    write(honest());
    await choose();
    const [item] = quietNow(engine).outOfSight;
    expect(item).toBeUndefined();
    const { worktops } = await survey(engine, {});
    const id = worktops[0]!.items[0]!;
    await expect(quiet(engine, { level: "some kinds", kinds: ["folder"] })).rejects.toMatchObject({ code: "all-or-nothing" });
    await expect(hide(engine, { items: [{ path: btoa(id.path) }] })).rejects.toMatchObject({ code: "all-or-nothing" });
    expect(told()).toEqual([]);
  });

  test.each([
    ["hangs", "sleep 30", /longer than/],
    ["prints without end", "yes", /without end/],
    ["ends with an error", "exit 3", /ended with 3/],
  ])(
    "by a command that %s is told to show again, and nothing counts as hidden",
    async (_what, body, words) => {
      write({ ...honest(), hide: script("bad", `echo hidden > ${file("drawn")}; ${body}`) });
      await choose();
      const { refused } = await quiet(engine, { level: "bare" });
      expect(refused).toMatchObject([{ code: "told-failed", why: expect.stringMatching(words) }]);
      expect(drawn()).toBe("shown");
      expect(quietStatus(engine)).toMatchObject({ hidden: false, level: "everything" });
    },
    15_000,
  );

  test("and was cut off in the middle counts as told, and is told the contrary", async () => {
    write(honest());
    await choose();
    const { db } = engine;
    // As it would lie there had the process died right after the command ran.
    const { shown } = (await import("../db/record")).readScreen(db);
    const to = { ...shown, level: "bare" as const, hidden: ["x"] };
    const step = { type: "tell", to: "hide", shown: { from: shown, to } } as const;
    engine.ledger.entries.begin({ act: "quiet", words: () => "Took icons out of sight", steps: [step], left: [] }, [
      JSON.stringify(step),
    ]);
    fs.writeFileSync(file("drawn"), "hidden");
    await engine.close();
    engine = await place.open();
    expect(engine.recovered.join()).toMatch(/taken back/);
    expect(drawn()).toBe("shown");
    expect(quietStatus(engine)).toMatchObject({ level: "everything" });
  });

  test("is brought back before another screen is chosen", async () => {
    write(honest());
    await choose();
    await quiet(engine, { level: "bare" });
    await useScreen(engine, { name: "listed" });
    expect(drawn()).toBe("shown");
    expect(quietStatus(engine)).toMatchObject({ hidden: false, outOfSight: [] });
  });
});

describe("the file that says how", () => {
  test.each([
    ["is missing", () => {}, /there is none/],
    ["may be read by others", () => write(honest(), 0o644), /others may/],
    [
      "is a link",
      () => {
        fs.writeFileSync(file("elsewhere"), JSON.stringify(honest()), { mode: 0o600 });
        fs.symlinkSync(file("elsewhere"), path.join(place.data, "told.json"));
      },
      /a link/,
    ],
    ["is a pipe", () => void execFileSync("mkfifo", ["-m", "600", path.join(place.data, "told.json")]), /no file/],
    ["is too large", () => write({ ...honest(), hide: ["a", "x".repeat(70_000)] }), /too large/],
  ])("is left alone where it %s", async (_what, make, words) => {
    make();
    await expect(choose()).rejects.toThrow(words);
    expect(quietNow(engine).believed).toBe("known");
  });

  test("is used by no page: the screen is chosen by command alone", async () => {
    write(honest());
    await expect(onBehalfOf("window", () => useScreen(engine, { name: "told" }))).rejects.toMatchObject({
      code: "by-command-alone",
    });
  });

  test("that is gone meanwhile: nothing is told, and that is said", async () => {
    write(honest());
    await choose();
    fs.rmSync(path.join(place.data, "told.json"));
    const { done, refused } = await quiet(engine, { level: "bare" });
    expect(done).toBe(0);
    expect(refused).toMatchObject([{ code: "told-unfit" }]);
  });

  test("says where the places are: in an attribute of each thing, or in a text file", async () => {
    const at = async () => {
      const { worktops } = await survey(engine, { worktop: "desktop" });
      return Object.fromEntries(worktops[0]!.items.map(({ name, position }) => [name, position]));
    };
    execFileSync("setfattr", ["-n", "user.place", "-v", "40:300", path.join(place.root, "Desktop/a.txt")]);
    const positions = { attribute: "user.place", separator: ":", order: "y x" };
    write({ ...honest(), positions });
    await choose();
    const found = await at();
    expect(found["a.txt"]).toEqual({ x: 300, y: 40 });
    // One without lies on a free spot.
    expect(found["b.txt"]).toMatchObject({ x: expect.any(Number) });
    fs.writeFileSync(file("places.ini"), "[b.txt]\nplace=500,600\n");
    write({ ...honest(), positions: { file: file("places.ini"), key: "place", separator: ",", order: "x y" } });
    expect((await at())["b.txt"]).toEqual({ x: 500, y: 600 });
    fs.rmSync(file("places.ini"));
    expect(Object.values(await at())).toHaveLength(3);
  });
});

test("what a command leaves running in its process group ends with it, and is not waited for", async () => {
  const pid = file("pid");
  const outcome = await runLine(script("forks", `(sleep 60 & echo $! > ${pid}; wait) & sleep 0.3; echo hidden`), 4000);
  expect(outcome).toEqual({ output: "hidden\n" });
  const gone = () => {
    try {
      return /^State:\s+Z/m.test(fs.readFileSync(`/proc/${fs.readFileSync(pid, "utf8").trim()}/status`, "utf8"));
    } catch {
      return true;
    }
  };
  await expect.poll(gone).toBe(true);
  expect(await runLine(["no-such-program-here"])).toEqual({ failed: "there is no program no-such-program-here" });
});
