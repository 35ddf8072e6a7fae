import fs from "node:fs";
import path from "node:path";
import { afterEach, expect, test } from "vitest";
import { itemNamed, makePlace, type Place } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { quiet } from "../quiet/quiet";
import { quietView } from "../quiet/view";
import { settingsView } from "../settings/view";
import { protect } from "../survey/protect";
import { elsewhere } from "../survey/protection";

let place: Place;
let engine: Engine;
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("what leads to things on the desktop is counted and said, in settings and before the first time", async () => {
  place = makePlace((root) => {
    const at = (rel: string) => {
      fs.mkdirSync(path.join(root, path.dirname(rel)), { recursive: true });
      return path.join(root, rel);
    };
    fs.writeFileSync(at("Desktop/tide table.pdf"), "x");
    fs.mkdirSync(at("Desktop/Station"));
    fs.symlinkSync("../Desktop/Station/today.csv", at("Downloads/today"));
    fs.symlinkSync("/etc/hosts", at("Desktop/hosts"));
    fs.writeFileSync(
      at("Desktop/run.desktop"),
      `[Desktop Entry]\nType=Application\nExec=view "${root}/Desktop/tide table.pdf"\n`,
    );
    fs.writeFileSync(
      at(".local/share/applications/a.desktop"),
      `[Desktop Entry]\nType=Application\nPath=${root}/Desktop/Station\n`,
    );
    fs.writeFileSync(at(".local/share/applications/b.desktop"), "[Desktop Entry]\nType=Application\nExec=true\n");
    fs.writeFileSync(at(".config/gtk-3.0/bookmarks"), `file://${root}/Desktop/Station Readings\nfile://${root}/Documents\n`);
    fs.writeFileSync(
      at(".local/share/user-places.xbel"),
      `<xbel><bookmark href="file://${root}/Desktop/tide%20table.pdf"/></xbel>`,
    );
  });
  engine = await place.open();
  const words = "1 link, 2 shortcuts and 2 marks in file dialogs lead to things on the desktop, and would not find them.";
  const { choice } = (await settingsView(engine)).screen;
  expect(choice.map(({ name, pointers }) => [name, pointers])).toEqual([
    ["tucked away", words],
    ["listed", undefined],
    ["told", undefined],
  ]);
  expect(quietView(engine).caution).toMatch(/^Programs that look for these by their old place will not find them.*1 link/);
  await quiet(engine, { level: "bare" });
  expect(quietView(engine).caution).toBeUndefined();
});

test("what is tucked away counts as protected once its copy was seen since", async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents"]) fs.mkdirSync(path.join(root, folder));
    for (const folder of ["Desktop", "Documents"]) fs.writeFileSync(path.join(root, folder, "a.txt"), "the same");
    fs.writeFileSync(path.join(root, "Desktop/b.txt"), "alone");
  });
  engine = await place.open();
  const folder = btoa(path.join(place.root, "Documents"));
  await protect(engine, { folder: { path: folder }, protection: "backed up" });
  await engine.lookAgain("all");
  const known = (name: string) => elsewhere(engine)?.get(itemNamed(engine, name).id);
  expect([known("a.txt"), known("b.txt")]).toEqual([true, false]);
  await new Promise((next) => setTimeout(next, 5));
  await quiet(engine, { level: "bare" });
  await engine.lookAgain("worktops");
  expect([known("a.txt"), known("b.txt")]).toEqual([undefined, false]);
  await engine.lookAgain("all");
  expect([known("a.txt"), known("b.txt")]).toEqual([true, false]);
});
