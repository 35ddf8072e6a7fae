import type { SheetView, Tile } from "@/contract/views";
import { glyphPaths } from "../plan/glyph";

/** What is drawn, and how large: pixels of the page for one of the screen. */
export interface Scene {
  sheet: SheetView;
  scale: number;
  width: number;
  height: number;
}

const frameTone = "#15211d";
const paperTone = "#f8f9f6";
/** Pictures of so many icons are asked for, those on top first: what lies under a hundred others is not seen. */
const mostPictures = 400;
/** So many labels are drawn, likewise: to measure and outline them takes the most time. */
const mostLabels = 1000;
const mostKept = 3;
const repaintMs = 150;

/**
 * Draws a desktop on canvases: its wallpaper, its icons with their labels. Thousands of icons as elements of the page take
 * seconds to lay out and to paint; painted they take moments, and carried about they are one picture that moves.
 */
export class Painter {
  private readonly sprites = new Map<string, HTMLCanvasElement>();
  private readonly labels = new Map<string, string>();
  private readonly kept = new Map<string, HTMLCanvasElement>();
  private readonly pictures = new Map<string, HTMLImageElement | "none">();
  private later: ReturnType<typeof setTimeout> | undefined;

  /** `repaint` is called when something came that was missing: a picture, the font. */
  constructor(
    private readonly font: string,
    private readonly repaint: () => void,
  ) {
    this.fonts = document.fonts.status === "loaded";
    if (this.fonts) return;
    void document.fonts.ready.then(() => {
      this.fonts = true;
      // Measured in another font they were cut elsewhere.
      this.labels.clear();
      this.kept.clear();
      this.soon();
    });
  }

  end(): void {
    clearTimeout(this.later);
    this.later = undefined;
    this.ended = true;
  }
  private ended = false;
  private fonts: boolean;

  /** Whether everything that was asked for has come: pictures, the font. */
  get whole(): boolean {
    return this.later === undefined && this.fonts && [...this.pictures.values()].every((one) => one === "none" || one.complete);
  }

  private soon(): void {
    if (this.ended) return;
    this.later ??= setTimeout(() => {
      this.later = undefined;
      this.repaint();
    }, repaintMs);
  }

  /** Makes a canvas as large as the scene, on this screen's own pixels, and answers what draws on it, in pixels of the page. */
  begin(canvas: HTMLCanvasElement, { width, height }: Pick<Scene, "width" | "height">): CanvasRenderingContext2D {
    const ratio = window.devicePixelRatio || 1;
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
    const draw = canvas.getContext("2d")!;
    draw.setTransform(ratio, 0, 0, ratio, 0, 0);
    return draw;
  }

  /** Wallpaper and icons. What was painted a moment ago is kept: taken away and brought back, or drawn as it would be, it is there at once. */
  paint(draw: CanvasRenderingContext2D, tiles: readonly Tile[], scene: Scene, came: number): void {
    const key = `${came} ${scene.width} ${scene.height} ${scene.scale} ${tiles.map(({ id, x, y, name, blank, clear }) => `${id} ${x} ${y} ${blank ?? name} ${clear ?? ""}`).join()}`;
    let canvas = this.kept.get(key);
    if (!canvas) {
      canvas = document.createElement("canvas");
      const own = this.begin(canvas, scene);
      this.wallpaper(own, scene);
      this.icons(own, tiles, scene);
      const [oldest] = this.kept.keys();
      if (this.kept.size >= mostKept && oldest !== undefined) this.kept.delete(oldest);
    }
    // The last one used goes last.
    this.kept.delete(key);
    this.kept.set(key, canvas);
    draw.drawImage(canvas, 0, 0, scene.width, scene.height);
  }

  private wallpaper(draw: CanvasRenderingContext2D, { width, height }: Pick<Scene, "width" | "height">): void {
    // As a gradient at 200 degrees of CSS runs: from the upper right to the lower left.
    const angle = (200 * Math.PI) / 180;
    const length = Math.abs(width * Math.sin(angle)) + Math.abs(height * Math.cos(angle));
    const [dx, dy] = [(Math.sin(angle) * length) / 2, (-Math.cos(angle) * length) / 2];
    const tone = draw.createLinearGradient(width / 2 - dx, height / 2 - dy, width / 2 + dx, height / 2 + dy);
    for (const [at, color] of [
      [0, "#23404a"],
      [0.55, "#5b7d7c"],
      [1, "#d9c9a3"],
    ] as const)
      tone.addColorStop(at, color);
    draw.fillStyle = tone;
    draw.fillRect(0, 0, width, height);
  }

