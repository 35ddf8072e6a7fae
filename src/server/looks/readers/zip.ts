import type { Entry, ZipFile } from "yauzl";
import { NotShown } from "./source";

export interface ZipPart {
  name: string;
  bytes: number;
  packed: number;
  folder: boolean;
  locked: boolean;
}

const mostParts = 100_000;

/**
 * A ZIP file by its directory, which is read first: what it claims is known before anything is unpacked, and no part is
 * unpacked beyond what it claims, or beyond a bound.
 */
export class Zip {
  private constructor(
    private readonly file: ZipFile,
    private readonly entries: Map<string, Entry>,
    readonly parts: ZipPart[],
    /** There are more parts than were listed. */
    readonly goesOn: boolean,
  ) {}

  /** @throws {@link NotShown} where it is damaged */
  static async open(fd: number): Promise<Zip> {
    const { default: yauzl } = await import("yauzl");
    return new Promise((resolve, reject) => {
      const damaged = () => reject(new NotShown("it is damaged, or was cut off"));
      yauzl.fromFd(fd, { lazyEntries: true, autoClose: false }, (failed, file) => {
        if (failed) return damaged();
        const entries = new Map<string, Entry>();
        const parts: ZipPart[] = [];
        file.on("error", damaged);
        file.on("end", () => resolve(new Zip(file, entries, parts, false)));
        file.on("entry", (entry: Entry) => {
          const { fileName: name, uncompressedSize: bytes, compressedSize: packed } = entry;
          entries.set(name, entry);
          parts.push({ name, bytes, packed, folder: name.endsWith("/"), locked: (entry.generalPurposeBitFlag & 1) !== 0 });
          if (parts.length >= mostParts) resolve(new Zip(file, entries, parts, true));
          else file.readEntry();
        });
        file.readEntry();
      });
    });
  }

  /** The bytes that all of it claims to take when unpacked. */
  get claimed(): number {
    return this.parts.reduce((sum, { bytes }) => sum + bytes, 0);
  }

  names(pattern: RegExp): string[] {
    return this.parts.flatMap(({ name }) => (pattern.test(name) ? [name] : []));
  }

  /** One part, unpacked; undefined where there is none of that name. @throws {@link NotShown} */
  async read(name: string, most: number): Promise<Buffer | undefined> {
    const entry = this.entries.get(name);
    if (!entry) return undefined;
    if (entry.uncompressedSize > most) throw new NotShown("a part of it is too large to be read here");
    return new Promise((resolve, reject) => {
      const damaged = () => reject(new NotShown("it is damaged"));
      this.file.openReadStream(entry, (failed, stream) => {
        if (failed) return damaged();
        const parts: Buffer[] = [];
        let length = 0;
        stream.on("data", (part: Buffer) => {
          length += part.length;
          if (length > most) {
            stream.destroy();
            reject(new NotShown("a part of it is larger than it claims"));
          } else parts.push(part);
        });
        stream.on("error", damaged);
        stream.on("end", () => resolve(Buffer.concat(parts)));
      });
    });
  }
}
