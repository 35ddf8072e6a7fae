/** A drawing of Vuoto's own as PNG. */
export async function drawPng({ svg }: { svg: string }): Promise<Uint8Array> {
  const { default: sharp } = await import("sharp");
  return sharp(Buffer.from(svg)).png().toBuffer();
}
