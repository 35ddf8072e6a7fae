import { createHash, randomBytes } from "node:crypto";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from "vitest";
import { install } from "../install";
import { checksumOf, sumApart, sumOfOpen } from "./checksum";

const plain = (content: Buffer) => createHash("sha256").update(content).digest("hex");
const mega = 1 << 20;

async function summed(content: Buffer, part: number, claimed = content.length): Promise<string> {
  const checksum = checksumOf(claimed);
  // One buffer for all, as where a file is read block after block.
  const buffer = Buffer.alloc(part);
  for (let at = 0; at < content.length; at += part) {
    const got = content.copy(buffer, 0, at, at + part);
    await checksum.add(buffer.subarray(0, got));
  }
  return checksum.end();
}

beforeAll(() => sumApart(install("dist/checksum.mjs")));
afterAll(() => sumApart(install("nothing"), 0));

test.each([
  [0, 1000],
  [1, 1000],
  [(1 << 18) - 1, 65_536],
  [1 << 18, 65_536],
  [mega - 1, mega],
  [mega, mega],
  [mega + 1, mega],
  [5 * mega + 17, 65_537],
])("of %i bytes in parts of %i it is the one that is told here", async (bytes, part) => {
  const content = randomBytes(bytes);
  expect(await summed(content, part)).toBe(plain(content));
});

test("a content of another length than was said has its own all the same", async () => {
  const content = randomBytes(3 * mega);
  expect(await summed(content, 100_000, 10)).toBe(plain(content));
  expect(await summed(content.subarray(0, 10), 100_000, 3 * mega)).toBe(plain(content.subarray(0, 10)));
});

test("many at once are not mixed up, and one that is dropped in the middle does not hold the others", async () => {
  const contents = Array.from({ length: 12 }, () => randomBytes(2 * mega + 5));
  const left = checksumOf(4 * mega);
  await left.add(randomBytes(2 * mega));
  const all = Promise.all(contents.map((content) => summed(content, 70_000)));
  left.drop();
  expect(await all).toEqual(contents.map(plain));
});

test("where the thread cannot be had, nothing is taken for a checksum", async () => {
  sumApart(install("dist/there-is-none.mjs"));
  try {
    await expect(summed(randomBytes(9 * mega), mega)).rejects.toThrow();
  } finally {
    sumApart(install("dist/checksum.mjs"));
  }
});

describe("of an open file", () => {
  let folder: string;
  beforeEach(() => {
    folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-sum-"));
  });
  afterEach(() => fs.rmSync(folder, { recursive: true }));

  const opened = (content: Buffer): number => {
    const file = path.join(folder, "content");
    fs.writeFileSync(file, content);
    return fs.openSync(file, "r");
  };

  test.each([0, 1, mega, 3 * mega + 11])("of %i bytes it is read by a thread, and every byte is told of", async (bytes) => {
    const content = randomBytes(bytes);
    let read = 0;
    const sum = sumOfOpen(opened(content), mega, async (more) => {
      read += more;
    });
    expect([await sum, read]).toEqual([plain(content), bytes]);
  });

  test("a small one is left to whoever asks", () => {
    expect(sumOfOpen(opened(randomBytes(10)), 10, async () => {})).toBeUndefined();
  });

  test("one that is cancelled is let go of before its number can be another's", async () => {
    const content = randomBytes(40 * mega);
    const fd = opened(content);
    let read = 0;
    const sum = sumOfOpen(fd, content.length, async (more) => {
      read += more;
      if (read > 2 * mega) throw new Error("cancelled");
    });
    await expect(sum).rejects.toThrow("cancelled");
    expect(read).toBeLessThan(content.length);
    fs.closeSync(fd);
    // The next file has the number of the last.
    const other = randomBytes(2 * mega);
    const again = opened(other);
    expect(again).toBe(fd);
    expect(await sumOfOpen(again, other.length, async () => {})).toBe(plain(other));
  });

  test("one that cannot be read says why", async () => {
    const fd = fs.openSync(folder, "r");
    await expect(sumOfOpen(fd, mega, async () => {})).rejects.toMatchObject({ code: "EISDIR", syscall: "read" });
    fs.closeSync(fd);
  });
});
