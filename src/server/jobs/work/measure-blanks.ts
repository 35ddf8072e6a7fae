import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import type { Font } from "fontkit";
import type { BlankMeasured, BlanksMeasured } from "@/core/hollow/blanks";
import type { WorkContext } from "../work-context";

const size = 24;
const [width, height] = [64, 40];
const mostBytes = 64_000_000;
const alias = "a font that is measured";

/** Where fonts are installed, as fontconfig looks for them: the computer's, and the person's own. */
function fontFolders(): string[] {
  const own = process.env["XDG_DATA_HOME"] || path.join(os.homedir(), ".local/share");
  const shared = (process.env["XDG_DATA_DIRS"] || "/usr/local/share:/usr/share").split(":");
  return [...[...shared, own].map((folder) => path.join(folder, "fonts")), path.join(os.homedir(), ".fonts")];
}

/** A face of a font file: what it is called, which characters it has, and its file. */
interface Face {
  family: string;
  regular: boolean;
  font: Pick<Font, "hasGlyphForCodePoint">;
  file: string;
}

/** The faces in a folder whose own map of characters can be read, one for each family: the regular one, where there is one. */
async function facesIn(folders: string[], isOver: () => boolean): Promise<Face[]> {
  const { openSync } = await import("fontkit");
  const faces = new Map<string, Face>();
  for (const folder of folders) {
    let files: fs.Dirent[] = [];
    try {
      files = fs.readdirSync(folder, { recursive: true, withFileTypes: true });
    } catch {
      // Not every one of these folders is there.
    }
    for (const { name, parentPath } of files) {
      if (isOver()) return [];
      if (!/\.(ttf|otf|ttc|otc|woff2?)$/i.test(name)) continue;
      const file = path.join(parentPath, name);
      try {
        if (fs.statSync(file).size > mostBytes) continue;
        const opened = openSync(file);
        const font = ("fonts" in opened ? opened.fonts[0] : opened) as Font | undefined;
        if (!font) continue;
        const face = { family: font.familyName, regular: /^(regular|book|roman|normal)$/i.test(font.subfamilyName), font, file };
        if (!faces.has(face.family) || (face.regular && !faces.get(face.family)!.regular)) faces.set(face.family, face);
      } catch {
        // Damaged, or in a form that is not known.
      }
    }
  }
  return [...faces.values()];
}

/**
 * How characters are drawn in each font that is installed on this computer, or lies in the folders given. A font that does not
 * have one, by its own map of characters, is passed over: there the desktop takes it from another.
 */
export async function measureBlanks(
  { blanks, folders = fontFolders() }: { blanks: string[]; folders?: string[] },
  context: WorkContext,
): Promise<BlanksMeasured> {
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
  for (const { family, font, file } of await facesIn(folders, context.cancelled)) {
    if (context.cancelled()) break;
    const key = GlobalFonts.registerFromPath(file, alias);
    if (!key) continue;
    try {
      draw.font = `${size}px "${alias}"`;
      // One that draws no letter is none for labels.
      if (!font.hasGlyphForCodePoint("n".codePointAt(0)!) || drawn("n").pixels.equals(nothing)) continue;
      fonts++;
      for (const [blank, found] of measured) {
        if (!font.hasGlyphForCodePoint(blank.codePointAt(0)!)) continue;
        const seen = drawn(blank);
        found.had++;
        found.widest = Math.max(found.widest, seen.width / size);
        if (!seen.pixels.equals(nothing)) found.drawnIn.push(family);
      }
    } finally {
      GlobalFonts.remove(key);
    }
  }
  return { fonts, blanks: Object.fromEntries(measured) };
}
