import path from "node:path";
import type { LookView } from "@/contract/looks";
import { install } from "../../install";
import { NotShown, type Source } from "./source";

const mostPages = 200_000_000;
const mostPixels = 50_000_000;
const shownText = 4000;

async function opened(source: Source) {
  const pdfjs = await import("pdfjs-dist/legacy/build/pdf.mjs");
  const own = (folder: string) => `${path.join(install("node_modules/pdfjs-dist"), folder)}/`;
  const task = pdfjs.getDocument({
    data: new Uint8Array(source.whole(mostPages)),
    standardFontDataUrl: own("standard_fonts"),
    cMapUrl: own("cmaps"),
    cMapPacked: true,
    wasmUrl: own("wasm"),
    isEvalSupported: false,
    maxImageSize: mostPixels,
    verbosity: 0,
  });
  try {
    return { task, document: await task.promise };
  } catch (error) {
    await task.destroy();
    const name = error instanceof Error ? error.name : "";
    throw new NotShown(name === "PasswordException" ? "it is locked with a password" : "it is damaged, or was cut off");
  }
}

/** Pages (ISO 32000): how many, and the beginning of their text. Each is drawn by {@link page}. */
export async function pages(source: Source): Promise<LookView> {
  const { task, document } = await opened(source);
  try {
    let text = "";
    for (let n = 1; n <= Math.min(document.numPages, 5) && text.length < shownText; n++) {
      const content = await (await document.getPage(n)).getTextContent();
      for (const item of content.items) if ("str" in item) text += item.str + (item.hasEOL ? "\n" : "");
      text += "\n";
    }
    return { form: "pages", count: document.numPages, text: text.slice(0, shownText) };
  } finally {
    await task.destroy();
  }
}

/** One page, drawn so many pixels wide, as a PNG. */
export async function page(source: Source, n: number, width: number): Promise<Uint8Array> {
  const { task, document } = await opened(source);
  try {
    if (n < 1 || n > document.numPages) throw new NotShown("it has no such page");
    const found = await document.getPage(n);
    const plain = found.getViewport({ scale: 1 });
    const scale = Math.min(width / plain.width, Math.sqrt(mostPixels / (plain.width * plain.height)));
    const viewport = found.getViewport({ scale });
    const factory = document.canvasFactory as {
      create(
        width: number,
        height: number,
      ): { canvas: { toBuffer(type: "image/png"): Buffer }; context: CanvasRenderingContext2D };
    };
    const { canvas, context } = factory.create(Math.ceil(viewport.width), Math.ceil(viewport.height));
    await found.render({ canvas: null, canvasContext: context, viewport }).promise;
    return canvas.toBuffer("image/png");
  } finally {
    await task.destroy();
  }
}
