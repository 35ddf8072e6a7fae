import fs from "node:fs";
import { openCloud } from "./cloud";
import { readCloudFile, writeCloudFile } from "./cloud-file";

/** The stand-in as a process of its own: over FOLDER, set by FILE, for as long as the one who started it is there. */
async function run(folder: string, file: string): Promise<void> {
  const { port, settings } = readCloudFile(file);
  const cloud = await openCloud(folder, { port, settings }).catch(() => openCloud(folder, { settings }));
  writeCloudFile(file, { port: Number(new URL(cloud.url).port), settings });
  let read = fs.statSync(file).mtimeMs;
  cloud.before = () => {
    const now = fs.statSync(file, { throwIfNoEntry: false })?.mtimeMs ?? read;
    if (now === read) return;
    read = now;
    cloud.set(readCloudFile(file).settings);
  };
  process.on("disconnect", () => process.exit(0));
  process.send?.({ url: cloud.url });
}

void run(process.argv[2]!, process.argv[3]!);
