import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { makePlace } from "../../../fixtures/engine";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { folderMeant, folders } from "../folders";
import { frameView } from "../frame";
import { undo } from "../ledger/undo";
import { place as placeIcons } from "../quiet/place";
import { screenOf } from "../screen/screens";
import { itemsOn } from "../survey/items";
import { surveyView } from "../survey/view";
import { setKey } from "./key";
import { setScreen } from "./screen";
import { settingsView } from "./view";

let place: ReturnType<typeof makePlace>;
let engine: Engine;
beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents/Tides", "Documents/.hidden", "Music"])
      fs.mkdirSync(path.join(root, folder), { recursive: true });
    fs.writeFileSync(path.join(root, "Desktop/a.txt"), "a");
    fs.symlinkSync("Music", path.join(root, "Link"));
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

describe("a key", () => {
  test("is given to a command, drawn everywhere, and taken back by undo", async () => {
    const report = await setKey(engine, { command: "undo", key: "R" });
    expect(report).toMatchObject({ done: 1, words: "R is now the key for “undo the last act”" });
    expect(frameView(engine).keys).toMatchObject({ undo: "r", again: "y" });
    await undo(engine, {});
    expect(frameView(engine).keys.undo).toBe("z");
  });
  test("that another command has is refused, and says which", async () => {
    await expect(setKey(engine, { command: "undo", key: "y" })).rejects.toMatchObject({
      code: "bad-key",
      title: "“Y” cannot be the key: it is the one for “do again what was undone”.",
    });
    for (const key of ["", "ab", "7", " "])
      await expect(setKey(engine, { command: "undo", key })).rejects.toMatchObject({ code: "bad-key" });
  });
  test("that became free by a change can be given to another; and all go back at once", async () => {
    await setKey(engine, { command: "undo", key: "r" });
    await setKey(engine, { command: "quiet", key: "z" });
    // The key it had at first is taken now.
    await expect(setKey(engine, { command: "undo" })).rejects.toMatchObject({ code: "bad-key" });
    await setKey(engine, {});
    expect(frameView(engine).keys).toMatchObject({ undo: "z", quiet: "q" });
    expect(await setKey(engine, {})).toMatchObject({ entry: null, done: 0 });
  });
});

describe("the screen's size", () => {
  test("is said where it cannot be asked; the plan is drawn to it, and undo brings back the one before", async () => {
    const before = readScreen(engine.db).size;
    await setScreen(engine, { width: 1280, height: 800, icon: 48 });
    expect((await surveyView(engine, "desktop")).sheet).toMatchObject({ width: 1280, icon: { width: 48 } });
    expect(await setScreen(engine, { width: 1280, height: 800, icon: 48 })).toMatchObject({ entry: null });
    await undo(engine, {});
    expect(readScreen(engine.db).size).toEqual(before);
    expect(engine.db.prepare("SELECT count(*) FROM record WHERE key = 'screen'").pluck().get()).toBe(0);
  });
  test("smaller than it was leaves no icon beyond its edge, and each is where it lay once it is large again", async () => {
    engine.db.exec(`INSERT INTO record VALUES ('setting:screen', '"simulated"')`);
    const [item] = itemsOn(engine.db, "desktop");
    await placeIcons(engine, { spots: [{ item: item!.id, x: 1800, y: 1000 }] });
    const lies = () => screenOf(engine).positions(engine, [item!])?.get(item!.id);
    await setScreen(engine, { width: 1280, height: 800, icon: 48 });
    const { icon } = readScreen(engine.db).size;
    expect(lies()).toEqual({ x: 1280 - icon.width, y: 800 - icon.height });
    await undo(engine, {});
    expect(lies()).toEqual({ x: 1800, y: 1000 });
  });
});

test("all that can be set is told, with what Vuoto keeps", async () => {
  const view = await settingsView(engine);
  expect(view).toMatchObject({
    keys: { undo: "z" },
    sessions: [],
    screen: { name: "tucked away", width: 1920 },
    launchers: [
      { which: "open", state: "none" },
      { which: "gather", state: "none" },
      { which: "quiet", state: "none" },
      { which: "at log-in", state: "none" },
    ],
    pictures: { size: "0 bytes", most: "200.0 MB" },
  });
  expect(view.record.copies).toEqual([]);
});

describe("folders, for choosing one", () => {
  test("begin with the account's; hidden ones and links are left out", () => {
    const answer = folders(engine, {});
    expect(answer).toMatchObject({ name: "~", more: 0, starts: [{ name: "your own files" }] });
    expect(answer.folders.map(({ name }) => name)).toEqual(["Desktop", "Documents", "Music"]);
    const inside = folders(engine, { folder: { path: answer.folders[1]!.path } });
    expect(inside).toMatchObject({ name: "~/Documents", above: { name: "~" } });
    expect(inside.folders.map(({ name }) => name)).toEqual(["Tides"]);
  });
  test("are meant as they were typed: from the root on, or from the account's on", () => {
    const meant = (typed: string) => folderMeant(engine.account, typed);
    expect(["~/Music", "Music/", "~", `${place.root}/Music`].map(meant)).toEqual([
      `${place.root}/Music`,
      `${place.root}/Music`,
      place.root,
      `${place.root}/Music`,
    ]);
  });
  test("that are not there are said to be", () => {
    expect(() => folders(engine, { folder: "~/None" })).toThrow(
      expect.objectContaining({ code: "folder-gone", title: "The folder ~/None is missing or cannot be read." }),
    );
  });
});
