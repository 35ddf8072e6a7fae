import fs from "node:fs";
import { type CloudSettings, firstSettings } from "./cloud";

/** How a stand-in that runs as a process of its own is set: the file that it reads anew with each request. */
export interface CloudFile {
  /** Where it listens, once it did: the same the next time, as depots are known by their address. */
  port?: number;
  settings: CloudSettings;
}

export function readCloudFile(file: string): CloudFile {
  try {
    const { port, settings } = JSON.parse(fs.readFileSync(file, "utf8")) as Partial<CloudFile>;
    return { port, settings: { ...firstSettings, ...settings } };
  } catch {
    return { settings: { ...firstSettings } };
  }
}

export function writeCloudFile(file: string, content: CloudFile): void {
  fs.writeFileSync(`${file}.new`, `${JSON.stringify(content, null, 1)}\n`, { mode: 0o600 });
  fs.renameSync(`${file}.new`, file);
}
