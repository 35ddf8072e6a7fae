import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { changesSince } from "../../../fixtures/acts";
import { idsOn, itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { usesIn } from "../jobs/work/noted-uses";
import { undo } from "../ledger/undo";
import { quiet } from "../quiet/quiet";
import { undecided } from "../sitting/pile";
import { itemById } from "../survey/items";
import { addHomes } from "./add";
import { homes } from "./homes";
import { overlooked } from "./overlooked";
import { suggestedHomes } from "./prepare";
import { put } from "./put";
import { lastUses } from "./shortcuts";
import { sweep } from "./sweep";

let place: Place;
let engine: Engine;
const at = (...parts: string[]) => path.join(place.root, ...parts);
const daysAgo = (days: number) => new Date(Date.now() - days * 86_400_000);
const mark = (exec: string, modified: string) =>
  `<bookmark href="file:///x"><info><metadata owner="http://freedesktop.org"><bookmark:applications>
   <bookmark:application name="n" exec="${exec}" modified="${modified}" count="1"/></bookmark:applications></metadata></info></bookmark>`;
const noted = (...marks: string[]) => `<?xml version="1.0"?><xbel version="1.0">${marks.join("")}</xbel>`;

beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents", ".local/bin", ".local/share", ".config/plotter", ".cache/editor"])
      fs.mkdirSync(path.join(root, folder), { recursive: true });
    for (const [name, categories] of [
      ["plotter", "Science;"],
      ["reader", "Qt;Science;Education;"],
      ["editor", "AudioVideo;"],
      ["scanner", "Graphics;"],
      ["ledger", "Science;"],
      ["cutter", "Video;"],
      ["unknown", "X-Own;"],
    ] as const) {
      fs.writeFileSync(path.join(root, ".local/bin", name), "#!/bin/sh\n", { mode: 0o755 });
      const exec = path.join(root, ".local/bin", name);
      fs.writeFileSync(
        path.join(root, `Desktop/${name}.desktop`),
        `[Desktop Entry]\nType=Application\nName=${name}\nExec=${exec} %f\nCategories=${categories}\n`,
      );
    }
    fs.writeFileSync(
      path.join(root, "Desktop/gone.desktop"),
      "[Desktop Entry]\nType=Application\nExec=/no/such/program\nCategories=Science;\n",
    );
    fs.writeFileSync(
      path.join(root, ".local/share/recently-used.xbel"),
      noted(
        mark("&apos;scanner %u&apos;", daysAgo(300).toISOString()),
        mark("&apos;/usr/bin/editor %u&apos;", daysAgo(200).toISOString()),
        mark("&apos;cutter&apos;", daysAgo(91).toISOString()),
      ),
    );
    fs.utimesSync(path.join(root, ".cache/editor"), daysAgo(150), daysAgo(150));
    fs.utimesSync(path.join(root, ".config/plotter"), daysAgo(2), daysAgo(2));
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("shortcuts", () => {
  test("to programs not used for long share a folder on the desktop, and so do those of one activity", async () => {
    const groups = (await overlooked(engine)).map(({ why, tiles, home }) => [
      home.title,
      tiles.map(({ name }) => name).sort(),
      why,
    ]);
    expect(groups.slice(0, 2)).toEqual([
      [
        "Desktop / Rarely used",
        ["cutter.desktop", "editor.desktop", "scanner.desktop"],
        expect.stringContaining("not used since"),
      ],
      ["Desktop / Science", ["ledger.desktop", "plotter.desktop", "reader.desktop"], "shortcuts for science"],
    ]);
    // Dead ones are for letting go, and what does not say what it is for stands with its likes.
    const rest = groups.slice(2).flatMap(([, names]) => names);
    expect(rest).toEqual(expect.arrayContaining(["gone.desktop", "unknown.desktop"]));
  });

  test("a program's last use is the latest that is known, and unknown where nothing tells", async () => {
    const used = await lastUses(engine, new Set(["plotter", "editor", "scanner", "reader"]));
    const days = (name: string) => Math.round((Date.now() - used.get(name)!) / 86_400_000);
    expect([days("plotter"), days("editor"), days("scanner")]).toEqual([2, 150, 300]);
    expect(used.has("reader")).toBe(false);
  });

  test("a list that grew beyond all use is not read into memory, and says nothing; read anew once it is another", async () => {
    const file = at(".local/share/recently-used.xbel");
    const before = await lastUses(engine, new Set(["scanner"]));
    fs.truncateSync(file, 17 << 20);
    expect((await lastUses(engine, new Set(["scanner"]))).get("scanner")).not.toBe(before.get("scanner"));
    fs.writeFileSync(file, noted(mark("/usr/bin/scanner %u", "2026-01-01T00:00:00Z")));
    expect((await lastUses(engine, new Set(["scanner"]))).get("scanner")).toBe(Date.UTC(2026, 0, 1));
  });

  test.each([
    "",
    "no xml at all <",
    "<xbel/>",
    "<xbel><bookmark/></xbel>",
    noted(mark("", "never")),
    noted(mark("%u", "2026-01-01T00:00:00Z")),
  ])("a damaged list of recently used files tells nothing: %s", (text) => {
    expect(usesIn(text).size).toBe(0);
  });
});

describe("new homes", () => {
  test("are suggested with what would go into them, tried, made and filled by one act, and undone", async () => {
    const before = place.tree();
    const suggested = await suggestedHomes(engine);
    expect(suggested.map(({ title, things }) => [title, things.length])).toEqual(
      expect.arrayContaining([
        ["Desktop / Rarely used", 3],
        ["Desktop / Science", 3],
      ]),
    );
    const filling = { homes: suggested.map(({ title, things }) => ({ home: { title }, items: things.map(({ id }) => id) })) };
    expect(await sweep(engine, { ...filling, dryRun: true })).toMatchObject({ done: 8, entry: null });
    expect(changesSince(before, place)).toEqual([]);
    expect(await sweep(engine, filling)).toMatchObject({ done: 8, refused: [] });
    await engine.lookAgain("all");
    expect(fs.readdirSync(at("Desktop")).sort()).toEqual(["Rarely used", "Science"]);
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test("several are made empty by one act; two in one new folder share it", async () => {
    const before = place.tree();
    const report = await addHomes(engine, {
      homes: [{ title: "Season 13 / Rings" }, { title: "Season 13 / Nests" }, { title: "Desktop / Daily" }],
    });
    expect(report).toMatchObject({ words: "Made 3 homes", refused: [] });
    expect(fs.readdirSync(at("Documents/Season 13")).sort()).toEqual(["Nests", "Rings"]);
    expect(homes(engine).map(({ title }) => title)).toContain("Desktop / Daily");
    await undo(engine, {});
    expect(changesSince(before, place)).toEqual([]);
  });

  test("one on the desktop itself is no clutter: it stays in the quiet, waits for no verdict, and is filled again", async () => {
    const home = { title: "Desktop / Daily" };
    await put(engine, { home, items: [itemNamed(engine, "plotter.desktop").id] });
    await engine.lookAgain("all");
    const daily = itemNamed(engine, "Daily").id;
    expect(undecided(engine).map((item) => item.id)).not.toContain(daily);
    expect((await overlooked(engine)).flatMap(({ tiles }) => tiles.map((tile) => tile.id))).not.toContain(daily);
    await put(engine, { home, items: [itemNamed(engine, "reader.desktop").id] });
    expect(fs.readdirSync(at("Desktop/Daily")).sort()).toEqual(["plotter.desktop", "reader.desktop"]);
    await quiet(engine, { level: "bare" });
    // Out of sight it is the same home.
    expect(await put(engine, { home, items: [itemNamed(engine, "editor.desktop").id] })).toMatchObject({ done: 1 });
    expect(fs.existsSync(at("Desktop/Daily"))).toBe(false);
    await quiet(engine, { level: "everything" });
    expect(fs.readdirSync(at("Desktop/Daily")).sort()).toEqual(["editor.desktop", "plotter.desktop", "reader.desktop"]);
    await quiet(engine, { level: "what stays" });
    expect(idsOn(engine).filter((one) => itemById(engine.db, one)!.folder === at("Desktop"))).toEqual([daily]);
  });
});
