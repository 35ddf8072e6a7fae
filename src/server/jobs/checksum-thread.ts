import { createHash, type Hash } from "node:crypto";
import { parentPort } from "node:worker_threads";
import type { Sum, Summed } from "../disk/checksum";

const open = new Map<number, Hash>();

parentPort?.on("message", (summed: Summed) => {
  const { id } = summed;
  const hash = open.get(id) ?? createHash("sha256");
  const answer = (sum: Sum) => parentPort!.postMessage(sum);
  if ("part" in summed) {
    open.set(id, hash);
    hash.update(summed.part);
    answer({ id });
    return;
  }
  open.delete(id);
  if ("end" in summed) answer({ id, sha256: hash.digest("hex") });
});
