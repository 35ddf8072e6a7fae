import { fork, spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import fs from "node:fs";
import net from "node:net";
import path from "node:path";
import { type Raw, rawFromText, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Account, type AccountPlace, dataFolderFor, openAccount } from "@/server/account";
import { canTellPeers } from "@/server/guard/peer";
import { install } from "@/server/install";
import { recordingName } from "@/standins/recording";
import { askServer, type RunningServer, runningServer, withWindow } from "./link";
import { out } from "./print";
import { err, patiently } from "./voice";

const defaultPort = 4180;

/** Starts the server for an account and prints where it is; where one runs already, says so and prints a fresh link. */
export async function start(place: AccountPlace, options: { port?: number; link?: boolean }): Promise<number> {
  const account = openAccount(place);
  for (let tries = 1; ; tries++) {
    const running = await runningServer(account);
    if (running) {
      out(`Vuoto already runs for ${shownName(account.root)}, at http://127.0.0.1:${running.port}/`);
      const server = await withWindow(account, running);
      if (options.link !== false) await sayAddress(server);
      return 0;
    }
    try {
      return await serve(account, await freePort(options.port), options.link !== false);
    } catch (error) {
      // Another start at the same moment was quicker: to take the account, or the port.
      const busy = error instanceof Problem && (error.code === "account-busy" || error.code === "port-taken");
      if (!busy || options.port !== undefined || tries === 20) throw error;
      await new Promise((next) => setTimeout(next, 500));
    }
  }
}

/** Serves an account until it is stopped. */
async function serve(account: Account, port: number, link: boolean): Promise<number> {
  if (!(await canTellPeers())) throw new Problem("peers-unknown");
  const key = randomBytes(24).toString("base64url");
  const server = spawn(process.execPath, [install("dist/serve.mjs")], {
    cwd: install(),
    stdio: ["ignore", "pipe", "pipe", "ipc"],
    env: {
      ...process.env,
      NODE_ENV: "production",
      NEXT_TELEMETRY_DISABLED: "1",
      NEXT_MANUAL_SIG_HANDLE: "true",
      VUOTO_ROOT: install(),
      VUOTO_ACCOUNT: btoa(account.root),
      VUOTO_DATA: account.data,
      VUOTO_PORT: String(port),
      VUOTO_KEY: key,
    },
  });
  const words: string[] = [];
  const keep = (chunk: Buffer) => {
    words.push(chunk.toString("utf8"));
    if (words.length > 200) words.shift();
  };
  server.stdout?.on("data", keep);
  server.stderr?.on("data", keep);
  // Once all that it said was read, too: why it ended stands there.
  const ended = new Promise<number>((done) => server.once("close", (code) => done(code ?? 0)));
  const stop = () => server.kill("SIGTERM");
  process.once("SIGINT", stop);
  process.once("SIGTERM", stop);

  // Only once it listens itself is the port asked: until then another start's server may answer there.
  const listens = new Promise<void>((done) => server.once("message", () => done()));
  const over = new AbortController();
  void ended.then(() => over.abort());
  const patient = patiently();
  const outcome = await Promise.race([listens.then(() => ready(port, key, over.signal)), ended.then(() => "ended" as const)]);
  patient();
  if (outcome !== "ready") {
    stop();
    await ended;
    process.off("SIGINT", stop);
    process.off("SIGTERM", stop);
    if (outcome !== "ended") throw outcome;
    if (words.join("").includes("EADDRINUSE")) throw new Problem("port-taken", { detail: String(port) });
    err(words.join(""));
    throw new Problem("unexpected", { detail: "the server did not start" });
  }
  if (link) await sayAddress({ port, key });
  out("Ctrl-C stops it.");
  return ended;
}

/** Waits until the server has opened the account, for as long as it lives; answers the problem where it cannot. */
async function ready(port: number, key: string, over: AbortSignal): Promise<"ready" | Problem> {
  while (!over.aborted) {
    const answer = await askServer({ port, key }, "quiet/occasions", {}).catch(() => undefined);
    if (answer?.status === 200) return "ready";
    if (answer) {
      const { code, title, remedy } = (answer.body ?? {}) as { code?: Problem["code"]; title?: string; remedy?: string };
      const problem = new Problem(code ?? "unexpected", { detail: `status ${answer.status}` });
      return title ? Object.assign(problem, { title, remedy }) : problem;
    }
    await new Promise((next) => setTimeout(next, 100));
  }
  return new Problem("unexpected", { detail: "the server did not start" });
}

/** A fresh one-time link from a running server. */
export async function freshLink({ port, key }: RunningServer): Promise<string> {
  const { body } = await askServer({ port, key }, "guard/link", {});
  const { link } = body as { link: string };
  return `http://127.0.0.1:${port}/enter?link=${link}`;
}

async function sayAddress(server: RunningServer): Promise<void> {
  out(`Open this link; it lets one browser in, once:\n${await freshLink(server)}`);
}

/** The port asked for, or the first free one from the usual on. */
export async function freePort(asked?: number): Promise<number> {
  const isFree = (port: number) =>
    new Promise<boolean>((done) => {
      const probe = net.createServer();
      probe.once("error", () => done(false));
      probe.listen(port, "127.0.0.1", () => probe.close(() => done(true)));
    });
  if (asked !== undefined) {
    if (await isFree(asked)) return asked;
    throw new Problem("port-taken", { detail: String(asked) });
  }
  for (let port = defaultPort; port < defaultPort + 50; port++) if (await isFree(port)) return port;
  throw new Problem("port-taken", { detail: `${defaultPort} to ${defaultPort + 49}` });
}

/** Makes the sample account where there is none yet, or anew, and starts on it. */
export async function startDemo(options: { fresh: boolean; port?: number }): Promise<number> {
  const folder = process.env.VUOTO_SAMPLE ?? install("sample");
  const root = path.join(folder, "account");
  const raw = rawFromText(root) as Raw;
  const data = dataFolderFor(raw);
  if (options.fresh && fs.existsSync(root)) {
    const account = openAccount({ root: raw, data });
    if (await runningServer(account)) throw new Problem("account-busy", { place: "the sample account; stop it first" });
    fs.rmSync(folder, { recursive: true, force: true });
  }
  if (!fs.existsSync(path.join(root, "Desktop"))) {
    out("Making the sample account.");
    // A record of another one that lay here says nothing about this one.
    fs.rmSync(data, { recursive: true, force: true });
    const began = Date.now();
    const { makeSample } = await import("@/demo/make-sample");
    const made = await makeSample(folder, data, Date.now());
    out(
      `Made ${made.files} files, ${(made.bytes / 1e6).toFixed(1)} MB, in ${((Date.now() - began) / 1000).toFixed(1)} seconds, in ${folder}.`,
    );
  }
  const recording = path.join(root, "Desktop", recordingName);
  const recorder = fs.existsSync(recording)
    ? fork(install("dist/recorder.mjs"), [recording], { stdio: "ignore", execArgv: [] })
    : undefined;
  const cloud = fork(install("dist/cloud.mjs"), [path.join(folder, "station-cloud"), path.join(folder, "station-cloud.json")], {
    stdio: "ignore",
    execArgv: [],
  });
  const beside = [cloud, ...(recorder ? [recorder] : [])];
  for (const process of beside) {
    process.on("error", () => {});
    process.unref();
    process.channel?.unref();
  }
  try {
    return await start({ root: raw, data }, { port: options.port });
  } finally {
    for (const process of beside) process.kill();
  }
}
