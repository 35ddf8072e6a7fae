import { execFileSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Raw } from "@/core/names/raw";
import { type Calls, realCalls } from "./calls";
import { Disk } from "./disk";
import { removeTree, scanTree, stateOfTree, treeState, watchedIn } from "./tree";
import { walkTree } from "./walk";

let folder: string;
const at = (...parts: string[]) => path.join(folder, ...parts) as Raw;
const diskWith = (calls: Calls = realCalls) => new Disk(calls, () => () => true);
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-walk-")));
});
afterEach(() => fs.rmSync(folder, { recursive: true, force: true }));

const walked = (disk: Disk, place: Raw) => Array.from(walkTree(disk, place), ({ when, rel }) => `${when} ${rel()}`);

test("a thing is walked by name, each folder before what lies in it and after, links not followed", () => {
  fs.mkdirSync(at("tree/b/c"), { recursive: true });
  fs.writeFileSync(at("tree/a"), "");
  fs.writeFileSync(at("tree/b/c/d"), "");
  fs.symlinkSync("/", at("tree/b/everything"));
  expect(walked(diskWith(), at("tree"))).toEqual([
    "before ",
    "before a",
    "before b",
    "before b/c",
    "before b/c/d",
    "after b/c",
    "before b/everything",
    "after b",
    "after ",
  ]);
  expect(walked(diskWith(), at("tree/a"))).toEqual(["before "]);
  expect(() => walked(diskWith(), at("missing"))).toThrow(expect.objectContaining({ code: "vanished" }));
});

test("however deep it is, few folders are open, none is left open, and the way back is found", () => {
  const levels = 400;
  execFileSync("perl", ["-e", `chdir $ARGV[0]; for (1..${levels}) { mkdir "d"; chdir "d"; open F, ">f"; close F }`, folder]);
  let open = 0;
  let most = 0;
  const counted: Calls = {
    ...realCalls,
    open(...asked) {
      most = Math.max(most, ++open);
      return realCalls.open(...asked);
    },
    close(fd) {
      open--;
      realCalls.close(fd);
    },
  };
  const visits = walked(diskWith(counted), at("d"));
  expect(visits.filter((visit) => visit.endsWith("/f"))).toHaveLength(levels - 1);
  expect(visits.at(-1)).toBe("after ");
  expect(most).toBeLessThan(60);
  expect(open).toBe(0);
});

test("a folder that is swapped on the way is noticed, and nothing of the other one is taken away", async () => {
  fs.mkdirSync(at("tree/inner/deep"), { recursive: true });
  fs.mkdirSync(at("other/deep"), { recursive: true });
  fs.writeFileSync(at("other/deep/precious"), "precious");
  let swapped = false;
  const swapping: Calls = {
    ...realCalls,
    open(place, flags, mode) {
      // Between the look at it and its being opened.
      if (!swapped && String(place).endsWith("/inner")) {
        swapped = true;
        fs.renameSync(at("tree/inner"), at("aside"));
        fs.renameSync(at("other"), at("tree/inner"));
      }
      return realCalls.open(place, flags, mode);
    },
  };
  await expect(removeTree(diskWith(swapping), at("tree"))).rejects.toMatchObject({ code: "changed" });
  expect(fs.readFileSync(at("tree/inner/deep/precious"), "utf8")).toBe("precious");
});

test("the state of a thing differs after any change, also where size and time were set back", async () => {
  fs.mkdirSync(at("tree"));
  fs.writeFileSync(at("tree/file"), "first");
  const disk = diskWith();
  const state = stateOfTree(await scanTree(disk, at("tree")));
  const now = () => treeState(disk, at("tree"), watchedIn(state));
  expect(await now()).toBe(state);
  const { atime, mtime } = fs.statSync(at("tree/file"));
  fs.writeFileSync(at("tree/file"), "other");
  fs.utimesSync(at("tree/file"), atime, mtime);
  expect(await now()).not.toBe(state);
  // Of a file with a second name the time of change of state says nothing: giving that name away sets it.
  fs.linkSync(at("tree/file"), at("second"));
  const linked = stateOfTree(await scanTree(disk, at("tree")));
  fs.rmSync(at("second"));
  expect(await treeState(disk, at("tree"), watchedIn(linked))).toBe(linked);
});
