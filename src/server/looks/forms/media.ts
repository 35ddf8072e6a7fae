import { Problem } from "@/core/problem";
import { openToRead } from "../../disk/stream";
import type { Engine } from "../../engine";
import type { Form } from "../form";
import { lookedAt } from "../looked-at";
import { rangeOf } from "../range";

/** A sound or a video, played from where it lies; which parts of it are read, the player asks for. */
export const media: Form = {
  shows: ({ kind, identity }) => identity.type === "file" && (kind === "sound" || kind === "video"),
  async look(engine, { path, kind }, signal) {
    const type = await engine.workers.run("mediaType", { path }, { signal, urgent: true });
    const found = await engine.looking.look(path, signal);
    // Only what is sent as that is played; its length is what the container says.
    if (!type) return found;
    const { seconds } = found.form === "sound" || found.form === "video" ? found : {};
    if (kind === "video") return { form: "video", type, seconds };
    return found.form === "sound" ? { ...found, type } : { form: "sound", type, seconds };
  },
};

/**
 * A part of a sound or a video, as HTTP asks for it (RFC 9110, range requests). Only what is one by its content is sent, as that
 * and never as a page.
 */
export async function mediaOf(engine: Engine, query: URLSearchParams, request: Request): Promise<Response> {
  // A player asks for it, and nothing else: as a page or a picture it is not sent.
  const wantedAs = request.headers.get("sec-fetch-dest");
  if (wantedAs !== null && wantedAs !== "audio" && wantedAs !== "video") throw new Problem("foreign-request");
  const item = lookedAt(engine, query);
  if (!media.shows(item)) throw new Problem("unknown-item");
  const type = await engine.workers.run("mediaType", { path: item.path }, { signal: request.signal, urgent: true });
  const opened = type && openToRead(item.path);
  if (!opened) throw new Problem("unknown-item", { name: item.label });
  const headers = {
    "content-type": type,
    "accept-ranges": "bytes",
    "cache-control": "no-store",
    "content-disposition": "attachment",
  };
  const range = rangeOf(request.headers.get("range"), opened.bytes);
  if (range === "none") {
    opened.close();
    return new Response(null, { status: 416, headers: { ...headers, "content-range": `bytes */${opened.bytes}` } });
  }
  const { from, to } = range ?? { from: 0, to: opened.bytes - 1 };
  return new Response(opened.bytes === 0 ? null : opened.stream(from, to, request.signal), {
    status: range ? 206 : 200,
    headers: {
      ...headers,
      "content-length": String(to - from + 1),
      ...(range ? { "content-range": `bytes ${from}-${to}/${opened.bytes}` } : {}),
    },
  });
}
