import fs from "node:fs";
import type { LookView } from "@/contract/looks";
import type { Source } from "./source";

/** How long a sound or a video is, from its container, read where that is asked for; what it does not tell is left out. */
export async function media(source: Source, type: string): Promise<LookView> {
  const { ALL_FORMATS, Input, StreamSource } = await import("mediabunny");
  const read = (start: number, end: number) => {
    const part = Buffer.alloc(end - start);
    return part.subarray(0, fs.readSync(source.fd, part, 0, part.length, start));
  };
  const input = new Input({ source: new StreamSource({ getSize: () => source.bytes, read }), formats: ALL_FORMATS });
  const form = type.startsWith("video/") ? "video" : "sound";
  try {
    const seconds = await input.computeDuration();
    return { form, type, seconds: seconds > 0 && Number.isFinite(seconds) ? seconds : undefined };
  } catch {
    return { form, type };
  } finally {
    input.dispose();
  }
}
