import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { readDesktopEntry } from "@/core/survey/desktop-entry";
import { enter } from "./vuoto";

const command = path.join(import.meta.dirname, "../bin/vuoto.mjs");
let folder: string;
let account: string;
let data: string;
let small: ChildProcess | undefined;
const vuoto = (...words: string[]) =>
  spawnSync(process.execPath, [command, "--account", account, "--data", data, ...words], { encoding: "utf8" });
const told = () =>
  JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { port: number; key: string; small?: true };
const isGone = (pid: number) => {
  try {
    return /^State:\s+Z/m.test(fs.readFileSync(`/proc/${pid}/status`, "utf8"));
  } catch {
    return true;
  }
};

test.beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-login-")));
  [account, data] = [path.join(folder, "account"), path.join(folder, "data")];
  fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
  for (let n = 0; n < 100; n++) fs.writeFileSync(path.join(account, "Desktop", `thing-${n}.txt`), `${n}`);
});
test.afterEach(async () => {
  const { pid } = small ?? {};
  small?.kill("SIGTERM");
  if (pid) await expect.poll(() => isGone(pid)).toBe(true);
  small = undefined;
  fs.rmSync(folder, { recursive: true, force: true });
});

/** As a desktop does at log-in: by the line of the entry, with hardly any environment. */
async function logIn(): Promise<number> {
  expect(vuoto("at-login", "on").status).toBe(0);
  const entry = readDesktopEntry(fs.readFileSync(path.join(account, ".config/autostart/vuoto.desktop"), "utf8"))!;
  small = spawn("sh", ["-c", `exec ${entry.get("Exec")}`], {
    env: { HOME: folder, PATH: "/usr/bin:/bin" } as unknown as NodeJS.ProcessEnv,
    stdio: "ignore",
  });
  await expect.poll(() => fs.existsSync(path.join(data, "server.json")) && vuoto("quiet", "status").status).toBe(0);
  return small.pid!;
}

test("asked for its window it makes way for it, under the same address, and is there again when that ends", async ({ page }) => {
  const pid = await logIn();
  const { port, small: hasNoWindow } = told();
  expect(hasNoWindow).toBe(true);
  // A page of before: it is told, and comes again by itself.
  await page.goto(`http://127.0.0.1:${port}/survey`);
  await expect(page.getByText("Vuoto's window is being started.")).toBeVisible();
  await expect(page.getByText("This browser has not been let in.")).toBeVisible({ timeout: 60_000 });
  const started = vuoto("start");
  const link = /http:\S+/.exec(started.stdout.split("once:")[1] ?? "")?.[0];
  expect(link).toContain(`:${port}/enter`);
  await enter(page, link!);
  await expect(page.getByRole("link", { name: "survey 100" })).toBeVisible();
  const [server] = spawnSync("pgrep", ["-P", String(pid)], { encoding: "utf8" })
    .stdout.trim()
    .split("\n")
    .map(Number);
  process.kill(server!, "SIGTERM");
  await expect.poll(() => told().small).toBe(true);
  expect(vuoto("quiet", "toggle").stdout).toContain("Took 100 icons out of sight");
  // Killed in the middle of the night, the next log-in finds everything.
  process.kill(pid, "SIGKILL");
  await expect.poll(() => isGone(pid)).toBe(true);
  expect(vuoto("quiet", "off").stdout).toContain("Brought 100 icons back in sight");
});
