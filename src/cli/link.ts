import fs from "node:fs";
import path from "node:path";
import type { ApiInput, ApiPath } from "@/contract/api";
import { problemDetails } from "@/contract/items";
import { Problem, type ProblemCode } from "@/core/problem";
import type { Account } from "@/server/account";
import type { Engine } from "@/server/engine";
import { listenerUid } from "@/server/guard/peer";
import { openEngine } from "@/server/opening";
import { operate } from "@/server/operations";

/** How commands reach an account: through its running server, else in this process under the account's lock. */
export interface Link {
  ask<P extends ApiPath>(path: P, input: ApiInput<P>): Promise<unknown>;
  close(): Promise<void>;
}

export interface RunningServer {
  port: number;
  key: string;
}

/** The server that runs for an account, if its key file says so and it answers. */
export async function runningServer(account: Account): Promise<RunningServer | undefined> {
  let server: RunningServer;
  try {
    server = JSON.parse(fs.readFileSync(path.join(account.data, "server.json"), "utf8")) as RunningServer;
  } catch {
    return undefined;
  }
  // What listens there now may be another user's: it is not given the key.
  if (listenerUid(server.port) !== process.getuid?.()) return undefined;
  const answer = await askServer(server, "quiet/status", {}).catch(() => undefined);
  return answer?.ok ? server : undefined;
}

export function askServer(server: RunningServer, path: string, input: unknown): Promise<Response> {
  return fetch(`http://127.0.0.1:${server.port}/api/${path}`, {
    method: "POST",
    headers: { "content-type": "application/json", "x-vuoto-key": server.key },
    body: JSON.stringify(input),
  });
}

export async function openLink(account: Account): Promise<Link> {
  const server = await runningServer(account);
  if (server) return throughServer(server);
  const deadline = Date.now() + 5000;
  for (;;) {
    try {
      return inProcess(await openEngine({ root: account.root, data: account.data }));
    } catch (error) {
      // Another command may be at work for a moment, or a server just starting.
      if (!(error instanceof Problem && error.code === "account-busy") || Date.now() > deadline) throw error;
      await new Promise((next) => setTimeout(next, 100));
      const started = await runningServer(account);
      if (started) return throughServer(started);
    }
  }
}

function throughServer(server: RunningServer): Link {
  return {
    async ask(path, input) {
      const answer = await askServer(server, path, input);
      const body: unknown = await answer.json();
      if (answer.ok) return body;
      const details = problemDetails.safeParse(body);
      if (!details.success) throw new Problem("unexpected", { detail: `status ${answer.status}` });
      throw saidBefore(details.data.code as ProblemCode, details.data.title, details.data.remedy);
    },
    close: async () => {},
  };
}

/** A problem whose sentences the server already made. */
function saidBefore(code: ProblemCode, title: string, remedy: string): Problem {
  const problem = new Problem(code);
  Object.assign(problem, { title, remedy, message: `${title} ${remedy}` });
  return problem;
}

function inProcess(engine: Engine): Link {
  for (const words of engine.recovered) process.stderr.write(`${words}\n`);
  const stopTelling = tellJobs(engine);
  const cancel = () => {
    for (const job of engine.jobs.list()) engine.jobs.cancel(job.id);
  };
  process.once("SIGINT", cancel);
  let looked = false;
  return {
    async ask(path, input) {
      if (!looked) {
        looked = true;
        await engine.lookAgain(path.startsWith("homes/") || path.startsWith("survey/") ? "all" : "worktops");
      }
      return operate(engine, path, input);
    },
    async close() {
      stopTelling();
      process.removeListener("SIGINT", cancel);
      await engine.close();
    },
  };
}

/** Progress on a terminal, on one line that is rewritten. */
function tellJobs(engine: Engine): () => void {
  if (!process.stderr.isTTY) return () => {};
  return engine.events.listen(({ event }) => {
    if (event.type !== "job" || event.job.took < 500) return;
    const { words, done, of, state } = event.job;
    const share = of > 0 ? ` ${Math.min(100, Math.floor((100 * done) / of))} %` : "";
    process.stderr.write(state === "over" ? "\r\u001b[K" : `\r\u001b[K${words}${share} (Ctrl-C cancels)`);
  });
}
