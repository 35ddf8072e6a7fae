import { randomBytes } from "node:crypto";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { realCalls } from "./calls";
import { Disk } from "./disk";
import { isTheOriginal, type SeenEntry, scanTree, unhurried } from "./tree";

let folder: string;
let file: string;
const disk = new Disk(realCalls, () => () => false);
const content = randomBytes((1 << 20) + 70_001);
const seen = async (): Promise<SeenEntry> => (await scanTree(disk, rawFromText(file)))[0]!;
async function* inParts(bytes: Buffer, size: number) {
  for (let at = 0; at < bytes.length; at += size) yield bytes.subarray(at, at + size);
}

beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-")));
  file = path.join(folder, "file");
  fs.writeFileSync(file, content);
});
afterEach(() => fs.rmSync(folder, { recursive: true }));

test.each([1 << 10, 65_536, 65_537, 1 << 20, 1 << 21])(
  "what is the same in parts of %i is; one byte less, more or other is not",
  async (size) => {
    const original = await seen();
    const is = (bytes: Buffer) => isTheOriginal(disk, inParts(bytes, size), original, unhurried);
    expect(await is(content)).toBe(true);
    expect(await is(content.subarray(0, -1))).toBe(false);
    expect(await is(Buffer.concat([content, Buffer.from("x")]))).toBe(false);
    for (const at of [0, 1 << 20, content.length - 1]) {
      const other = Buffer.from(content);
      other[at]! ^= 1;
      expect(await is(other)).toBe(false);
    }
    expect(await is(Buffer.alloc(0))).toBe(false);
  },
);

test("an original that is another by now, or gone, proves nothing", async () => {
  const original = await seen();
  const is = () => isTheOriginal(disk, inParts(content, 1 << 16), original, unhurried);
  const { atime, mtime } = fs.statSync(file);
  fs.writeFileSync(file, content);
  fs.utimesSync(file, atime, mtime);
  expect(await is()).toBeUndefined();
  fs.rmSync(file);
  expect(await is()).toBeUndefined();
});

test("an original that changes while it is compared proves nothing", async () => {
  const original = await seen();
  const changing = async function* () {
    yield* inParts(content.subarray(0, 1 << 20), 1 << 16);
    fs.appendFileSync(file, "more");
    yield* inParts(content.subarray(1 << 20), 1 << 16);
  };
  expect(await isTheOriginal(disk, changing(), original, unhurried)).toBeUndefined();
});

test("an empty file is one", async () => {
  fs.writeFileSync(file, "");
  const original = await seen();
  expect(await isTheOriginal(disk, inParts(Buffer.alloc(0), 10), original, unhurried)).toBe(true);
  expect(await isTheOriginal(disk, inParts(Buffer.from("x"), 10), original, unhurried)).toBe(false);
});
