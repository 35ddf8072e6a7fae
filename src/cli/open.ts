import { spawn } from "node:child_process";
import path from "node:path";
import { setTimeout as after } from "node:timers/promises";
import { pathToFileURL } from "node:url";
import { textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { type Account, type AccountPlace, openAccount } from "@/server/account";
import { writeDataFile } from "@/server/data-file";
import { install } from "@/server/install";
import { type RunningServer, runningServer, withWindow } from "./link";
import { out } from "./print";
import { freshLink } from "./start";
import { patiently } from "./voice";

const pageName = "open.html";

/**
 * Opens Vuoto in the browser, started where it does not run. The link that lets the browser in stands on no command line,
 * which every user of the computer can read, but on a page for the person alone that leads on to it.
 */
export async function open(place: AccountPlace): Promise<number> {
  const account = openAccount(place);
  const running = await runningServer(account);
  const server = running ? await withWindow(account, running) : await startApart(account);
  const link = await freshLink(server);
  writeDataFile(
    account,
    pageName,
    `<!doctype html><meta charset="utf-8"><meta http-equiv="refresh" content="0; url=${link}"><title>Vuoto</title><a href="${link}">Open Vuoto</a>\n`,
  );
  const page = pathToFileURL(path.join(account.data, pageName)).href;
  if (!(await openInBrowser(page))) out(`No browser could be started. Open this page in yours:\n${page}`);
  return 0;
}

/** Starts Vuoto as a process of its own, which goes on when this one ends. */
async function startApart(account: Account): Promise<RunningServer> {
  const root = textOfRaw(account.root);
  if (root === undefined) throw new Problem("bad-words", { detail: "Start this account with vuoto start." });
  const child = spawn(process.execPath, [install("bin/vuoto.mjs"), "--account", root, "--data", account.data, "start"], {
    detached: true,
    stdio: ["ignore", "ignore", "pipe"],
  });
  let said = "";
  child.stderr.on("data", (part: Buffer) => {
    said += part.toString("utf8");
  });
  const over = new AbortController();
  child.once("exit", () => over.abort());
  const patient = patiently();
  try {
    for (; !over.signal.aborted; await after(200)) {
      const server = await runningServer(account);
      if (!server) continue;
      child.stderr.destroy();
      child.unref();
      return server;
    }
  } finally {
    patient();
  }
  throw new Problem("not-started", { detail: said.trim() || undefined });
}

/** Opens a page with the program that the person's desktop has for it; answers whether one took it. */
function openInBrowser(page: string): Promise<boolean> {
  return new Promise((done) => {
    const child = spawn("xdg-open", [page], { detached: true, stdio: "ignore" });
    child.once("error", () => done(false));
    child.once("exit", (code) => done(code === 0));
    // Some go on for as long as the browser is open.
    void after(3000, undefined, { ref: false }).then(() => {
      child.unref();
      done(true);
    });
  });
}
