import { type ChildProcess, fork, spawn, spawnSync } from "node:child_process";
import { once } from "node:events";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { type BrowserContext, test as base, expect, type Page } from "@playwright/test";
import { rawFromText } from "@/core/names/raw";
import { dataFolderFor } from "@/server/account";
import { recordingName } from "@/standins/recording";
import { changedSince, readTree, type Tree } from "../fixtures/compare-trees";
import { type Said, said } from "../fixtures/said";
import type { main } from "../src/cli/main";
import type { Asked } from "./application";

const root = path.dirname(import.meta.dirname);

/** A running Vuoto on a temporary account. */
export interface Running {
  base: string;
  /** The address of a one-time link. */
  enter: string;
  /** Where the record lies. */
  data: string;
  account: string;
  folder: string;
  tree(): Tree;
  /** Everything that differs from the tree given, but for the times of folders and the trash's own empty folders. */
  changes(before: Tree): string[];
  /** An act or a question, asked as the command does. */
  ask(what: string, input: unknown): Promise<unknown>;
  /** The command, on this account. */
  command(...words: string[]): Promise<Said>;
}

/** One that is opened in the application of this worker. */
export interface Opened extends Running {
  /** It ends: nobody answers any more. `again` starts it. */
  end(): Promise<void>;
  /** It ends, where it has not, and starts again: the record is read anew. */
  again(): Promise<void>;
  /** Its clock is put forward by so many milliseconds. */
  pass(ms: number): Promise<void>;
}

/** One that is a process of its own, as people start it. */
export interface Started extends Running {
  stop(): Promise<void>;
  /** Ends it at once, as a crash does; `again` starts it. */
  kill(): Promise<void>;
  /** Stops and starts again, at another port or at the one given. */
  again(port?: string): Promise<void>;
}

/** Asks the server of an account, with the key that it keeps for commands. */
async function ask(data: string, what: string, input: unknown): Promise<unknown> {
  const { key, port } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { key: string; port: number };
  const headers = { "content-type": "application/json", "x-vuoto-key": key };
  const answer = await fetch(`http://127.0.0.1:${port}/api/${what}`, { method: "POST", headers, body: JSON.stringify(input) });
  const body = await answer.text();
  expect(answer.status, body).toBe(200);
  return JSON.parse(body);
}

/** A fresh one-time link. */
const freshLink = async ({ data }: Pick<Running, "data">) => ((await ask(data, "guard/link", {})) as { link: string }).link;

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
export async function letIn(context: BrowserContext, running: Running): Promise<void> {
  const [name, value] = (await cookieOf(running)).split("=") as [string, string];
  await context.addCookies([{ name, value, url: running.base, httpOnly: true, sameSite: "Strict" }]);
}

/** Opens the printed link and presses its button. */
export async function enter(page: Page, link: string): Promise<void> {
  await page.goto(link);
  await page.getByRole("button", { name: "Let this browser in" }).click();
  await expect(page).toHaveURL(/\/survey$/);
}

let nextPort = 4300 + Number(process.env.TEST_WORKER_INDEX ?? 0) * 60;

/** An account in a folder, and what can be asked of it without a browser. */
function place(folder: string, data: string): Omit<Running, "base" | "enter"> {
  const account = path.join(folder, "account");
  return {
    folder,
    account,
    data,
    tree: () => readTree(account),
    // On the sample a recording is written all the while.
    changes: (before) => changedSince(before, account).filter((line) => !line.includes("recording-lee-harbour")),
    ask: (what, input) => ask(data, what, input),
    async command(...words) {
      // The very file that people run.
      const cli = (await import(path.join(root, "dist/cli.mjs"))) as { main: typeof main };
      return said(cli.main, "--account", account, "--data", data, ...words);
    },
  };
}

/** The application of a worker: one account after another is opened in it. */
class Application {
  private readonly waiting = new Map<number, { done: (answer: unknown) => void; failed: (error: Error) => void }>();
  private asked = 0;
  private recorder: ChildProcess | undefined;
  /** The sample, as it was made, and where it is opened: the same place each time, as it names itself. */
  private readonly pristine: string;
  /** The sample is open, and nothing was changed on it. */
  untouched: Opened | undefined;

  constructor(
    private readonly process: ChildProcess,
    readonly base: string,
    private readonly folder: string,
  ) {
    this.pristine = path.join(folder, "pristine");
    process.on("message", ({ n, answered, failed }: { n: number; answered?: unknown; failed?: string }) => {
      const one = this.waiting.get(n);
      this.waiting.delete(n);
      if (failed === undefined) one?.done(answered);
      else one?.failed(new Error(failed));
    });
  }

  private tell(asked: Asked): Promise<unknown> {
    return new Promise((done, failed) => {
      this.waiting.set(++this.asked, { done, failed });
      this.process.send({ n: this.asked, asked });
    });
  }

  async open(folder: string, data: string): Promise<Opened> {
    this.untouched = undefined;
    this.recorder?.kill();
    const at = place(folder, data);
    const ask = async () => {
      await this.tell({ does: "open", root: at.account, data });
      opened.enter = `${this.base}/enter?link=${await freshLink(opened)}`;
    };
    const opened: Opened = {
      ...at,
      base: this.base,
      enter: "",
      end: async () => void (await this.tell({ does: "close" })),
      again: ask,
      pass: async (ms) => void (await this.tell({ does: "pass", ms })),
    };
    await ask();
    return opened;
  }

