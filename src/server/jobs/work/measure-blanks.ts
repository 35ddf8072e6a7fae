import type { BlankMeasured, BlanksMeasured } from "@/core/hollow/blanks";
import type { WorkContext } from "../work-context";

const size = 24;
const [width, height] = [64, 40];
/** No font has it, so that what is drawn for it stands for a character that a font does not have. */
const nobodys = "\uffff";

/**
 * How characters are drawn in each font that is installed on this computer. A font that does not have one is passed over: there
 * the desktop takes it from another.
 */
export async function measureBlanks({ blanks }: { blanks: string[] }, context: WorkContext): Promise<BlanksMeasured> {
  const { createCanvas, GlobalFonts } = await import("@napi-rs/canvas");
  const draw = createCanvas(width, height).getContext("2d");
  const drawn = (letter: string): { width: number; pixels: Buffer } => {
    draw.clearRect(0, 0, width, height);
    draw.fillText(letter, 8, height - 12);
    return { width: draw.measureText(letter).width, pixels: Buffer.from(draw.getImageData(0, 0, width, height).data) };
  };
  const nothing = Buffer.alloc(width * height * 4);
  const measured = new Map(blanks.map((blank): [string, BlankMeasured] => [blank, { had: 0, drawnIn: [], widest: 0 }]));
  let fonts = 0;
  for (const { family } of GlobalFonts.families) {
    if (context.cancelled()) break;
    draw.font = `${size}px "${family.replaceAll('"', "")}"`;
    // One that draws no letter is none for labels.
    if (drawn("n").pixels.equals(nothing)) continue;
    fonts++;
    const missing = drawn(nobodys);
    for (const [blank, found] of measured) {
      const seen = drawn(blank);
      const isMissing = !missing.pixels.equals(nothing) && seen.pixels.equals(missing.pixels);
      if (isMissing) continue;
      found.had++;
      found.widest = Math.max(found.widest, seen.width / size);
      if (!seen.pixels.equals(nothing)) found.drawnIn.push(family);
    }
  }
  return { fonts, blanks: Object.fromEntries(measured) };
}
