import type { Point } from "../ledger/shapes";
import type { ScreenSize } from "../screen/state";
import { boxesAt } from "./figures";

/** One state of a worktop, as a picture shows it: where its icons lie, and a line below. */
export interface KeptState {
  points: Point[];
  words: string;
}

const ink = "#15211d";
const ground = "#eceee9";
const plan = "#e1e5df";
const sheet = "#f8f9f6";
const pale = "#7d8783";
const panel = 720;
const margin = 40;
const gap = 40;
const line = 44;

const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => ({ "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" })[c]!);

/**
 * Before and after side by side, as a picture to keep (SVG 1.1): each icon as a sheet and its label as a line, to scale,
 * without any name. `height` is what of the worktop is drawn, in pixels of the screen.
 */
export function keepsake(before: KeptState, after: KeptState, screen: ScreenSize, height: number): string {
  const scale = panel / screen.width;
  const tall = Math.round(height * scale);
  const drawn = ({ points, words }: KeptState, left: number) => {
    const icons = points.map((at) => {
      const [icon, label] = boxesAt(at, screen);
      const place = (b: typeof icon) =>
        `x="${(b.x * scale).toFixed(1)}" y="${(b.y * scale).toFixed(1)}" width="${(b.width * scale).toFixed(1)}" height="${(b.height * scale).toFixed(1)}"`;
      const name = {
        x: label.x + label.width / 4,
        y: label.y + label.height / 4,
        width: label.width / 2,
        height: label.height / 5,
      };
      return `<rect ${place(icon)} fill="${sheet}" stroke="${ink}" stroke-width="0.7"/><rect ${place(name)} fill="${pale}"/>`;
    });
    return [
      `<svg x="${left}" y="${margin}" width="${panel}" height="${tall}" viewBox="0 0 ${panel} ${tall}">`,
      `<rect width="${panel}" height="${tall}" fill="${plan}"/>`,
      ...icons,
      `<rect x="0.5" y="0.5" width="${panel - 1}" height="${tall - 1}" fill="none" stroke="${ink}"/>`,
      "</svg>",
      `<text x="${left}" y="${margin + tall + 28}" font-family="'Schibsted Grotesk', sans-serif" font-size="18" fill="${ink}">${escaped(words)}</text>`,
    ].join("\n");
  };
  const width = 2 * panel + gap + 2 * margin;
  const whole = margin + tall + line + margin / 2;
  return [
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${whole}" viewBox="0 0 ${width} ${whole}">`,
    `<rect width="${width}" height="${whole}" fill="${ground}"/>`,
    drawn(before, margin),
    drawn(after, margin + panel + gap),
    "</svg>\n",
  ].join("\n");
}
