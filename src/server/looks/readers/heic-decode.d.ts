declare module "heic-decode" {
  interface HeicImage {
    width: number;
    height: number;
    decode(): Promise<{ width: number; height: number; data: Uint8ClampedArray }>;
  }
  const decode: {
    all(from: { buffer: Uint8Array }): Promise<HeicImage[] & { dispose(): void }>;
  };
  export default decode;
}
