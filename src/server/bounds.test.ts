import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Raw } from "@/core/names/raw";
import { makePlace, type Place } from "../../fixtures/engine";
import { boundsOf, placesToWrite } from "./bounds";
import type { Engine } from "./engine";

let place: Place;
let engine: Engine;
beforeEach(async () => {
  place = makePlace((root) => {
    for (const folder of ["Desktop", "Documents/Tides", ".config"]) fs.mkdirSync(path.join(root, folder), { recursive: true });
  });
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

test("each place that may be written says why, and nothing else may be", () => {
  expect(placesToWrite(engine).every(({ why }) => why !== "")).toBe(true);
  const may = boundsOf(engine);
  const at = (name: string) => path.join(place.root, name) as Raw;
  const temporary = `.vuoto-${"a".repeat(32)}.part`;
  for (const name of [
    "Desktop/a",
    "Desktop/folder/deep/a",
    "Documents",
    "Documents/Tides/a",
    ".local/share/Trash/files/a",
    ".local/share/Trash/info/a.trashinfo",
    ".local",
    ".local/share",
    ".local/share/applications",
    ".local/share/applications/vuoto.desktop",
    `.local/share/applications/${temporary}`,
    ".config/autostart",
    ".config/autostart/vuoto.desktop",
  ])
    expect(may(at(name)), name).toBe(true);
  for (const name of [
    "Desktop",
    "Other/a",
    ".config/autostart/a.desktop",
    ".bashrc",
    ".local/share/applications/other.desktop",
    ".local/share/applications/deep/vuoto.desktop",
    ".local/bin/a",
    ".local/share/vuoto/vuoto.sqlite",
  ])
    expect(may(at(name)), name).toBe(false);
  expect(may(place.root as Raw)).toBe(false);
  expect(may("/etc/passwd" as Raw)).toBe(false);
  expect(may(path.join(place.data, "vuoto.sqlite") as Raw)).toBe(false);
});
