import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { type BrowserContext, test as base, expect, type Page } from "@playwright/test";
import { rawFromText } from "@/core/names/raw";
import { dataFolderFor } from "@/server/account";
import { differences, readTree, type Tree } from "../fixtures/compare-trees";

const root = path.dirname(import.meta.dirname);

/** A running Vuoto on a temporary account. */
export interface Running {
  base: string;
  /** The address of the one-time link that was printed. */
  enter: string;
  /** Where the record lies. */
  data: string;
  account: string;
  folder: string;
  tree(): Tree;
  /** Everything that differs from the tree given, but for the times of folders and the trash's own empty folders. */
  changes(before: Tree): string[];
  /** The command, on this account. */
  command(...words: string[]): { status: number | null; out: string; err: string };
  stop(): Promise<void>;
  /** Ends it at once, as a crash does; `again` starts it. */
  kill(): Promise<void>;
  /** Stops and starts again, at another port or at the one given. */
  again(port?: string): Promise<void>;
}

/** A fresh one-time link, asked for as the command does. */
async function freshLink({ base, data }: Running): Promise<string> {
  const { key } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { key: string };
  const answer = await fetch(`${base}/api/guard/link`, { method: "POST", headers: { "x-vuoto-key": key } });
  return ((await answer.json()) as { link: string }).link;
}

/** The cookie of a session that is made for it. */
export async function cookieOf(running: Running): Promise<string> {
  const entered = await fetch(`${running.base}/api/guard/enter`, {
    method: "POST",
    redirect: "manual",
    headers: {
      origin: running.base,
      "content-type": "application/x-www-form-urlencoded",
      "user-agent": "Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Safari/537.36",
    },
    body: new URLSearchParams({ link: await freshLink(running) }).toString(),
  });
  expect(entered.status).toBe(303);
  return entered.headers.getSetCookie()[0]!.split(";")[0]!;
}

/** Lets a browser in without its having to press the button. */
export async function letIn(context: BrowserContext, running: Running, cookie?: string): Promise<void> {
  const [name, value] = (cookie ?? (await cookieOf(running))).split("=") as [string, string];
  await context.addCookies([{ name, value, url: running.base, httpOnly: true, sameSite: "Strict" }]);
}

/** Opens the printed link and presses its button. */
export async function enter(page: Page, link: string): Promise<void> {
  await page.goto(link);
  await page.getByRole("button", { name: "Let this browser in" }).click();
  await expect(page).toHaveURL(/\/survey$/);
}

let nextPort = 4300 + Number(process.env.TEST_WORKER_INDEX ?? 0) * 60;

/** Starts Vuoto: on the sample account, or on one that `fill` makes. */
export async function startVuoto(fill?: (account: string) => void): Promise<Running> {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-e2e-")));
  const account = path.join(folder, "sample/account");
  const env = {
    ...process.env,
    XDG_DATA_HOME: path.join(folder, "xdg"),
    VUOTO_SAMPLE: path.join(folder, "sample"),
    VUOTO_DATA: "",
  };
  if (fill) {
    fs.mkdirSync(account, { recursive: true });
    fill(account);
  }
  let server: ChildProcess;
  const launch = async (port = String(nextPort++)): Promise<{ base: string; enter: string }> => {
    const words = fill ? ["start", "--account", account] : ["demo"];
    server = spawn(process.execPath, [path.join(root, "bin/vuoto.mjs"), ...words, "--port", port], {
      env,
      stdio: ["ignore", "pipe", "pipe"],
    });
    let said = "";
    return new Promise((resolve, reject) => {
      const hear = (chunk: Buffer) => {
        said += chunk.toString();
        const address = /(http:\/\/127\.0\.0\.1:\d+)\/enter\?\S+/.exec(said);
        if (address && said.includes("Ctrl-C")) resolve({ base: address[1]!, enter: address[0] });
      };
      server.stdout!.on("data", hear);
      server.stderr!.on("data", hear);
      server.once("exit", (code) => reject(new Error(`it ended with ${code}: ${said}`)));
    });
  };
  const end = async (signal: NodeJS.Signals) => {
    if (server.exitCode !== null || server.signalCode !== null) return;
    const ended = new Promise((done) => server.once("exit", done));
    server.kill(signal);
    await ended;
  };
  const stop = () => end("SIGTERM");
  // A test that failed has not stopped its own.
  process.once("exit", () => server.kill());
  const { base, enter } = await launch();
  const running: Running = {
    base,
    enter,
    data: dataFolderFor(rawFromText(account), path.join(folder, "xdg")),
    account,
    folder,
    tree: () => readTree(account),
    changes: (before) =>
      differences(before, readTree(account), () => true).filter(
        // On the sample a recording is written all the while.
        (line) =>
          !line.includes("recording-lee-harbour") &&
          !/^new: \.local(\/share(\/Trash(\/(files|info|directorysizes))?)?)?$/.test(line),
      ),
    command(...words) {
      const done = spawnSync(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, ...words], {
        env,
        encoding: "utf8",
        cwd: folder,
      });
      return { status: done.status, out: done.stdout, err: done.stderr };
    },
    async kill() {
      // The server is a process of its own; the command ends with it.
      const [child] = spawnSync("pgrep", ["-P", String(server.pid)], { encoding: "utf8" })
        .stdout.trim()
        .split("\n");
      const ended = new Promise((done) => server.once("exit", done));
      process.kill(Number(child), "SIGKILL");
      await ended;
    },
    stop: async () => {
      await stop();
      fs.rmSync(folder, { recursive: true, force: true });
    },
    async again(port) {
      await stop();
      Object.assign(running, await launch(port));
    },
  };
  return running;
}

/** One Vuoto for the tests of a file, on the sample account, and a browser that is let in. */
export const test = base.extend<{ vuoto: Running }, { sample: { running: Running; cookie: string } }>({
  sample: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names from the pattern
    async ({}, use) => {
      const running = await startVuoto();
      await use({ running, cookie: await cookieOf(running) });
      await running.stop();
    },
    { scope: "worker", timeout: 120_000 },
  ],
  vuoto: async ({ sample: { running, cookie }, context }, use) => {
    await letIn(context, running, cookie);
    await use(running);
  },
});

/** On the sample two things are in use, and would stay where they lie: the programs that have them are done. */
export function closePrograms({ account }: Running): void {
  for (const name of ["recording-lee-harbour.wav", ".~lock.kittiwake-talk.md#"])
    fs.rmSync(path.join(account, "Desktop", name), { force: true });
}

/** Waits until the homes were read and compared: until the course counts things that have a home. */
export async function settled(page: Page): Promise<void> {
  await expect(
    page.getByRole("navigation", { name: "the course of the work" }).getByRole("link", { name: /^homes [1-9]/ }),
  ).toBeVisible({ timeout: 30_000 });
  await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
}

export { expect };
