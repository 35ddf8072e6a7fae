import type { Tile } from "@/contract/views";

/** Where many go further than this together, no line can be followed; pixels of the screen. */
const farMean = 250;
const fewLines = 40;

/** Draws from where icons lie to where they would. */
export function lines(
  draw: CanvasRenderingContext2D,
  scale: number,
  tiles: readonly Tile[],
  moved: ReadonlyMap<string, { x: number; y: number }>,
  icon: { width: number; height: number },
): void {
  const middle = ({ x, y }: { x: number; y: number }) => [(x + icon.width / 2) * scale, (y + icon.height / 2) * scale] as const;
  const path = new Path2D();
  const ends = new Path2D();
  let [count, way] = [0, 0];
  for (const tile of tiles) {
    const to = moved.get(tile.id);
    if (!to) continue;
    const [fromX, fromY] = middle(tile);
    count++;
    way += Math.hypot(to.x - tile.x, to.y - tile.y);
    path.moveTo(fromX, fromY);
    path.lineTo(...middle(to));
    ends.moveTo(fromX + 2.5, fromY);
    ends.arc(fromX, fromY, 2.5, 0, 2 * Math.PI);
  }
  // Where all of them cross the screen, they are only hinted at.
  const strokes =
    count <= fewLines || way / count < farMean
      ? ([
          ["rgba(0, 0, 0, 0.55)", 3],
          ["#ffffff", 1.2],
        ] as const)
      : ([["rgba(255, 255, 255, 0.3)", 0.8]] as const);
  for (const [style, width] of strokes) {
    draw.strokeStyle = style;
    draw.lineWidth = width;
    draw.stroke(path);
    draw.stroke(ends);
  }
}
