/** The colours in which labels are drawn, on light wallpapers and on dark ones. */
const colours = [
  ["#ffffff", "rgba(0, 0, 0, 0.7)"],
  ["#15211d", "rgba(255, 255, 255, 0.7)"],
] as const;

const width = 240;
const height = 60;

/** Whether a label leaves a wallpaper as it is, to the pixel, in the colours in which labels are drawn. */
export function isDrawnAsNothing(label: string, font: string): boolean {
  const canvas = document.createElement("canvas");
  [canvas.width, canvas.height] = [width, height];
  const draw = canvas.getContext("2d", { willReadFrequently: true })!;
  return colours.every(([fill, outline]) => {
    const tone = draw.createLinearGradient(0, 0, width, height);
    tone.addColorStop(0, "#23404a");
    tone.addColorStop(1, "#d9c9a3");
    draw.fillStyle = tone;
    draw.fillRect(0, 0, width, height);
    const before = draw.getImageData(0, 0, width, height).data;
    draw.font = `13px ${font}`;
    draw.textAlign = "center";
    draw.lineWidth = 2.6;
    draw.strokeStyle = outline;
    draw.strokeText(label, width / 2, height / 2);
    draw.fillStyle = fill;
    draw.fillText(label, width / 2, height / 2);
    const after = draw.getImageData(0, 0, width, height).data;
    return before.every((value, n) => value === after[n]);
  });
}
