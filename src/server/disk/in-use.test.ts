import { spawn } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Raw } from "@/core/names/raw";
import { standingClock } from "../../../fixtures/clock";
import { realCalls } from "./calls";
import { Disk } from "./disk";
import { nothingInUse, scanOpenFiles, UseLooks, useOf } from "./in-use";

let folder: string;
const disk = new Disk(realCalls, () => () => false);
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-in-use-")));
});
afterEach(() => fs.rmSync(folder, { recursive: true }));
const make = (...names: string[]) => {
  for (const name of names) fs.writeFileSync(path.join(folder, name), name);
};
const use = (name: string, inUse = nothingInUse()) => useOf(disk, path.join(folder, name) as Raw, inUse);

test.each([".~lock.report.odt#", "~$report.odt", "~$port.odt", ".report.odt.lock"])(
  "a file is in use while %s lies beside it, and so is that, and its neighbours are not",
  (lock) => {
    make("report.odt", "other.odt", lock);
    expect(use("report.odt")).toContain(`its lock file ${lock}`);
    expect(use("other.odt")).toBeUndefined();
    expect(use(lock)).toBe("it is the lock file of report.odt");
    fs.rmSync(path.join(folder, "report.odt"));
    expect(use(lock)).toBeUndefined();
  },
);

test("what merely looks a little like a lock file says nothing", () => {
  make("report.odt", "report.odt.lock", "lock.report.odt#", "$report.odt", ".report.odt");
  for (const name of fs.readdirSync(folder)) expect(use(name), name).toBeUndefined();
});

test("a file is in use while a program has it open for writing, and so is the folder it lies in; not for reading", async () => {
  make("written", "read");
  fs.mkdirSync(path.join(folder, "sub"));
  fs.writeFileSync(path.join(folder, "sub/deep"), "deep");
  const script = 'exec 3>>"$1/written" 4<"$1/read" 5>>"$1/sub/deep"; echo open; read line';
  const program = spawn("bash", ["-c", script, "bash", folder], { stdio: ["pipe", "pipe", "inherit"] });
  const ended = new Promise((done) => program.once("exit", done));
  await new Promise((ready) => program.stdout.once("data", ready));
  const looks = new UseLooks(scanOpenFiles, Date.now);
  const inUse = await looks.now();
  expect(use("written", inUse)).toBe("bash has it open");
  expect(use("sub", inUse)).toBe("bash has deep in it open");
  expect(use("read", inUse)).toBeUndefined();
  program.stdin.end("\n");
  await ended;
  expect(use("written", await looks.now())).toBeUndefined();
});

test("an act has a scan that began after it asked, which those who ask meanwhile share; a question has one of the last two seconds", async () => {
  let scans = 0;
  const clock = standingClock(0);
  const ends: (() => void)[] = [];
  const looks = new UseLooks(() => {
    scans++;
    return new Promise((done) => ends.push(() => done({ byInode: [], byPath: [] })));
  }, clock.now);
  const first = looks.now();
  await Promise.resolve();
  await new Promise(setImmediate);
  expect(scans).toBe(1);
  // These asked when the first had begun: it may have missed what they are about.
  const [second, third] = [looks.now(), looks.now()];
  await new Promise(setImmediate);
  expect(scans).toBe(1);
  ends[0]!();
  await first;
  await new Promise(setImmediate);
  expect(scans).toBe(2);
  ends[1]!();
  // What one of them adds for itself is not the other's.
  (await second).byPath.set("/x" as Raw, "a program");
  expect((await third).byPath.size).toBe(0);
  clock.pass(1999);
  expect((await looks.lately()).byPath.size).toBe(0);
  expect(scans).toBe(2);
  clock.pass(1);
  void looks.lately();
  await expect.poll(() => scans).toBe(3);
});

test("a scan that failed is no reason for the next to fail", async () => {
  let fails = true;
  const looks = new UseLooks(async () => {
    if (fails) throw new Error("no scan");
    return { byInode: [], byPath: [] };
  }, Date.now);
  await expect(looks.now()).rejects.toThrow("no scan");
  fails = false;
  expect((await looks.now()).byPath.size).toBe(0);
});
