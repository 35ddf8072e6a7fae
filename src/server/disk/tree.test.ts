import { createHash, randomBytes } from "node:crypto";
import { expect, test } from "vitest";
import { summing, unhurried } from "./tree";

async function* partsOf(content: Buffer) {
  for (let at = 0; at < content.length; at += 1000) yield content.subarray(at, at + 1000);
}

test("a checksum is that of all that was handed on, and there is none of what was not", async () => {
  const content = randomBytes(10_500);
  const whole = summing(partsOf(content), content.length, unhurried);
  const taken: Buffer[] = [];
  for await (const part of whole.content) taken.push(Buffer.from(part));
  expect(Buffer.concat(taken).equals(content)).toBe(true);
  expect(await whole.sum()).toBe(createHash("sha256").update(content).digest("hex"));

  const half = summing(partsOf(content), content.length, unhurried);
  for await (const part of half.content) if (part.length > 0) break;
  await expect(half.sum()).rejects.toThrow();
  await expect(summing(partsOf(content), content.length, unhurried).sum()).rejects.toThrow();
});