  /** The sample, as it was made; `prepare` changes it before it is opened. */
  async openSample(prepare?: (account: string) => void): Promise<Opened> {
    await this.close();
    const [sample, data] = [path.join(this.folder, "sample"), path.join(this.folder, "data")];
    const copy = (from: string, to: string) => {
      fs.rmSync(to, { recursive: true, force: true });
      expect(spawnSync("cp", ["-a", from, to]).status).toBe(0);
    };
    if (!fs.existsSync(this.pristine)) {
      await this.tell({ does: "make the sample", folder: sample, data });
      fs.mkdirSync(this.pristine);
      copy(sample, path.join(this.pristine, "sample"));
      copy(data, path.join(this.pristine, "data"));
    } else {
      copy(path.join(this.pristine, "sample"), sample);
      copy(path.join(this.pristine, "data"), data);
    }
    prepare?.(path.join(sample, "account"));
    const opened = await this.open(sample, data);
    this.recorder = fork(path.join(root, "dist/recorder.mjs"), [path.join(opened.account, "Desktop", recordingName)], {
      stdio: "ignore",
      execArgv: [],
    });
    return opened;
  }

  async close(): Promise<void> {
    this.untouched = undefined;
    this.recorder?.kill();
    this.recorder = undefined;
    await this.tell({ does: "close" });
  }

  async end(): Promise<void> {
    this.recorder?.kill();
    this.process.disconnect();
    await once(this.process, "exit");
    fs.rmSync(this.folder, { recursive: true, force: true });
  }
}

const temporary = () => fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-e2e-")));

async function startApplication(): Promise<Application> {
  const port = String(nextPort++);
  const child = fork(path.join(process.env.VUOTO_E2E_APPLICATION!, "application.mjs"), [], {
    cwd: root,
    stdio: ["ignore", "ignore", "inherit", "ipc"],
    execArgv: [],
    env: {
      ...process.env,
      NODE_ENV: "production",
      NEXT_TELEMETRY_DISABLED: "1",
      NEXT_MANUAL_SIG_HANDLE: "true",
      VUOTO_ROOT: root,
      VUOTO_ACCOUNT: "",
      VUOTO_PORT: port,
    },
  });
  process.once("exit", () => child.kill());
  await new Promise<void>((listens, failed) => {
    child.once("message", () => listens());
    child.once("exit", (code) => failed(new Error(`the application ended with ${code}`)));
  });
  return new Application(child, `http://127.0.0.1:${port}`, temporary());
}

/** Starts Vuoto as people do: the command, and its server. On the sample account, or on one that `fill` makes. */
export async function startVuoto(fill?: (account: string) => void): Promise<Started> {
  const folder = temporary();
  const sample = path.join(folder, "sample");
  const account = path.join(sample, "account");
  const data = dataFolderFor(rawFromText(account), path.join(folder, "xdg"));
  const env = { ...process.env, XDG_DATA_HOME: path.join(folder, "xdg"), VUOTO_SAMPLE: sample, VUOTO_DATA: "" };
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
    const ended = once(server, "exit");
    server.kill(signal);
    await ended;
  };
  // A test that failed has not stopped its own.
  process.once("exit", () => server.kill());
  const started: Started = {
    ...place(sample, data),
    folder,
    ...(await launch()),
    async kill() {
      // The server is a process of its own; the command ends with it.
      const [child] = spawnSync("pgrep", ["-P", String(server.pid)], { encoding: "utf8" })
        .stdout.trim()
        .split("\n");
      const ended = once(server, "exit");
      process.kill(Number(child), "SIGKILL");
      await ended;
    },
    async stop() {
      await end("SIGTERM");
      fs.rmSync(folder, { recursive: true, force: true });
    },
    async again(port) {
      await end("SIGTERM");
      Object.assign(started, await launch(port));
    },
  };
  return started;
}

interface Fixtures {
  /** A test that changes nothing may have the sample of the one before, which changed nothing either. */
  changesNothing: boolean;
  /** The sample account, as it was made, and a browser that is let in. */
  vuoto: Opened;
  /** Opens the sample once more, as it was made, but for what is prepared on it: another computer. */
  openSample: (prepare?: (account: string) => void) => Promise<Opened>;
  /** Opens an account that it fills; the browser is let in. */
  open: (fill: (account: string) => void) => Promise<Opened>;
}

export const test = base.extend<Fixtures, { application: Application }>({
  application: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names from the pattern
    async ({}, use) => {
      const application = await startApplication();
      await use(application);
      await application.end();
    },
    { scope: "worker", timeout: 240_000 },
  ],
  changesNothing: [false, { option: true }],
  vuoto: async ({ application, context, changesNothing }, use) => {
    const opened = (changesNothing && application.untouched) || (await application.openSample());
    await letIn(context, opened);
    await use(opened);
    if (changesNothing) application.untouched = opened;
    else await application.close();
  },
  openSample: async ({ application, context }, use) => {
    await use(async (prepare) => {
      const opened = await application.openSample(prepare);
      await letIn(context, opened);
      return opened;
    });
    await application.close();
  },
  open: async ({ application, context }, use) => {
    const folders: string[] = [];
    await use(async (fill) => {
      const folder = temporary();
      folders.push(folder);
      const account = path.join(folder, "account");
      fs.mkdirSync(account);
      fill(account);
      const opened = await application.open(folder, path.join(folder, "data"));
      await letIn(context, opened);
      return opened;
    });
    await application.close();
    for (const folder of folders) fs.rmSync(folder, { recursive: true, force: true });
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
  ).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
}

export { expect };
