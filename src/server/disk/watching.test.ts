import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, expect, test } from "vitest";
import { rawFromBytes } from "@/core/names/raw";
import { standingClock } from "../../../fixtures/clock";
import { soonButNotLate, watchFolders } from "./watching";

const root = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-watching-"));
let stop = () => {};
afterEach(() => stop());

/** Resolves with the next change that is told of. */
function watching(folder: Buffer) {
  let told = () => {};
  stop = watchFolders(
    [rawFromBytes(folder)],
    () => told(),
    () => {},
  );
  return (work: () => void) =>
    new Promise<void>((resolve) => {
      told = resolve;
      work();
    });
}

test("what comes into a folder, changes in it or leaves it is told, whatever the bytes of its name", async () => {
  const folder = Buffer.concat([Buffer.from(root), Buffer.from([0x2f, 0xff, 0xfe])]);
  fs.mkdirSync(folder);
  const change = watching(folder);
  const file = Buffer.concat([folder, Buffer.from("/a")]);
  await change(() => fs.writeFileSync(file, "1"));
  await new Promise((done) => setTimeout(done, 50));
  await change(() => fs.appendFileSync(file, "2"));
  await new Promise((done) => setTimeout(done, 50));
  await change(() => fs.unlinkSync(file));
});

test("a folder that went and came back is watched again", async () => {
  const folder = path.join(root, "desktop");
  fs.mkdirSync(folder);
  const change = watching(Buffer.from(folder));
  await change(() => fs.renameSync(folder, path.join(root, "elsewhere")));
  await new Promise((done) => setTimeout(done, 2500));
  await change(() => fs.mkdirSync(folder));
  await new Promise((done) => setTimeout(done, 2500));
  await change(() => fs.writeFileSync(path.join(folder, "new"), ""));
}, 20_000);

test("however often something changes, it is looked at soon after the first change", () => {
  const clock = standingClock(0);
  let looks = 0;
  const changed = soonButNotLate(clock, () => looks++, 250, 1500);
  // A file that is written every tenth of a second, for eight seconds.
  for (let n = 0; n < 80; n++) {
    changed();
    clock.pass(100);
    if (n === 20) expect(looks).toBe(1);
  }
  expect(looks).toBeGreaterThanOrEqual(5);
  clock.pass(2000);
  const before = looks;
  changed();
  clock.pass(250);
  expect(looks).toBe(before + 1);
});
