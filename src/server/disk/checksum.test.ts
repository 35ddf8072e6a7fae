import { createHash, randomBytes } from "node:crypto";
import { afterAll, beforeAll, expect, test } from "vitest";
import { install } from "../install";
import { checksumOf, sumApart } from "./checksum";

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
