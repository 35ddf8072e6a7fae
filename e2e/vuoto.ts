import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { test as base, expect, type Page } from "@playwright/test";
import { differences, readTree, type Tree } from "../fixtures/compare-trees";

const root = path.dirname(import.meta.dirname);

/** A running Vuoto on a temporary account. */
export interface Running {
  base: string;
  /** The address that lets a browser in. */
  enter: string;
  account: string;
  folder: string;
  tree(): Tree;
  /** Everything that differs from the tree given, but for the times of folders and the trash's own empty folders. */
  changes(before: Tree): string[];
  /** The command, on this account. */
  command(...words: string[]): { status: number | null; out: string; err: string };
  stop(): Promise<void>;
  /** Stops and starts again; answers the new address that lets in. */
  again(): Promise<string>;
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
  const launch = async (): Promise<{ base: string; enter: string }> => {
    const words = fill ? ["start", "--account", account] : ["demo"];
    server = spawn(process.execPath, [path.join(root, "bin/vuoto.mjs"), ...words, "--port", String(nextPort++)], {
      env,
      stdio: ["ignore", "pipe", "pipe"],
    });
    let said = "";
    return new Promise((resolve, reject) => {
      const hear = (chunk: Buffer) => {
        said += chunk.toString();
        const address = /(http:\/\/127\.0\.0\.1:\d+)(\/\S*)?/.exec(said);
        if (address && said.includes("Ctrl-C")) resolve({ base: address[1]!, enter: address[1]! + (address[2] ?? "/") });
      };
      server.stdout!.on("data", hear);
      server.stderr!.on("data", hear);
      server.once("exit", (code) => reject(new Error(`it ended with ${code}: ${said}`)));
    });
  };
  const stop = async () => {
    const ended = new Promise((done) => server.once("exit", done));
    server.kill("SIGTERM");
    await ended;
  };
  const { base, enter } = await launch();
  const running: Running = {
    base,
    enter,
    account,
    folder,
    tree: () => readTree(account),
    changes: (before) =>
      differences(before, readTree(account), () => true).filter(
        (line) => !/^new: \.local(\/share(\/Trash(\/(files|info|directorysizes))?)?)?$/.test(line),
      ),
    command(...words) {
      const done = spawnSync(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, ...words], {
        env,
        encoding: "utf8",
        cwd: folder,
      });
      return { status: done.status, out: done.stdout, err: done.stderr };
    },
    stop: async () => {
      await stop();
      fs.rmSync(folder, { recursive: true, force: true });
    },
    async again() {
      await stop();
      const next = await launch();
      Object.assign(running, next);
      return next.enter;
    },
  };
  return running;
}

/** One Vuoto for the tests of a file, on the sample account. */
export const test = base.extend<{ vuoto: Running }, { sample: Running }>({
  sample: [
    // biome-ignore lint/correctness/noEmptyPattern: Playwright reads the names from the pattern
    async ({}, use) => {
      const running = await startVuoto();
      await use(running);
      await running.stop();
    },
    { scope: "worker", timeout: 120_000 },
  ],
  vuoto: async ({ sample }, use) => {
    await use(sample);
  },
});

/** Waits until the homes were read and compared: until the course counts things that have a home. */
export async function settled(page: Page): Promise<void> {
  await expect(
    page.getByRole("navigation", { name: "the course of the work" }).getByRole("link", { name: /^homes [1-9]/ }),
  ).toBeVisible({ timeout: 30_000 });
}

export { expect };
