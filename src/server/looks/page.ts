import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";
import { cachedPicture, keepPicture, pruneSeldom } from "./picture-cache";

/** Pixels of a page's width: as wide as a room, and for a closer look. */
const widths: Record<string, number> = { room: 1000, close: 2000 };

/** A page of a document, drawn in a process apart; kept for the next time by the document's state. */
export async function pageOf(engine: Engine, query: URLSearchParams, signal: AbortSignal): Promise<Response> {
  const item = itemById(engine.db, query.get("item") ?? "");
  const width = widths[query.get("size") ?? "room"];
  const n = Number(query.get("n"));
  if (!item?.worktop || !width || !Number.isInteger(n) || n < 1 || n > 100_000) throw new Problem("unknown-item");
  const { data } = engine.account;
  const { ino, mtimeNs, bytes } = item.identity;
  const key = `${item.id}:${ino}:${mtimeNs}:${bytes}:page ${n} ${width}`;
  let made = cachedPicture(data, key);
  if (!made) {
    made = Buffer.from(await engine.looking.page(item.path, { n, width }, item.label, signal));
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
