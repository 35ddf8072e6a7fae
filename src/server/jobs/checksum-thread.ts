import { createHash, type Hash } from "node:crypto";
import fs from "node:fs";
import { parentPort } from "node:worker_threads";
import { type Sum, type Summed, sumBlock } from "../disk/checksum";
import { errorCode } from "../disk/disk-problem";
import { othersFirst } from "./gentle";

const open = new Map<number, Hash>();
/** The files that are being read. */
const files = new Set<number>();

const answer = (sum: Sum, transferred: ArrayBuffer[] = []) => parentPort!.postMessage(sum, transferred);

parentPort?.on("message", (summed: Summed) => {
  const { id } = summed;
  if ("fd" in summed) return void sumFile(id, summed.fd);
  if ("drop" in summed && files.delete(id)) return;
  const hash = open.get(id) ?? createHash("sha256");
  if ("part" in summed) {
    open.set(id, hash);
    hash.update(summed.part);
    const room = summed.part.buffer as ArrayBuffer;
    return answer({ id, room }, [room]);
  }
  open.delete(id);
  if ("end" in summed) answer({ id, sha256: hash.digest("hex") });
});

/** A block after the other, and between two of them others have their turn, and it is heard whether it is to go on. */
async function sumFile(id: number, fd: number): Promise<void> {
  files.add(id);
  const hash = createHash("sha256");
  const block = Buffer.allocUnsafeSlow(sumBlock);
  try {
    for (let at = 0; files.has(id); ) {
      const read = fs.readSync(fd, block, 0, block.length, at);
      if (read === 0) return answer({ id, sha256: hash.digest("hex") });
      hash.update(block.subarray(0, read));
      at += read;
      answer({ id, read });
      await othersFirst();
    }
    answer({ id, dropped: true });
  } catch (error) {
    answer({ id, code: errorCode(error) ?? "EIO" });
  } finally {
    files.delete(id);
  }
}
