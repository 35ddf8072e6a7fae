import fs from "node:fs";
import http from "node:http";
import path from "node:path";
import type { ApiAnswer, ApiInput, ApiPath } from "@/contract/api";
import type { ProblemDetails } from "@/contract/items";
import { Problem, type ProblemCode } from "@/core/problem";
import type { Account } from "@/server/account";
import { onBehalfOf } from "@/server/actor";
import type { Engine } from "@/server/engine";
import { listenerUid } from "@/server/guard/peer";
import { err, patiently } from "./voice";

/** How commands reach an account: through its running server, else in this process under the account's lock. */
export interface Link {
  ask<P extends ApiPath>(path: P, input: ApiInput<P>): Promise<ApiAnswer<P>>;
  close(): Promise<void>;
}

export interface RunningServer {
  port: number;
  key: string;
  /** It has no window: {@link withWindow} starts one that has, in its place. */
  small?: true;
  /** Of the one without a window, which starts the other. */
  pid?: number;
}

/** The server that the key file tells of, where a process of this user listens at its port. */
function serverTold(account: Account): RunningServer | undefined {
  let server: RunningServer;
  try {
    server = JSON.parse(fs.readFileSync(path.join(account.data, "server.json"), "utf8")) as RunningServer;
  } catch {
    return undefined;
  }
  // What listens there now may be another user's: it is not given the key.
  return listenerUid(server.port) === process.getuid?.() ? server : undefined;
}

/** The server that runs for an account, if its key file says so and it answers. */
export async function runningServer(account: Account): Promise<RunningServer | undefined> {
  const server = serverTold(account);
  const answer = server && (await askServer(server, "quiet/occasions", {}).catch(() => undefined));
  return answer?.status === 200 ? server : undefined;
}

/** So long is waited for one of a version that does not say which process it is. */
const longestUnseen = 60_000;

/** Whether a process is there. One of another name space is not seen. */
const lives = (pid: number) => fs.existsSync(`/proc/${pid}`);

/** The server with its window, started by one without, where it is one: waited for as long as that lives. */
export async function withWindow(account: Account, server: RunningServer): Promise<RunningServer> {
  if (!server.small) return server;
  await askServer(server, "wake", {});
  const until = Date.now() + longestUnseen;
  const goesOn = () => (server.pid === undefined ? Date.now() < until : lives(server.pid));
  const patient = patiently();
  try {
    for (; goesOn(); await new Promise((next) => setTimeout(next, 150))) {
      const now = await runningServer(account);
      if (now && !now.small) return now;
      // There is the one without again, with another key: the window could not be started.
      if (now && now.key !== server.key) break;
    }
  } finally {
    patient();
  }
  throw new Problem("not-started");
}

export interface Answer {
  status: number;
  body: unknown;
}

/** Asks a server, over a connection of its own. Rejects where none answers. */
export function askServer(server: RunningServer, path: string, input: unknown): Promise<Answer> {
  return new Promise((resolve, reject) => {
    const headers = { "content-type": "application/json", "x-vuoto-key": server.key };
    const asked = http.request(
      { host: "127.0.0.1", port: server.port, path: `/api/${path}`, method: "POST", headers, agent: false },
      (answer) => {
        const parts: Buffer[] = [];
        answer.on("data", (part: Buffer) => parts.push(part));
        answer.on("error", reject);
        answer.on("end", () => {
          let body: unknown;
          try {
            body = JSON.parse(Buffer.concat(parts).toString("utf8"));
          } catch {
            // No Vuoto: its status says enough.
          }
          resolve({ status: answer.statusCode ?? 0, body });
        });
      },
    );
    asked.on("error", reject);
    asked.end(JSON.stringify(input));
  });
}

/** A link to the account: through the server that the key file tells of, else, where that is gone, in this process. */
export function openLink(account: Account): Link {
  const server = serverTold(account);
  let inside: Link | undefined;
  return {
    async ask(path, input) {
      if (server && !inside) {
        try {
          return await throughServer(server, path, input);
        } catch (error) {
          if (!(error instanceof NotThere)) throw error;
        }
      }
      inside ??= await openInside(account);
      return inside.ask(path, input);
    },
    close: async () => inside?.close(),
  };
}

/** Nothing was asked: no server listens there, or it is another account's. */
class NotThere extends Error {}

const mostPatience = 5000;

async function openInside(account: Account): Promise<Link> {
  const { openEngine } = await import("@/server/opening");
  const { default: pRetry } = await import("p-retry");
  const open = async (attempt: number): Promise<Link> => {
    // Another command may be at work for a moment, or a server just starting.
    const started = attempt > 1 && (await runningServer(account));
    if (started) return { ask: (path, input) => throughServer(started, path, input), close: async () => {} };
    return inProcess(await openEngine({ root: account.root, data: account.data }));
  };
  return pRetry(open, {
    retries: mostPatience / 100,
    minTimeout: 100,
    factor: 1,
    maxRetryTime: mostPatience,
    shouldRetry: ({ error }) => error instanceof Problem && error.code === "account-busy",
  });
}

async function throughServer<P extends ApiPath>(server: RunningServer, path: P, input: ApiInput<P>): Promise<ApiAnswer<P>> {
  const { status, body } = await askServer(server, path, input).catch((error: NodeJS.ErrnoException) => {
    throw error.code === "ECONNREFUSED" ? new NotThere() : error;
  });
  if (status === 200) return body as ApiAnswer<P>;
  const { code, title, remedy } = (body ?? {}) as Partial<ProblemDetails>;
  // It does not know the key.
  if (code === "no-session") throw new NotThere();
  if (!code || !title || remedy === undefined) throw new Problem("unexpected", { detail: `status ${status}` });
  throw saidBefore(code as ProblemCode, title, remedy);
}

/** A problem whose sentences the server already made. */
function saidBefore(code: ProblemCode, title: string, remedy: string): Problem {
  const problem = new Problem(code);
  Object.assign(problem, { title, remedy, message: `${title} ${remedy}` });
  return problem;
}

async function inProcess(engine: Engine): Promise<Link> {
  const { operate } = await import("@/server/operations");
  for (const words of engine.recovered) err(`${words}\n`);
  const stopTelling = tellJobs(engine);
  const cancel = () => engine.jobs.cancelAll();
  process.once("SIGINT", cancel);
  let looked = false;
  return {
    async ask(path, input) {
      if (!looked) {
        looked = true;
        await engine.lookAgain(path.startsWith("homes/") || path.startsWith("survey/") ? "all" : "worktops");
      }
      return onBehalfOf("command", () => operate(engine, path, input));
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
