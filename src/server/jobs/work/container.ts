const mostEntries = 500;
const longestType = 200;

const office: [folder: string, mime: string][] = [
  ["xl/", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"],
  ["word/", "application/vnd.openxmlformats-officedocument.wordprocessingml.document"],
  ["ppt/", "application/vnd.openxmlformats-officedocument.presentationml.presentation"],
];

/**
 * What a ZIP file is by what it holds, in whatever order: an Office Open XML document by its parts (ECMA-376), an OpenDocument
 * or EPUB file by its entry "mimetype"; undefined where it is an archive, or cannot be read.
 */
export async function typeOfZip(fd: number): Promise<string | undefined> {
  const { default: yauzl } = await import("yauzl");
  return new Promise((resolve) => {
    yauzl.fromFd(fd, { lazyEntries: true, autoClose: false }, (failed, zip) => {
      if (failed) return resolve(undefined);
      const names = new Set<string>();
      let seen = 0;
      const over = () => {
        const isOffice = names.has("[Content_Types].xml");
        resolve(isOffice ? office.find(([folder]) => [...names].some((name) => name.startsWith(folder)))?.[1] : undefined);
      };
      zip.on("error", () => resolve(undefined));
      zip.on("end", over);
      zip.on("entry", (entry: import("yauzl").Entry) => {
        names.add(entry.fileName);
        if (entry.fileName === "mimetype" && entry.uncompressedSize <= longestType) {
          zip.openReadStream(entry, (unread, stream) => {
            if (unread) return resolve(undefined);
            const parts: Buffer[] = [];
            stream.on("data", (part: Buffer) => parts.push(part));
            stream.on("error", () => resolve(undefined));
            stream.on("end", () => {
              const said = Buffer.concat(parts).toString("latin1").trim();
              resolve(/^application\/(vnd\.oasis\.opendocument\.[a-z-]+|epub\+zip)$/.test(said) ? said : undefined);
            });
          });
        } else if (++seen === mostEntries) over();
        else zip.readEntry();
      });
      zip.readEntry();
    });
  });
}
