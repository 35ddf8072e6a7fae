import sharp from "sharp";
import { Chance } from "./chance";

/** A drawn photograph of a cliff with birds. Frames of one scene differ a little, as in a burst. */
export function photograph(scene: number, frame: number, width: number, height: number): string {
  const c = new Chance(1000 + scene * 7919);
  const f = new Chance(5000 + scene * 131 + frame);
  const hue = c.whole(150, 235);
  const horizon = c.between(0.35, 0.6) * height;
  const rock = (base: number, tone: number) => {
    let path = `M0 ${height} L0 ${base}`;
    for (let x = 0; x <= 12; x++) path += ` L${(x / 12) * width} ${base + c.between(-0.12, 0.12) * height}`;
    return `<path d="${path} L${width} ${height}Z" fill="hsl(${hue - 90 + c.whole(0, 30)} 14% ${tone}%)"/>`;
  };
  const birds = Array.from({ length: c.whole(2, 7) }, () => {
    const [x, y, s] = [c.between(0.1, 0.9) * width, c.between(0.1, 0.55) * height, c.between(0.015, 0.05) * width];
    const [dx, dy] = [f.between(-8, 8), f.between(-5, 5)];
    return `<path d="M${x + dx - s} ${y + dy} q${s / 2} ${-s / 1.6} ${s} 0 q${s / 2} ${-s / 1.6} ${s} 0" fill="none" stroke="#18211e" stroke-width="${s / 7}" stroke-linecap="round"/>`;
  }).join("");
  const nests = Array.from({ length: c.whole(4, 14) }, () => {
    const [x, y, r] = [c.between(0, width), c.between(0.65, 0.95) * height, c.between(0.008, 0.022) * width];
    return `<ellipse cx="${x}" cy="${y}" rx="${r}" ry="${r * 0.6}" fill="hsl(40 25% ${c.whole(60, 85)}%)"/>`;
  }).join("");
  const shift = f.between(-4, 4);
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="${shift} ${f.between(-3, 3)} ${width} ${height}">
    <defs><linearGradient id="s" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="hsl(${hue} 30% ${c.whole(45, 70)}%)"/><stop offset="1" stop-color="hsl(${hue - 20} 22% 82%)"/></linearGradient></defs>
    <rect x="-20" y="-20" width="${width + 40}" height="${height + 40}" fill="url(#s)"/>
    <rect x="-20" y="${horizon}" width="${width + 40}" height="${height}" fill="hsl(${hue - 5} 24% 42%)"/>
    ${rock(horizon + height * 0.08, 38)}${rock(horizon + height * 0.22, 26)}${nests}${birds}</svg>`;
}

/** A drawn screenshot of a tide map. */
export function tideMap(seed: number, width: number, height: number): string {
  const c = new Chance(seed);
  let curve = `M0 ${height / 2}`;
  const phase = c.between(0, 6);
  for (let x = 0; x <= width; x += 16)
    curve += ` L${x} ${height / 2 + Math.sin(x / 90 + phase) * height * 0.16 + Math.sin(x / 211 + phase) * height * 0.07}`;
  const isles = Array.from(
    { length: 6 },
    () =>
      `<circle cx="${c.between(0, width)}" cy="${c.between(90, height - 90)}" r="${c.between(12, 70)}" fill="hsl(${c.whole(60, 110)} 18% 70%)" stroke="#4b5a54"/>`,
  ).join("");
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">
    <rect width="${width}" height="${height}" fill="hsl(${c.whole(180, 205)} 26% 84%)"/>${isles}
    <path d="${curve}" fill="none" stroke="#14695d" stroke-width="4"/><rect width="${width}" height="34" fill="#e1e5df"/>
    ${Array.from({ length: 9 }, (_, n) => `<rect x="${18 + n * 120}" y="12" width="${c.whole(40, 90)}" height="10" fill="#8a968f"/>`).join("")}</svg>`;
}

export async function jpeg(svg: string, takenAt: Date): Promise<Buffer> {
  const pad = (n: number) => String(n).padStart(2, "0");
  const taken = `${takenAt.getFullYear()}:${pad(takenAt.getMonth() + 1)}:${pad(takenAt.getDate())} ${pad(takenAt.getHours())}:${pad(takenAt.getMinutes())}:${pad(takenAt.getSeconds())}`;
  return sharp(Buffer.from(svg))
    .withExif({ IFD0: { Make: "Hallig", Model: "Field camera 2" }, IFD2: { DateTimeOriginal: taken } })
    .jpeg({ quality: 84 })
    .toBuffer();
}

export function png(svg: string): Promise<Buffer> {
  return sharp(Buffer.from(svg)).png({ compressionLevel: 6 }).toBuffer();
}

/** A call recorded as WAV (RIFF, 16-bit PCM, mono): a few falling notes. */
export function call(seed: number, seconds: number, rate = 16_000): Buffer {
  const c = new Chance(seed);
  const length = Math.floor(seconds * rate);
  const data = Buffer.alloc(44 + length * 2);
  data.write("RIFF", 0);
  data.writeUInt32LE(36 + length * 2, 4);
  data.write("WAVEfmt ", 8);
  data.writeUInt32LE(16, 16);
  data.writeUInt16LE(1, 20);
  data.writeUInt16LE(1, 22);
  data.writeUInt32LE(rate, 24);
  data.writeUInt32LE(rate * 2, 28);
  data.writeUInt16LE(2, 32);
  data.writeUInt16LE(16, 34);
  data.write("data", 36);
  data.writeUInt32LE(length * 2, 40);
  const [pitch, beat] = [c.between(900, 2400), c.between(0.2, 0.5)];
  let phase = 0;
  for (let n = 0; n < length; n++) {
    const t = n / rate;
    const inNote = (t % beat) / beat;
    phase += (2 * Math.PI * pitch * (1 - inNote * 0.4)) / rate;
    const loud = inNote < 0.6 ? Math.sin(Math.PI * (inNote / 0.6)) : 0;
    data.writeInt16LE(Math.round(9000 * loud * Math.sin(phase) + c.between(-200, 200)), 44 + n * 2);
  }
  return data;
}
