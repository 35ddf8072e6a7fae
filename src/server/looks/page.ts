import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import type { Drawing } from "./look-process";
import { lookedAt } from "./looked-at";
import { cachedPicture, keepPicture, pruneSeldom } from "./picture-cache";
import { isPictureOfTalk } from "./talk";

/** Pixels of a page's width, and of a font's letters: as wide as a room. */
const width = 1000;

/** A page of a document, or the letters of a font, drawn in a process apart. */
export async function pageOf(engine: Engine, query: URLSearchParams, signal: AbortSignal): Promise<Response> {
  const n = Number(query.get("n"));
  if (!Number.isInteger(n) || n < 1 || n > 100_000) throw new Problem("unknown-item");
  return drawn(engine, query, `page ${n}`, { page: { n, width } }, signal);
}

export const lettersOf = (engine: Engine, query: URLSearchParams, signal: AbortSignal): Promise<Response> =>
  drawn(engine, query, "letters", { font: { width } }, signal);

/** Pixels of a picture on a slide. */
const pictureWidth = 420;

export async function partOf(engine: Engine, query: URLSearchParams, signal: AbortSignal): Promise<Response> {
  const name = query.get("part") ?? "";
  if (!isPictureOfTalk(name)) throw new Problem("unknown-item");
  return drawn(engine, query, `part ${name}`, { part: { name, width: pictureWidth } }, signal);
}

/** Kept for the next time by the state of what it was drawn from. */
async function drawn(
  engine: Engine,
  query: URLSearchParams,
  what: string,
  asked: Drawing,
  signal: AbortSignal,
): Promise<Response> {
  const item = lookedAt(engine, query);
  const { data } = engine.account;
  const { ino, mtimeNs, bytes } = item.identity;
  const key = `${item.id}:${ino}:${mtimeNs}:${bytes}:${what}`;
  let made = cachedPicture(data, key);
  if (!made) {
    made = Buffer.from(await engine.looking.draw(item.path, asked, item.label, signal));
    keepPicture(data, key, made);
    pruneSeldom(engine.workers, data);
  }
  return new Response(new Uint8Array(made), {
    headers: {
      "content-type": "image/png",
      "cache-control": "private, max-age=31536000, immutable",
      "content-disposition": "inline",
    },
  });
}
