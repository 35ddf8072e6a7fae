import fs from "node:fs";
import { samplesASecond, surf } from "./recording";

/** A recording is no longer than this, however long the demo runs. */
const mostBytes = 10_000_000;

/** A field recorder: writes a recording on, second by second, for as long as the one who started it is there. */
function record(file: string): void {
  const fd = fs.openSync(file, "r+");
  let { size } = fs.fstatSync(fd);
  let second = 0;
  const write = setInterval(() => {
    size += fs.writeSync(fd, surf(second++), 0, samplesASecond, size);
    if (size > mostBytes) clearInterval(write);
  }, 1000);
  process.on("disconnect", () => process.exit(0));
}

record(process.argv[2]!);
