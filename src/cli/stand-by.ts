import { spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type AccountPlace, openAccount } from "@/server/account";
import { canTellPeers } from "@/server/guard/peer";
import { install } from "@/server/install";
import { type StandBy, standBy } from "@/server/standby";
import { runningServer } from "./link";
import { out } from "./print";
import { freePort } from "./start";

const othersMs = 60_000;
const busyMs = 1000;

const isBusy = (error: unknown) =>
  (error instanceof Problem && error.code === "account-busy") || (error as NodeJS.ErrnoException).code === "EADDRINUSE";

/**
 * Runs without a window, in little memory, until it is stopped: for log-in. Asked for the window it makes way for the server
 * that has one, and is there again when that ends.
 */
export async function startSmall(place: AccountPlace, asked?: number): Promise<number> {
  const account = openAccount(place);
  const root = textOfRaw(account.root);
  if (root === undefined) throw new Problem("bad-name", { name: shownName(account.root) });
  if (!(await canTellPeers())) throw new Problem("peers-unknown");
  let stopped = false;
  let stop = () => {};
  const onStop = () => {
    stopped = true;
    stop();
  };
  process.on("SIGTERM", onStop);
  process.on("SIGINT", onStop);
  const pause = (ms: number) =>
    new Promise<void>((done) => {
      const timer = setTimeout(done, ms);
      stop = () => {
        clearTimeout(timer);
        done();
      };
    });
  for (let first = true; !stopped; first = false) {
    if (await runningServer(account)) {
      if (first) {
        out(`Vuoto already runs for ${shownName(account.root)}.`);
        return 0;
      }
      // Another one was quicker; when it ends there is this one again.
      await pause(othersMs);
      continue;
    }
    const port = await freePort(asked);
    let small: StandBy;
    try {
      small = await standBy(account, port, randomBytes(24).toString("base64url"));
    } catch (error) {
      // A command may have the account for a moment, or another program took the port: it is there for long, and tries again.
      if (!isBusy(error)) throw error;
      await pause(busyMs);
      continue;
    }
    await Promise.race([
      small.woken,
      new Promise<void>((done) => {
        stop = done;
        if (stopped) done();
      }),
    ]);
    await small.end();
    if (stopped) break;
    // With the same port, so that a page that asked for the window comes to it.
    const words = ["--account", root, "--data", account.data, "start", "--no-link", "--port", String(port)];
    const window = spawn(process.execPath, [install("bin/vuoto.mjs"), ...words], { stdio: ["ignore", "ignore", "inherit"] });
    stop = () => window.kill("SIGTERM");
    if (stopped) stop();
    await new Promise((done) => window.once("close", done).once("error", done));
    // One that ends at once is not followed by the next without a pause.
    if (!stopped) await pause(1000);
  }
  return 0;
}
