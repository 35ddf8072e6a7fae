import { Problem } from "@/core/problem";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { cachedPicture, keepPicture, pruneSeldom } from "../jobs/picture-cache";
import type { TextLook } from "../jobs/work/text";
import { type Item, itemById } from "./items";

/** The sizes in which pictures are asked for, in pixels. */
const sizes: Record<string, [width: number, height: number]> = { tile: [160, 160], sheet: [320, 240], large: [1600, 1100] };

/** A thing's picture, made smaller and re-encoded; kept for the next time by its state. */
export async function pictureOf(engine: Engine, query: URLSearchParams): Promise<Response> {
  const item = itemById(engine.db, query.get("item") ?? "");
  const size = query.get("size") ?? "tile";
  const box = sizes[size];
  if (!item || !box) throw new Problem("unknown-item");
  const key = `${item.id}:${item.identity.ino}:${item.identity.mtimeNs}:${item.identity.bytes}:${size}`;
  let picture = cachedPicture(engine.account.data, key);
  if (!picture) {
    picture = Buffer.from(await engine.workers.run("lookAtPicture", { path: item.path, width: box[0], height: box[1] }));
    keepPicture(engine.account.data, key, picture);
    pruneSeldom(engine.workers, engine.account.data);
  }
  return new Response(new Uint8Array(picture), {
    headers: {
      "content-type": "image/webp",
      "cache-control": "private, max-age=31536000, immutable",
      "content-disposition": "inline",
    },
  });
}

/** What a thing's content looks like: a picture, a text, a table; or nothing that can be shown. */
export type Look = { form: "picture" } | TextLook | { form: "folder"; names: string[]; more: number };

const shownNames = 40;

export async function lookOf(engine: Engine, item: Item): Promise<Look> {
  const { kind, identity } = item;
  if (identity.type === "folder") {
    const list = engine.disk.list(item.path) ?? [];
    const names = list
      .map((entry) => bytes(entry.name).toString("utf8") + (entry.type === "folder" ? "/" : ""))
      .filter((name) => !name.startsWith("."))
      .sort((a, b) => a.localeCompare(b));
    return { form: "folder", names: names.slice(0, shownNames), more: Math.max(0, names.length - shownNames) };
  }
  if (identity.type !== "file") return { form: "none" };
  if (kind === "picture" || kind === "screenshot") return { form: "picture" };
  if (kind === "text" || kind === "table" || kind === "data" || kind === "temporary" || kind === "other")
    return engine.workers.run("lookAtText", { path: item.path, asTable: kind === "table" }).catch((): Look => ({ form: "none" }));
  return { form: "none" };
}
