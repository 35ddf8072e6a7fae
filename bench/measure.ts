import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";

export const root = process.env.VUOTO_ROOT ?? process.cwd();
export const runs = 5;
export const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-bench-")));

/** A figure: ours against an ordinary tool's, in milliseconds, run by run; or, without a tool, ours alone in its own unit. */
export interface Row {
  figure: string;
  ours: number[];
  theirs?: number[];
  /** Of the ratio, or of ours alone. */
  atMost: number;
  aim: number;
  unit?: "ms" | "MB" | "";
}

export const rows: Row[] = [];

export const median = (list: number[]) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;

export async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

export const shell = (script: string, cwd: string) => {
  const done = spawnSync("bash", ["-c", script], { cwd, encoding: "utf8" });
  if (done.status !== 0) throw new Error(done.stderr);
};

/** The same, while this process goes on with what it serves. */
export const shellBeside = (script: string, cwd: string) =>
  new Promise<void>((resolve, reject) => {
    const child = spawn("bash", ["-c", script], { cwd, stdio: "ignore" });
    child.once("exit", (code) => (code === 0 ? resolve() : reject(new Error(`${script}: ${code}`))));
  });

/** Chromium as the figures use it. */
export const browserWords = {
  executablePath:
    process.env.VUOTO_CHROMIUM ?? ["/usr/bin/chromium-headless-shell", "/usr/bin/chromium"].find((place) => fs.existsSync(place)),
  args: [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
  ],
};
