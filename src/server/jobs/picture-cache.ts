import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";

/** Small pictures that were made before, in Vuoto's own folder; thrown away and made again at will. */
function fileFor(data: string, key: string): string {
  const name = createHash("sha256").update(key).digest("hex");
  return path.join(data, "pictures", name.slice(0, 2), `${name}.webp`);
}

export function cachedPicture(data: string, key: string): Buffer | undefined {
  try {
    return fs.readFileSync(fileFor(data, key));
  } catch {
    return undefined;
  }
}

export function keepPicture(data: string, key: string, picture: Buffer): void {
  const file = fileFor(data, key);
  try {
    fs.mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
    fs.writeFileSync(`${file}.new`, picture, { mode: 0o600 });
    fs.renameSync(`${file}.new`, file);
  } catch {
    // A full disk: it is made again next time.
  }
}
