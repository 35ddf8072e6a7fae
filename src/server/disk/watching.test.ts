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

const clock = standingClock(0);
/** Resolves with the next change that is told of, by somebody who watches from now on. */
function next(folder: Buffer, work: () => void, pass = 0): Promise<void> {
  stop();
  return new Promise<void>((told) => {
    stop = watchFolders(clock, [rawFromBytes(folder)], told, () => {});
    work();
    clock.pass(pass);
  });
}

test("what comes into a folder, changes in it or leaves it is told, whatever the bytes of its name", async () => {
  const folder = Buffer.concat([Buffer.from(root), Buffer.from([0x2f, 0xff, 0xfe])]);
  fs.mkdirSync(folder);
  const file = Buffer.concat([folder, Buffer.from("/a")]);
  await next(folder, () => fs.writeFileSync(file, "1"));
  await next(folder, () => fs.appendFileSync(file, "2"));
  await next(folder, () => fs.unlinkSync(file));
});

test("a folder that went and came back is watched again", async () => {
  const folder = path.join(root, "desktop");
  fs.mkdirSync(folder);
  let changes = 0;
  stop = watchFolders(
    clock,
    [rawFromBytes(Buffer.from(folder))],
    () => changes++,
    () => {},
  );
  const toldOf = async (work: () => void) => {
    const before = changes;
    work();
    clock.pass(2000);
    await expect.poll(() => changes).toBeGreaterThan(before);
  };
  await toldOf(() => fs.renameSync(folder, path.join(root, "elsewhere")));
  await toldOf(() => fs.mkdirSync(folder));
  // The system alone tells of this: the folder that is there now is the one that is watched.
  const before = changes;
  fs.writeFileSync(path.join(folder, "new"), "");
  await expect.poll(() => changes).toBeGreaterThan(before);
});

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
