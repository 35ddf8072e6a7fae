import fs from "node:fs";
import type { LookView, SoundTags } from "@/contract/looks";
import type { Source } from "./source";
import { waveOf } from "./wave";

const longestTag = 200;

/**
 * How long a sound or a video is, from its container, read where that is asked for; of a sound what its tags say, and its wave.
 * What cannot be told is left out.
 */
export async function media(source: Source, type: string): Promise<LookView> {
  const { ALL_FORMATS, EncodedPacketSink, Input, StreamSource } = await import("mediabunny");
  const read = (start: number, end: number) => {
    const part = Buffer.alloc(end - start);
    return part.subarray(0, fs.readSync(source.fd, part, 0, part.length, start));
  };
  const input = new Input({ source: new StreamSource({ getSize: () => source.bytes, read }), formats: ALL_FORMATS });
  const form = type.startsWith("video/") ? "video" : "sound";
  try {
    const length = await input.computeDuration();
    const seconds = length > 0 && Number.isFinite(length) ? length : undefined;
    if (form === "video") return { form, type, seconds };
    const said = await input.getMetadataTags().catch(() => undefined);
    const tags: SoundTags = {};
    for (const key of ["title", "artist", "album"] as const) if (said?.[key]) tags[key] = said[key].slice(0, longestTag);
    const track = await input.getPrimaryAudioTrack();
    const wave =
      track && seconds !== undefined
        ? await waveOf(source, track, new EncodedPacketSink(track), seconds).catch(() => undefined)
        : undefined;
    return { form, type, seconds, wave, tags: Object.keys(tags).length > 0 ? tags : undefined };
  } catch {
    return { form, type };
  } finally {
    input.dispose();
  }
}
