import { parentPort, workerData } from "node:worker_threads";
import { Problem } from "@/core/problem";
import type { WorkContext } from "./work-context";

// biome-ignore lint/suspicious/noExplicitAny: each of the functions has an input of its own.
type Table = Record<string, (input: any, context: WorkContext) => unknown>;

interface Request {
  id: number;
  name: string;
  input: unknown;
}

/** What a thread does: works on what it is asked, by the name of a function, one after the other. */
export function serveWork(work: Table): void {
  const port = parentPort;
  if (!port) return;
  const flag = new Int32Array((workerData as { flag: SharedArrayBuffer }).flag);
  port.on("message", async ({ id, name, input }: Request) => {
    const context: WorkContext = {
      tell: (part) => port.postMessage({ id, part }),
      cancelled: () => Atomics.load(flag, 0) === id,
    };
    try {
      port.postMessage({ id, answer: await work[name]!(input, context) });
    } catch (error) {
      const problem =
        error instanceof Problem
          ? { code: error.code, facts: error.facts }
          : { code: "unexpected", facts: { detail: error instanceof Error ? error.message : String(error) } };
      port.postMessage({ id, problem });
    }
  });
}
