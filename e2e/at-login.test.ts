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
const seen = () => fs.readdirSync(path.join(account, "Desktop")).filter((name) => !name.startsWith("."));
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
  if (pid) await expect.poll(() => isGone(pid), { timeout: 20_000 }).toBe(true);
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
  await expect
    .poll(() => fs.existsSync(path.join(data, "server.json")) && vuoto("quiet", "status").status, { timeout: 20_000 })
    .toBe(0);
  return small.pid!;
}

const status = (pid: number, field: string) =>
  Number(new RegExp(`^${field}:\\s+(\\d+)`, "m").exec(fs.readFileSync(`/proc/${pid}/status`, "utf8"))![1]);

test("from log-in on it is there without a window: takes away, brings back, takes along, in little memory, and sleeps meanwhile", async () => {
  const pid = await logIn();
  expect(told().small).toBe(true);
  expect(status(pid, "VmRSS") * 1024).toBeLessThan(90_000_000);
  expect(vuoto("quiet", "on", "--along").stdout).toContain("Took 100 icons out of sight");
  expect(seen()).toEqual([]);
  fs.writeFileSync(path.join(account, "Desktop/new.txt"), "new");
  await expect.poll(seen, { timeout: 30_000 }).toEqual([]);
  expect(vuoto("quiet", "off").status).toBe(0);
  expect(seen()).toHaveLength(101);
  // What is asked of homes, too.
  expect(vuoto("survey", "desktop").stdout).toContain("101 things on the desktop");
  expect(vuoto("quiet", "toggle").status).toBe(0);
  expect(vuoto("undo").stdout).toContain("Undone: Took 101 icons out of sight");
  // Nothing is to begin or to end: once it has gone to rest nobody is woken. What looks every two seconds would be four times.
  const wakings = async () => {
    const before = status(pid, "voluntary_ctxt_switches");
    await new Promise((next) => setTimeout(next, 8000));
    return status(pid, "voluntary_ctxt_switches") - before;
  };
  await expect.poll(wakings, { timeout: 60_000 }).toBeLessThan(4);
});

test("an end comes by itself with no window open", async () => {
  await logIn();
  const { port, key } = told();
  const begun = await fetch(`http://127.0.0.1:${port}/api/quiet/occasion`, {
    method: "POST",
    headers: { "x-vuoto-key": key },
    body: JSON.stringify({ occasion: "presenting", does: "start", until: Date.now() + 12_000 }),
  });
  expect(begun.status).toBe(200);
  expect(seen()).toEqual([]);
  const { endsSoon } = JSON.parse(vuoto("--json", "quiet", "status").stdout) as { endsSoon?: { title: string } };
  expect(endsSoon).toMatchObject({ title: "presenting" });
  await expect.poll(() => seen().length, { timeout: 45_000 }).toBe(100);
});

test("asked for its window it makes way for it, under the same address, and is there again when that ends", async ({ page }) => {
  const pid = await logIn();
  const { port, key } = told();
  // Who has no key gets nothing; a page of another site neither.
  const ask = (headers: Record<string, string>) =>
    fetch(`http://127.0.0.1:${port}/api/quiet/show`, { method: "POST", headers, body: '{"level":"bare"}' }).then((a) => a.status);
  expect(await ask({})).toBe(401);
  expect(await ask({ "x-vuoto-key": `${key}x`, "content-type": "application/json" })).toBe(401);
  expect(seen()).toHaveLength(100);
  const picture = await fetch(`http://127.0.0.1:${port}/icon.svg`, { headers: { "sec-fetch-site": "cross-site" } });
  expect([picture.status, told().small]).toEqual([403, true]);
  // A page of before: it is told, and comes again by itself.
  await page.goto(`http://127.0.0.1:${port}/survey`);
  await expect(page.getByText("Vuoto's window is being started.")).toBeVisible();
  await expect(page.getByText("This browser has not been let in.")).toBeVisible({ timeout: 60_000 });
  const started = vuoto("start");
  const link = /http:\S+/.exec(started.stdout.split("once:")[1] ?? "")?.[0];
  expect(link).toContain(`:${port}/enter`);
  await enter(page, link!);
  await expect(page.getByRole("link", { name: "survey 100" })).toBeVisible({ timeout: 30_000 });
  const [server] = spawnSync("pgrep", ["-P", String(pid)], { encoding: "utf8" })
    .stdout.trim()
    .split("\n")
    .map(Number);
  process.kill(server!, "SIGTERM");
  await expect.poll(() => told().small, { timeout: 30_000 }).toBe(true);
  expect(vuoto("quiet", "toggle").stdout).toContain("Took 100 icons out of sight");
  // Killed in the middle of the night, the next log-in finds everything.
  process.kill(pid, "SIGKILL");
  await expect.poll(() => isGone(pid)).toBe(true);
  expect(vuoto("quiet", "off").stdout).toContain("Brought 100 icons back in sight");
});
