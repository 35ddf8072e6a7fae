import { parentPort, workerData } from "node:worker_threads";
import { Problem } from "@/core/problem";
import { compareArchive } from "./work/compare-archive";
import { drawPng } from "./work/draw-png";
import { findFolder } from "./work/find-folder";
import { hashFiles } from "./work/hash-files";
import { hashTwins } from "./work/hash-twins";
import { learnHomes } from "./work/learn-homes";
import { lookAtPicture } from "./work/picture";
import { readWords } from "./work/read-words";
import { readWorktop } from "./work/read-worktop";
import { takenAt } from "./work/taken-at";
import { lookAtText } from "./work/text";
import { walkHomes } from "./work/walk-homes";
import type { WorkContext } from "./work-context";

export const work = {
  findFolder,
  readWorktop,
  walkHomes,
  readWords,
  takenAt,
  learnHomes,
  hashFiles,
  hashTwins,
  compareArchive,
  drawPng,
  lookAtPicture,
  lookAtText,
};
export type Work = typeof work;

interface Request {
  id: number;
  name: keyof Work;
  input: never;
}

const port = parentPort;
if (port) {
  const flag = new Int32Array((workerData as { flag: SharedArrayBuffer }).flag);
  port.on("message", async ({ id, name, input }: Request) => {
    const context: WorkContext = {
      tell: (part) => port.postMessage({ id, part }),
      cancelled: () => Atomics.load(flag, 0) === id,
    };
    try {
      port.postMessage({ id, answer: await work[name](input, context) });
    } catch (error) {
      const problem =
        error instanceof Problem
          ? { code: error.code, facts: error.facts }
          : { code: "unexpected", facts: { detail: error instanceof Error ? error.message : String(error) } };
      port.postMessage({ id, problem });
    }
  });
}
