import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import type { Raw } from "@/core/names/raw";
import { realCalls } from "./calls";
import { identityOf } from "./disk";
import { locate } from "./statx";

let folder: string;
let fd: number;
beforeEach(() => {
  folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-statx-"));
  fd = fs.openSync(folder, fs.constants.O_RDONLY | fs.constants.O_DIRECTORY);
});
afterEach(() => {
  fs.closeSync(fd);
  fs.rmSync(folder, { recursive: true });
});

const lstat = (at: string) => identityOf(fs.lstatSync(Buffer.from(at, "latin1"), { bigint: true }));

test("an identity is what lstat says, of every type, name and time", () => {
  const at = (name: string) => path.join(folder, name);
  fs.writeFileSync(at("file"), "content");
  spawnSync("touch", ["-d", "1901-12-31 23:59:59.123456789", at("file")]);
  fs.writeFileSync(Buffer.from(at("\xff\xfe\n"), "latin1"), "bytes");
  fs.writeFileSync(at("x".repeat(255)), "");
  fs.mkdirSync(at("folder"));
  fs.symlinkSync("nowhere", at("link"));
  spawnSync("mkfifo", [at("fifo")]);
  const names = fs.readdirSync(folder, { encoding: "latin1" });
  expect(names).toHaveLength(6);
  for (const name of names) expect(locate(fd, name as Raw), name).toEqual(lstat(at(name)));
});

test.each(["/dev", "/dev/shm", "/proc"])("the device of what lies in %s is told like any other", (place) => {
  const opened = fs.openSync(place, fs.constants.O_RDONLY | fs.constants.O_DIRECTORY);
  expect(locate(opened, "." as Raw)?.dev).toBe(lstat(place).dev);
  fs.closeSync(opened);
});

test("what is not there is missing, and a name in what is no folder is said so", () => {
  expect(() => realCalls.locate(fd, "nothing" as Raw)).toThrow(expect.objectContaining({ code: "ENOENT" }));
  const file = fs.openSync(path.join(folder, "f"), "w");
  expect(() => realCalls.locate(file, "inside" as Raw)).toThrow(expect.objectContaining({ code: "ENOTDIR" }));
  fs.closeSync(file);
});