  icons(draw: CanvasRenderingContext2D, tiles: readonly Tile[], scene: Scene): void {
    const { sheet, scale } = scene;
    const { icon } = sheet;
    const size = Math.max(6, 13 * scale);
    draw.font = `${size}px ${this.font}`;
    draw.textAlign = "center";
    draw.textBaseline = "top";
    draw.lineJoin = "round";
    const most = icon.width * scale * 1.5;
    const wanted = new Set(tiles.filter(({ picture, outOfSight }) => picture && !outOfSight).slice(-mostPictures));
    const labelled = tiles.length - mostLabels;
    for (const [n, tile] of tiles.entries()) {
      const [x, y] = [tile.x * scale, tile.y * scale];
      const picture = wanted.has(tile) ? this.pictureOf(tile) : undefined;
      if (!tile.clear)
        draw.drawImage(this.spriteOf(tile.kind, scene, picture === undefined), x, y, icon.width * scale, icon.height * scale);
      if (picture) this.picture(draw, picture, x, y, scene);
      if (n < labelled) continue;
      const words = this.label(draw, tile.blank ?? tile.name, most, size);
      const [middle, top] = [x + (icon.width * scale) / 2, y + icon.height * scale * 0.9];
      draw.lineWidth = Math.max(1.5, size / 5);
      draw.strokeStyle = "rgba(0, 0, 0, 0.7)";
      draw.strokeText(words, middle, top);
      draw.fillStyle = "#ffffff";
      draw.fillText(words, middle, top);
    }
  }

  private frameOf({ sheet: { icon }, scale }: Scene) {
    const [width, height] = [icon.width * scale * 0.82, icon.height * scale * 0.86];
    return { left: (icon.width * scale - width) / 2, width, height };
  }

  private spriteOf(kind: Tile["kind"], scene: Scene, glyph: boolean): HTMLCanvasElement {
    const { icon } = scene.sheet;
    const key = `${kind} ${scene.scale} ${icon.width} ${glyph}`;
    const known = this.sprites.get(key);
    if (known) return known;
    const sprite = document.createElement("canvas");
    const draw = this.begin(sprite, { width: icon.width * scene.scale, height: icon.height * scene.scale });
    const { left, width, height } = this.frameOf(scene);
    draw.fillStyle = paperTone;
    draw.strokeStyle = frameTone;
    draw.fillRect(left, 0.5, width, height);
    draw.strokeRect(left + 0.5, 0.5, width - 1, height - 1);
    if (glyph) {
      const drawn = (icon.width * scene.scale * 0.7) / 26;
      draw.translate(left + (width - 26 * drawn) / 2, (height - 30 * drawn) / 2);
      draw.scale(drawn, drawn);
      draw.lineWidth = 1.3;
      draw.stroke(new Path2D(glyphPaths[kind]));
    }
    this.sprites.set(key, sprite);
    return sprite;
  }

  private pictureOf({ id }: Tile): HTMLImageElement | undefined {
    const known = this.pictures.get(id);
    if (known) return known === "none" || !known.complete ? undefined : known;
    const image = new Image();
    this.pictures.set(id, image);
    image.onload = () => this.soon();
    image.onerror = () => {
      this.pictures.set(id, "none");
      this.soon();
    };
    image.src = `/api/looks/picture?item=${id}&size=tile`;
    return undefined;
  }

  /** As large as the frame, cut where it is longer. */
  private picture(draw: CanvasRenderingContext2D, image: HTMLImageElement, x: number, y: number, scene: Scene): void {
    const { left, width, height } = this.frameOf(scene);
    const factor = Math.max(width / image.naturalWidth, height / image.naturalHeight);
    const [w, h] = [width / factor, height / factor];
    const [sx, sy] = [(image.naturalWidth - w) / 2, (image.naturalHeight - h) / 2];
    draw.drawImage(image, sx, sy, w, h, x + left + 1, y + 1.5, width - 2, height - 2);
  }

  /** A name, cut where it is longer than there is room. */
  private label(draw: CanvasRenderingContext2D, name: string, most: number, size: number): string {
    const key = `${size} ${name}`;
    const known = this.labels.get(key);
    if (known !== undefined) return known;
    const letters = [...name];
    let [fits, less] = [letters.length, 0];
    if (draw.measureText(name).width > most) {
      fits--;
      while (less < fits) {
        const middle = Math.ceil((less + fits) / 2);
        if (draw.measureText(`${letters.slice(0, middle).join("")}…`).width <= most) less = middle;
        else fits = middle - 1;
      }
    }
    const words = fits < letters.length ? `${letters.slice(0, fits).join("")}…` : name;
    this.labels.set(key, words);
    return words;
  }
}
