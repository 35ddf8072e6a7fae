import { NotShown, type Source } from "./source";

const mostFont = 40_000_000;
const letters = ["ABCDEFGHIJKLM", "NOPQRSTUVWXYZ", "abcdefghijklm", "nopqrstuvwxyz", "0123456789 &?!"];
const sizes = [14, 20, 30, 44];
const alias = "a font that is looked at";

/** A font's letters and a line in four sizes, so many pixels wide, as a PNG. Its file reaches no browser. */
export async function font(source: Source, width: number): Promise<Uint8Array> {
  const { createCanvas, GlobalFonts } = await import("@napi-rs/canvas");
  const key = GlobalFonts.register(source.whole(mostFont), alias);
  if (!key) throw new NotShown("it is damaged, or in a form that is not known");
  try {
    const margin = width / 20;
    const step = width / 13;
    const lines = sizes.map((size) => (size * width) / 600);
    const height = margin * 2 + letters.length * step + lines.reduce((sum, size) => sum + size * 1.5, 0);
    const canvas = createCanvas(width, Math.ceil(height));
    const draw = canvas.getContext("2d");
    draw.fillStyle = "#ffffff";
    draw.fillRect(0, 0, width, height);
    draw.fillStyle = "#000000";
    draw.textBaseline = "top";
    let at = margin;
    draw.font = `${step * 0.7}px "${alias}"`;
    for (const line of letters) {
      draw.fillText(line, margin, at, width - 2 * margin);
      at += step;
    }
    for (const size of lines) {
      draw.font = `${size}px "${alias}"`;
      draw.fillText("Low water on the north cliff at six", margin, at, width - 2 * margin);
      at += size * 1.5;
    }
    return canvas.toBuffer("image/png");
  } finally {
    GlobalFonts.remove(key);
  }
}
