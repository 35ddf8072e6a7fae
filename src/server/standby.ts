import http from "node:http";
import type net from "node:net";
import type { ApiPath } from "@/contract/api";
import { asProblem, Problem } from "@/core/problem";
import type { AccountPlace } from "./account";
import { onBehalfOf } from "./actor";
import type { Clock } from "./clock";
import { writeDataFile } from "./data-file";
import { soonButNotLate, watchFolders } from "./disk/watching";
import type { Engine } from "./engine";
import { readJson } from "./guard/body";
import { doorTo } from "./guard/door";
import { checkHost, hasKey, hostName } from "./guard/guard";
import { detailsOf } from "./guard/problem-answer";
import { restCarriers } from "./jobs/carriers";
import { restThreads } from "./jobs/workers";
import { openEngine } from "./opening";
import { operateFrom } from "./operate";
import { quietTable } from "./quiet/operations";
import { Standing } from "./quiet/standing";
import { keepDailyCopy } from "./settings/backup";

const soonMs = 250;
const latestMs = 1500;
/** Threads that had nothing to do for so long are ended: each takes memory. */
const restMs = 5000;

/** What is asked of all that lies there, in homes and depots too: it is looked at first. */
const needsAll = /^(survey|homes|sitting|depots)\//;

export interface StandBy {
  /** Once it is asked to make way for the server with the window. */
  woken: Promise<void>;
  end(): Promise<void>;
}

/**
 * Vuoto without its window: the record, the timetable, the watcher, and an ear for commands, in this process. Another command
 * is answered at once, as by the server. `clock`: another one, for tests.
 */
export async function standBy(place: AccountPlace, port: number, key: string, clock?: Clock): Promise<StandBy> {
  const engine = await openEngine(place, { lasting: "small", clock });
  const { account } = engine;
  Object.assign(process.env, { VUOTO_PORT: String(port), VUOTO_KEY: key, VUOTO_DATA: account.data });
  const standing = new Standing(engine);
  const say = (error: unknown) => {
    // What was under way when it ended has nothing to say.
    if (!engine.closing) process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  };
  const look = () =>
    void engine
      .lookAgain()
      .then(() => standing.tick())
      .catch(say);
  const goToRest = async () => {
    // What was done today is copied today, also where the window is not opened for weeks.
    if (!engine.closing) await keepDailyCopy(engine).catch(say);
    await Promise.all([restThreads(), restCarriers()]);
    if (engine.closing) return;
    engine.db.pragma("shrink_memory");
    (globalThis as { gc?: () => void }).gc?.();
  };
  const rest = soonButNotLate(engine.clock, () => void goToRest(), restMs, 10 * restMs);
  const stopHearing = engine.events.listen(rest);
  const stopWatching = watchFolders(
    engine.clock,
    account.worktops.map(({ folder }) => folder),
    soonButNotLate(engine.clock, look, soonMs, latestMs),
    say,
    { poll: false },
  );
  look();
  standing.begin(say);

  let wake = () => {};
  const woken = new Promise<void>((done) => {
    wake = done;
  });
  const server = http.createServer((asked, answer) => {
    void answerTo(engine, asked, answer, wake).catch(say).finally(rest);
  });
  /** Also those over which nothing was asked yet. */
  const sockets = new Set<net.Socket>();
  server.on("connection", (socket: net.Socket) => {
    sockets.add(socket);
    socket.once("close", () => sockets.delete(socket));
  });
  const door = doorTo(server);
  const end = async () => {
    stopWatching();
    stopHearing();
    standing.stop();
    engine.jobs.cancelAll();
    await new Promise<void>((done) => {
      door.close(() => done());
      for (const socket of sockets) socket.destroy();
    });
    await engine.close();
    await Promise.all([restThreads(), restCarriers()]);
  };
  try {
    await new Promise<void>((done, failed) => {
      door.once("error", failed);
      door.listen(port, hostName, done);
    });
  } catch (error) {
    await end();
    throw error;
  }
  // Only once it listens: a command finds it by this.
  writeDataFile(account, "server.json", JSON.stringify({ port, key, small: true, pid: process.pid }));
  return { woken, end };
}

async function answerTo(
  engine: Engine,
  asked: http.IncomingMessage,
  answer: http.ServerResponse,
  wake: () => void,
): Promise<void> {
  const headers = { get: (name: string) => asked.headers[name]?.toString() ?? null };
  const given = { method: asked.method ?? "GET", headers };
  const send = (status: number, body: string, type = "application/json") => {
    answer.writeHead(status, { "content-type": type, "cache-control": "no-store", "content-length": Buffer.byteLength(body) });
    answer.end(body);
  };
  try {
    checkHost(given);
    const path = (asked.url ?? "/").replace(/^\/api\//, "");
    if (given.method === "GET" && !(asked.url ?? "").startsWith("/api/")) {
      // A page that was open when the server ended, or a mark in the browser: the window is started, and it asks again.
      const site = headers.get("sec-fetch-site");
      // Not at the wish of another page, which may ask for anything here, as for a picture.
      if (site !== null && site !== "none" && site !== "same-origin") throw new Problem("foreign-request");
      send(503, waitingPage, "text/html; charset=utf-8");
      answer.once("finish", wake);
      return;
    }
    if (!hasKey(given)) throw new Problem("no-session");
    const input = await readJson(asked);
    if (path === "wake") {
      answer.once("finish", wake);
      send(200, "{}");
      return;
    }
    const done = await onBehalfOf("command", () => operate(engine, path, input));
    send(200, JSON.stringify(done ?? null));
  } catch (error) {
    const problem = asProblem(error);
    send(problem.status, JSON.stringify(detailsOf(problem)), "application/problem+json");
  }
}

/** What is not about quiet is read when it is first asked for: it takes memory, too. */
async function operate(engine: Engine, path: string, input: unknown): Promise<unknown> {
  if (Object.hasOwn(quietTable.schemas, path)) return operateFrom(quietTable, engine, path, input);
  const all = await import("./operations");
  if (needsAll.test(path)) await engine.lookAgain("all");
  return all.operate(engine, path as ApiPath, input);
}

/** Until the server with the window listens nobody answers at its address: it is tried again and again. */
const waitingPage = `<!doctype html><meta charset="utf-8"><title>Vuoto</title>
<body style="font: 16px sans-serif; margin: 15vh auto; max-width: 40em"><p>Vuoto's window is being started. This page comes again by itself.</p>
<noscript><p>Load it again in a moment.</p></noscript>
<script>setInterval(() => fetch("/enter").then(() => location.reload(), () => {}), 700)</script>
`;
