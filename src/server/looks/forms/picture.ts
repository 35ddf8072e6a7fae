import { asProblem, Problem } from "@/core/problem";
import type { Engine } from "../../engine";
import type { Item } from "../../survey/items";
import type { Form } from "../form";
import { lookedAt } from "../looked-at";
import { cachedPicture, keepPicture, pruneSeldom } from "../picture-cache";

/** A picture, made smaller; asked for by itself. */
export const picture: Form = {
  shows: ({ kind, identity }) => identity.type === "file" && (kind === "picture" || kind === "screenshot"),
  look: () => ({ form: "picture" }),
};

/** The sizes in which pictures are asked for, in pixels. The large one is what is looked at now, before all small ones. */
const sizes: Record<string, { box: [width: number, height: number]; urgent?: true }> = {
  tile: { box: [160, 160] },
  sheet: { box: [320, 240] },
  large: { box: [1600, 1100], urgent: true },
  pixels: { box: [10_000, 10_000], urgent: true },
};

/** Made smaller in a thread; what that does not know, such as HEIC, in the process apart. */
async function decodedIn(
  engine: Engine,
  { path, label }: Item,
  box: { width: number; height: number },
  signal: AbortSignal,
  urgent?: true,
): Promise<Uint8Array> {
  try {
    return await engine.workers.run("lookAtPicture", { path, ...box }, { signal, urgent });
  } catch (error) {
    if (asProblem(error).code !== "no-picture") throw error;
    return engine.looking.draw(path, { picture: box }, label, signal);
  }
}

/**
 * A thing's picture, made smaller and re-encoded; kept for the next time by its state. One that left the screen before its
 * turn came is not made.
 */
export async function pictureOf(engine: Engine, query: URLSearchParams, signal: AbortSignal): Promise<Response> {
  const item = lookedAt(engine, query);
  const size = query.get("size") ?? "tile";
  const wanted = sizes[size];
  if (!wanted) throw new Problem("unknown-item");
  const { data } = engine.account;
  const key = `${item.id}:${item.identity.ino}:${item.identity.mtimeNs}:${item.identity.bytes}:${size}`;
  let made = cachedPicture(data, key);
  if (!made) {
    const [width, height] = wanted.box;
    made = Buffer.from(await decodedIn(engine, item, { width, height }, signal, wanted.urgent));
    keepPicture(data, key, made);
    pruneSeldom(engine.workers, data);
  }
  return new Response(new Uint8Array(made), {
    headers: {
      "content-type": made.subarray(0, 4).toString("latin1") === "RIFF" ? "image/webp" : "image/png",
      "cache-control": "private, max-age=31536000, immutable",
      "content-disposition": "inline",
    },
  });
}
