import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { makePlace, type Place } from "../../../fixtures/engine";
import { realCalls } from "./calls";
import { Disk } from "./disk";

let place: Place;
beforeEach(() => {
  place = makePlace((root) => {
    fs.mkdirSync(path.join(root, "real/inner"), { recursive: true });
    fs.writeFileSync(path.join(root, "real/inner/file"), "mine");
    fs.symlinkSync("real", path.join(root, "door"));
    fs.symlinkSync(path.join(root, "real/inner"), path.join(root, "real/side"));
  });
});
afterEach(() => place.remove());
const at = (...parts: string[]) => rawFromText(path.join(place.root, ...parts));

test("no folder is reached through a link, first or last on the way, whether it is looked into or written", () => {
  const disk = new Disk(realCalls, () => () => true);
  const before = place.tree();
  for (const way of [at("door"), at("door/inner"), at("real/side")]) {
    expect(() => disk.list(way), way).toThrow(expect.objectContaining({ code: "link-on-the-way" }));
    expect(() => disk.createSmall(rawFromText(`${way}/new`), Buffer.from("x"), 0o600), way).toThrow(
      expect.objectContaining({ code: "link-on-the-way" }),
    );
  }
  // A link itself is a thing that can be seen.
  expect(disk.identity(at("door"))?.type).toBe("link");
  expect(place.tree()).toEqual(before);
});
