import { spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import { readPosition, writePosition } from "../db/record";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import { gather } from "./gather";
import { gatherings } from "./gatherings";
import { setOut } from "./set-out";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const old = new Date(Date.now() - 40 * 86_400_000);
function write(root: string, name: string, content = name): void {
  fs.mkdirSync(path.dirname(path.join(root, name)), { recursive: true });
  fs.writeFileSync(path.join(root, name), content);
  fs.utimesSync(path.join(root, name), old, old);
}
beforeEach(async () => {
  place = makePlace((root) => {
    for (const name of ["a.csv", "b.csv", "letter.txt", "poster.svg"]) write(root, `Desktop/${name}`);
    write(root, "Desktop/folder/inside.txt");
    write(root, "Downloads/d.pdf");
    fs.mkdirSync(path.join(root, "Documents/Year"), { recursive: true });
  });
  engine = await place.open();
  for (const [n, id] of idsOn(engine).entries()) writePosition(engine.db, id, { x: n * 70, y: n * 30 });
});
afterEach(async () => {
  await engine.close();
  place.remove();
});
const desktop = () => fs.readdirSync(at("Desktop")).sort();
const look = () => engine.lookAgain("all");
const positions = () => Object.fromEntries(idsOn(engine).map((id) => [id, readPosition(engine.db, id)]));

describe("gathering", () => {
  test("takes everything but what is named, by one act with one undo", async () => {
    const before = place.tree();
    expect(await gather(engine, { except: ["*.CSV", "poster.svg"], dryRun: true })).toMatchObject({ entry: null });
    expect(desktop()).toHaveLength(5);
    expect(await gather(engine, { except: ["*.CSV", "poster.svg"] })).toMatchObject({ done: 2, refused: [] });
    expect(desktop()).toEqual(["Gathered", "a.csv", "b.csv", "poster.svg"]);
    expect(fs.readdirSync(at("Desktop/Gathered")).sort()).toEqual(["folder", "letter.txt"]);
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
    expect(await gatherings(engine)).toEqual([]);
  });

  test("set out again exactly: content, times, places and positions", async () => {
    const [before, lay] = [place.tree(), positions()];
    await gather(engine, {});
    await look();
    expect(desktop()).toEqual(["Gathered"]);
    expect(await gatherings(engine)).toMatchObject([{ title: "Gathered", alone: true }]);
    expect(await setOut(engine, {})).toMatchObject({ refused: [] });
    await look();
    expect(changesSince(before, place)).toEqual([]);
    expect(positions()).toEqual(lay);
    await expect(setOut(engine, {})).rejects.toMatchObject({ code: "unknown-gathering" });
  });

  test("its folder renamed, set out, and all of that undone: everything lies where it lay", async () => {
    const [before, lay] = [place.tree(), positions()];
    await gather(engine, {});
    fs.renameSync(at("Desktop/Gathered"), at("Documents/Swept"));
    await look();
    await setOut(engine, {});
    await look();
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    await look();
    // The folder that was renamed outside is not Vuoto's to take away.
    expect(changesSince(before, place)).toEqual(["new: Documents/Swept"]);
    expect(positions()).toEqual(lay);
    // One that somebody changed in there is left alone.
    await gather(engine, {});
    fs.renameSync(at("Desktop/Gathered"), at("Documents/Again"));
    fs.appendFileSync(at("Documents/Again/letter.txt"), "more");
    expect((await undo(engine, {})).refused.map(({ name }) => name)).toContain("letter.txt");
    expect(fs.readFileSync(at("Documents/Again/letter.txt"), "utf8")).toContain("more");
  });

  test.each([
    ["renamed", "Desktop/Swept 2026"],
    ["moved into a home", "Documents/Year/Gathered"],
    ["moved to the other worktop and renamed", "Downloads/x"],
  ])("is found again where its folder was %s", async (_, to) => {
    const before = place.tree();
    await gather(engine, {});
    fs.renameSync(at("Desktop/Gathered"), at(to));
    await look();
    expect(await setOut(engine, {})).toMatchObject({ refused: [] });
    await look();
    expect(changesSince(before, place)).toEqual([]);
  });

  test("what was taken out, renamed, saved anew or added in between is told apart", async () => {
    await gather(engine, {});
    fs.renameSync(at("Desktop/Gathered/a.csv"), at("Documents/a.csv"));
    fs.renameSync(at("Desktop/Gathered/b.csv"), at("Desktop/Gathered/other.csv"));
    fs.writeFileSync(at("Desktop/Gathered/new"), "by a program");
    fs.renameSync(at("Desktop/Gathered/new"), at("Desktop/Gathered/letter.txt"));
    write(place.root, "Desktop/Gathered/mine.txt");
    write(place.root, "Desktop/poster.svg", "another one of that name");
    await look();
    expect(await setOut(engine, {})).toMatchObject({ refused: [] });
    // The one added stays where it is, and so does its folder; nothing is replaced.
    expect(desktop()).toEqual(["Gathered", "b.csv", "folder", "letter.txt", "poster (2).svg", "poster.svg"]);
    expect(fs.readdirSync(at("Desktop/Gathered"))).toEqual(["mine.txt"]);
    expect(fs.readFileSync(at("Desktop/letter.txt"), "utf8")).toBe("by a program");
    expect(await gatherings(engine)).toEqual([]);
  });

  test("several are outstanding, one into a folder with the same names; each is set out by itself, or one thing alone", async () => {
    await gather(engine, {});
    await look();
    for (const name of ["a.csv", "letter.txt"]) write(place.root, `Desktop/${name}`, `second ${name}`);
    await look();
    expect(await gather(engine, {})).toMatchObject({ done: 2, refused: [] });
    await look();
    expect(await gather(engine, { worktop: "downloads", home: { title: "Year" } })).toMatchObject({ done: 1 });
    expect(fs.readdirSync(at("Desktop/Gathered")).sort()).toEqual([
      "a (2).csv",
      "a.csv",
      "b.csv",
      "folder",
      "letter (2).txt",
      "letter.txt",
      "poster.svg",
    ]);
    const outstanding = await gatherings(engine);
    expect(outstanding.map(({ things }) => things.length)).toEqual([1, 2, 5]);
    expect(await setOut(engine, { gathering: outstanding[2]!.id, things: ["letter.txt"] })).toMatchObject({ done: 1 });
    expect(fs.readFileSync(at("Desktop/letter.txt"), "utf8")).toBe("Desktop/letter.txt");
    await setOut(engine, { gathering: outstanding[1]!.id });
    expect(fs.readFileSync(at("Desktop/a.csv"), "utf8")).toBe("second a.csv");
    expect(fs.readFileSync(at("Desktop/letter (2).txt"), "utf8")).toBe("second letter.txt");
    await setOut(engine, { gathering: "Documents / Year" });
    expect(fs.existsSync(at("Downloads/d.pdf"))).toBe(true);
    // A home that was there before is not taken away.
    expect(fs.existsSync(at("Documents/Year"))).toBe(true);
  });

  test("gathered, its folder renamed, and gathered again under the old name: both are set out, each to its own places", async () => {
    const first = Object.fromEntries(["a.csv", "letter.txt"].map((name) => [name, fs.readFileSync(at("Desktop", name), "utf8")]));
    await gather(engine, {});
    fs.renameSync(at("Desktop/Gathered"), at("Documents/Year/Earlier"));
    await look();
    for (const name of ["a.csv", "letter.txt"]) write(place.root, `Desktop/${name}`, `second ${name}`);
    await look();
    await gather(engine, {});
    await look();
    const outstanding = await gatherings(engine);
    expect(outstanding.map(({ folder, things }) => [path.basename(folder), things.length])).toEqual([
      ["Gathered", 2],
      ["Earlier", 5],
    ]);
    await setOut(engine, { gathering: outstanding[1]!.id });
    for (const [name, content] of Object.entries(first)) expect(fs.readFileSync(at("Desktop", name), "utf8")).toBe(content);
    await setOut(engine, {});
    expect(fs.readFileSync(at("Desktop/a (2).csv"), "utf8")).toBe("second a.csv");
    expect(await gatherings(engine)).toEqual([]);
  });

  test("gathered, set out and gathered again is one gathering, and a stranger of an old name is none of it", async () => {
    const before = place.tree();
    await gather(engine, {});
    await setOut(engine, {});
    await look();
    await gather(engine, {});
    expect((await gatherings(engine)).map(({ things }) => things.length)).toEqual([5]);
    await setOut(engine, {});
    await look();
    expect(changesSince(before, place)).toEqual([]);
    write(place.root, "Desktop/Gathered/a.csv", "put there by hand");
    await look();
    expect(await gatherings(engine)).toEqual([]);
  });

  test("what is in use is taken along where the person says so, written to meanwhile, and comes back", async () => {
    const writer = spawn("sh", [
      "-c",
      `exec 3>>"${at("Desktop/letter.txt")}"; echo ready; read line; echo more >&3; echo wrote; read line`,
    ]);
    const said = () => new Promise((done) => writer.stdout.once("data", done));
    const ended = new Promise((end) => writer.once("exit", end));
    await said();
    try {
      const tried = await gather(engine, { dryRun: true });
      expect(tried.refused).toMatchObject([{ name: "letter.txt", code: "in-use" }]);
      // The trial shows what would be done, and no more.
      expect(
        tried.steps
          ?.filter(({ type }) => type === "move")
          .map(({ subject }) => subject)
          .sort(),
      ).toEqual(["a.csv", "b.csv", "folder", "poster.svg"]);
      expect(await gather(engine, { evenInUse: true })).toMatchObject({ done: 5, refused: [] });
      const wrote = said();
      writer.stdin.write("\n");
      await wrote;
      expect(fs.readFileSync(at("Desktop/Gathered/letter.txt"), "utf8")).toMatch(/more\n$/);
      expect(await undo(engine, {})).toMatchObject({ refused: [] });
      expect(fs.readFileSync(at("Desktop/letter.txt"), "utf8")).toMatch(/more\n$/);
      expect(desktop()).toEqual(["a.csv", "b.csv", "folder", "letter.txt", "poster.svg"]);
    } finally {
      writer.stdin.end("\n");
      await ended;
    }
  });
  test("what is in use stays, and a file of the folder's name is said", async () => {
    const writer = spawn("sh", ["-c", `exec 3>>"${at("Desktop/letter.txt")}"; echo ready; exec sleep 30`]);
    await new Promise((ready) => writer.stdout.once("data", ready));
    expect(await gather(engine, {})).toMatchObject({ done: 4, refused: [{ name: "letter.txt", code: "in-use" }] });
    expect(desktop()).toEqual(["Gathered", "letter.txt"]);
    const ended = new Promise((end) => writer.once("exit", end));
    writer.kill("SIGKILL");
    await ended;
    await expect(gather(engine, { title: "letter.txt" })).rejects.toMatchObject({ code: "name-taken" });
    await expect(gather(engine, { title: " / " })).rejects.toMatchObject({ code: "bad-name" });
    expect(itemNamed(engine, "letter.txt").worktop).toBe("desktop");
  });
});
