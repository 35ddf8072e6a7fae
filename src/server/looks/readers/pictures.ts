import type { Image } from "@napi-rs/canvas";
import { isPictureOfTalk } from "../talk";
import { NotShown, type Source } from "./source";
import { Zip } from "./zip";

const mostBytes = 100_000_000;
const mostPixels = 60_000_000;
const mostPart = 20_000_000;

type Drawn = { width: number; height: number; from: Image | import("@napi-rs/canvas").Canvas };

async function fitted({ width, height, from }: Drawn, box: { width: number; height: number }): Promise<Uint8Array> {
  const { createCanvas } = await import("@napi-rs/canvas");
  const scale = Math.min(1, box.width / width, box.height / height);
  const canvas = createCanvas(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)));
  canvas.getContext("2d").drawImage(from, 0, 0, canvas.width, canvas.height);
  return canvas.toBuffer("image/png");
}

async function decoded(content: Buffer): Promise<Drawn> {
  const { loadImage } = await import("@napi-rs/canvas");
  const image = await loadImage(content).catch(() => undefined);
  if (!image || image.width === 0 || image.height === 0) throw new NotShown("it is damaged, or in a form that is not known");
  if (image.width * image.height > mostPixels) throw new NotShown("it has more than 60 million pixels");
  return { width: image.width, height: image.height, from: image };
}

/** A picture as phones take it (HEIF with HEVC, ISO/IEC 23008-12): turned upright by its decoder. */
async function heic(content: Buffer): Promise<Drawn> {
  const { default: decode } = await import("heic-decode");
  const found = await decode.all({ buffer: content });
  const [first] = found;
  try {
    if (!first) throw new NotShown("there is no picture in it");
    if (first.width * first.height > mostPixels) throw new NotShown("it has more than 60 million pixels");
    const { createCanvas, ImageData } = await import("@napi-rs/canvas");
    const { width, height, data } = await first.decode();
    const canvas = createCanvas(width, height);
    canvas.getContext("2d").putImageData(new ImageData(data, width, height), 0, 0);
    return { width, height, from: canvas };
  } finally {
    found.dispose();
  }
}

/** A picture of a form that is seldom (HEIC, BMP, ICO), fitted into a box, as a PNG. */
export async function seldomPicture(source: Source, box: { width: number; height: number }): Promise<Uint8Array> {
  const content = source.whole(mostBytes);
  const isHeif = content.toString("latin1", 4, 8) === "ftyp" && /^(hei|hev|mif1|msf1)/.test(content.toString("latin1", 8, 12));
  return fitted(await (isHeif ? heic(content) : decoded(content)), box);
}

/** One of a talk's pictures, so many pixels wide, as a PNG. */
export async function pictureOfTalk(source: Source, name: string, width: number): Promise<Uint8Array> {
  if (!isPictureOfTalk(name)) throw new NotShown("it is no picture of a talk");
  const content = await (await Zip.open(source.fd)).read(name, mostPart);
  if (!content) throw new NotShown("it is not there");
  return fitted(await decoded(content), { width, height: width });
}
