import { Problem } from "@/core/problem";

const mostBytes = 8_000_000;

/**
 * The body of a request as JSON, read no further than allowed; `length` is what its header says, in bytes.
 * @throws Problem "too-large", "malformed"
 */
export async function readJson(body: AsyncIterable<Uint8Array> | null, length = 0): Promise<unknown> {
  if (length > mostBytes) throw new Problem("too-large");
  const parts: Uint8Array[] = [];
  let read = 0;
  for await (const part of body ?? []) {
    read += part.length;
    if (read > mostBytes) throw new Problem("too-large");
    parts.push(part);
  }
  try {
    return JSON.parse(Buffer.concat(parts).toString("utf8")) as unknown;
  } catch {
    throw new Problem("malformed", { detail: "it is no JSON" });
  }
}
