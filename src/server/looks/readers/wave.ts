import fs from "node:fs";
import type { EncodedPacket, EncodedPacketSink, InputAudioTrack } from "mediabunny";
import type { Source } from "./source";

/** A wave is drawn in so many parts, of each of which a moment is listened to: hours take no longer than minutes. */
const parts = 300;
const patienceMs = 1000;

/** Reads the loudest sample of packets of sound, from 0 to 1; undefined where they cannot be decoded. */
interface Decoder {
  loudest(packets: EncodedPacket[]): Promise<number | undefined> | number | undefined;
  /** So many packets in a row are needed until the last of them sounds as it should. */
  inRow: number;
  free?(): void;
}

const peak = (channels: readonly Float32Array[]): number | undefined => {
  let most: number | undefined;
  for (const channel of channels) for (const sample of channel) most = Math.max(most ?? 0, Math.abs(sample));
  return most;
};

async function mp3(): Promise<Decoder> {
  const { MPEGDecoder } = await import("mpg123-decoder");
  const decoder = new MPEGDecoder();
  await decoder.ready;
  return {
    inRow: 4,
    loudest: (packets) => peak(decoder.decodeFrames(packets.map(({ data }) => data)).channelData),
    free: () => decoder.free(),
  };
}

async function flac(): Promise<Decoder> {
  const { FLACDecoder } = await import("@wasm-audio-decoders/flac");
  const decoder = new FLACDecoder();
  await decoder.ready;
  return {
    inRow: 2,
    async loudest(packets) {
      // A jump is taken for a gap, over which it cannot go on for long.
      await decoder.reset();
      return peak((await decoder.decodeFrames(packets.map(({ data }) => data))).channelData);
    },
    free: () => decoder.free(),
  };
}

async function opus(): Promise<Decoder> {
  const { OpusDecoder } = await import("opus-decoder");
  const decoder = new OpusDecoder();
  await decoder.ready;
  return {
    inRow: 4,
    loudest: (packets) => peak(decoder.decodeFrames(packets.map(({ data }) => data)).channelData),
    free: () => decoder.free(),
  };
}

/** Samples as they are (WAV, AIFF): bytes a sample, whether with a sign, as a fraction, or the other way round. */
function pcm(codec: string): Decoder | undefined {
  const [, kind, bits, order] = /^pcm-([suf])(8|16|24|32|64)(be)?$/.exec(codec) ?? [];
  if (!kind) return undefined;
  const width = Number(bits) / 8;
  const little = order !== "be";
  return {
    inRow: 1,
    loudest: ([packet]) => {
      if (!packet) return undefined;
      const { data } = packet;
      const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
      let most = 0;
      for (let at = 0; at + width <= data.length; at += width)
        most = Math.max(most, Math.abs(sampleAt(view, at, kind, width, little)));
      return Math.min(1, most);
    },
  };
}

function sampleAt(view: DataView, at: number, kind: string, width: number, little: boolean): number {
  if (kind === "f") return width === 8 ? view.getFloat64(at, little) : view.getFloat32(at, little);
  if (width === 1) return kind === "u" ? (view.getUint8(at) - 128) / 128 : view.getInt8(at) / 128;
  if (width === 2) return view.getInt16(at, little) / 32_768;
  if (width === 3) return view.getInt8(at + (little ? 2 : 0)) / 128;
  return view.getInt32(at, little) / 2_147_483_648;
}

/** The order in which parts are listened to: coarse over the whole first, so that what there is no time for is between others. */
function* coarseFirst(): Generator<number> {
  const seen = new Set<number>();
  for (let step = 256; step >= 1; step /= 2)
    for (let part = 0; part < parts; part += step)
      if (!seen.has(part)) {
        seen.add(part);
        yield part;
      }
}

const asWave = (loud: readonly (number | undefined)[]): number[] | undefined => {
  if (loud.every((one) => one === undefined)) return undefined;
  let last = loud.find((one) => one !== undefined)!;
  return loud.map((one) => {
    last = one ?? last;
    return Math.round(Math.min(1, last) * 255);
  });
};

/** The loudest of each part of a sound, from 0 to 255; undefined where it is coded in a way that is not decoded here. */
export async function waveOf(
  source: Source,
  track: InputAudioTrack,
  sink: EncodedPacketSink,
  seconds: number,
): Promise<number[] | undefined> {
  const until = Date.now() + patienceMs;
  const codec = track.codec ?? "";
  if (codec === "vorbis") return vorbisWave(source, until);
  const decoders: Record<string, () => Promise<Decoder>> = { mp3, flac, opus };
  const decoder = (await decoders[codec]?.()) ?? pcm(codec);
  if (!decoder) return undefined;
  const loud: (number | undefined)[] = new Array(parts).fill(undefined);
  try {
    for (const part of coarseFirst()) {
      if (Date.now() > until) break;
      const packets: EncodedPacket[] = [];
      let packet = await sink.getPacket((seconds * (part + 0.5)) / parts);
      for (let n = 0; packet && n < decoder.inRow; n++) {
        packets.push(packet);
        packet = n + 1 < decoder.inRow ? await sink.getNextPacket(packet) : null;
      }
      loud[part] = await decoder.loudest(packets);
    }
    decoder.free?.();
  } catch {
    // What was heard until then is drawn; a decoder that failed is not touched again.
  }
  return asWave(loud);
}

const headBytes = 65_536;
const momentBytes = 12_288;

/** The pages that stand before the first sound: of these the granule position is zero (RFC 3533). */
function headPages(bytes: Buffer): Buffer {
  let at = 0;
  while (at + 27 <= bytes.length && bytes.toString("latin1", at, at + 4) === "OggS" && bytes.readBigInt64LE(at + 6) === 0n) {
    const segments = bytes[at + 26]!;
    const body = bytes.subarray(at + 27, at + 27 + segments).reduce((sum, length) => sum + length, 0);
    at += 27 + segments + body;
  }
  return bytes.subarray(0, Math.min(at, bytes.length));
}

/** Its packets need what the beginning says, and are read as pages: moments by the file's length instead of by time. */
async function vorbisWave(source: Source, until: number): Promise<number[] | undefined> {
  const { OggVorbisDecoder } = await import("@wasm-audio-decoders/ogg-vorbis");
  const decoder = new OggVorbisDecoder();
  await decoder.ready;
  const loud: (number | undefined)[] = new Array(parts).fill(undefined);
  const head = headPages(source.head(headBytes));
  const bytes = Buffer.alloc(momentBytes);
  try {
    for (const part of coarseFirst()) {
      if (Date.now() > until) break;
      const from = head.length + Math.floor(((source.bytes - head.length) * part) / parts);
      const moment = bytes.subarray(0, fs.readSync(source.fd, bytes, 0, bytes.length, from));
      const page = moment.indexOf("OggS");
      if (page < 0) continue;
      loud[part] = peak((await decoder.decodeFile(Buffer.concat([head, moment.subarray(page)]))).channelData);
      await decoder.reset();
    }
  } catch {
    // What was heard until then is drawn.
  } finally {
    decoder.free();
  }
  return asWave(loud);
}
