import { spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import type { Page } from "@playwright/test";
import { makeRandomAccount } from "../fixtures/accounts";
import { asAnotherUser, askedByAnother } from "../fixtures/another-user";
import { rawRequest } from "../fixtures/raw-request";
import { markOfTests } from "./mark";
import { cookieOf, expect, letIn, type Opened, test } from "./vuoto";

const root = path.dirname(import.meta.dirname);

let running: Opened;
test.beforeEach(async ({ open }) => {
  running = await open((account) => void makeRandomAccount(account, 5, 20));
});

const request = (method: string, path: string, headers?: Record<string, string>, body?: string | Buffer) =>
  rawRequest(new URL(running.base).port, method, path, headers, body);

const act = (cookie: string, more: Record<string, string> = {}) => ({
  "content-type": "application/json",
  origin: running.base,
  "sec-fetch-site": "same-origin",
  cookie,
  ...more,
});

const form = { "content-type": "application/x-www-form-urlencoded", "sec-fetch-site": "same-origin" };
const linkIn = (text: string) => /enter\?link=(\S+)/.exec(text)![1]!;
const pressed = (link: string, headers: Record<string, string> = {}) =>
  request("POST", "/api/guard/enter", { ...form, origin: running.base, ...headers }, `link=${link}`);

test("the link lets one browser in by its button, once, and leaves no trace in the address", async ({ browser }) => {
  // Also without script.
  const context = await browser.newContext({ javaScriptEnabled: false });
  const page = await context.newPage();
  // Looked at by whatever fetches links beforehand, it is not used up.
  const link = linkIn(running.enter);
  for (const method of ["HEAD", "GET", "GET"]) {
    const looked = await request(method, `/enter?link=${link}`);
    expect(looked.status).toBe(200);
    expect(looked.headers["set-cookie"]).toBeUndefined();
  }
  await page.goto(running.enter);
  await page.getByRole("button", { name: "Let this browser in" }).click();
  await expect(page).toHaveURL(`${running.base}/survey`);
  expect((await pressed(link)).status).toBe(403);
  expect((await pressed("guessed")).status).toBe(403);
  await page.goto(running.enter);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("This link was used already, or is too old.");
  expect(await page.getByRole("button").count()).toBe(0);
  await context.close();
});

test("a server of another user receives no session, and what it has of ours is of no use to it, after a restart either", async ({
  page,
}) => {
  await page.goto(running.base);
  // It listens at another port of the same address, and the person follows one link to it.
  const listen = (header: string) =>
    `require("node:http").createServer((request, answer) => { console.log(request.headers["${header}"] ?? "none"); answer.end("a page"); })
      .listen(0, "127.0.0.1", function () { console.log(String(this.address().port)); });`;
  const thief = asAnotherUser(listen("cookie"));
  const heard: string[] = [];
  thief.stdout.on("data", (part: Buffer) => heard.push(...String(part).trim().split("\n")));
  await expect.poll(() => heard.length).toBeGreaterThan(0);
  await page.goto(`http://127.0.0.1:${heard[0]}/`);
  await expect.poll(() => heard.length).toBeGreaterThan(1);
  // A cookie reaches every port of its address: it cannot be kept from it.
  const stolen = heard[1]!;
  expect(stolen).toContain("vuoto-");
  const before = running.tree();
  const { port } = new URL(running.base);
  const attempt = () => askedByAnother(port, "POST", "/api/quiet/show", act(stolen), '{"level":"bare"}');
  expect(await attempt()).toBe("ECONNRESET");
  await running.again();
  expect(await attempt()).toBe("ECONNRESET");
  expect(running.changes(before)).toEqual([]);
  // Nor does a command give its key to what listens where ours is said to.
  const pretend = asAnotherUser(listen("x-vuoto-key"));
  const keys: string[] = [];
  pretend.stdout.on("data", (part: Buffer) => keys.push(String(part)));
  await expect.poll(() => keys.length).toBeGreaterThan(0);
  const file = path.join(running.data, "server.json");
  const real = fs.readFileSync(file, "utf8");
  fs.writeFileSync(file, JSON.stringify({ ...JSON.parse(real), port: Number(keys[0]) }));
  expect(await running.command("quiet", "status")).toMatchObject({ status: 3 });
  fs.writeFileSync(file, real);
  expect(keys).toHaveLength(1);
  thief.kill();
  pretend.kill();
});

test("a session lasts over a restart, is listed, and is ended from here or by command: its pages are shut out at once", async ({
  browser,
}) => {
  const [one, two] = await Promise.all(
    [0, 1].map(async () => {
      const context = await browser.newContext();
      await letIn(context, running);
      const page = await context.newPage();
      await page.goto(`${running.base}/settings`);
      return page;
    }),
  );
  await running.again();
  await one!.goto(`${running.base}/settings`);
  const own = one!.getByRole("listitem").filter({ hasText: "(this one)" });
  await expect(own).toHaveCount(1);
  await expect(own).toContainText("Chrome");
  await two!.goto(`${running.base}/settings`);
  await two!.getByRole("listitem").filter({ hasText: "(this one)" }).getByRole("button").click();
  await expect(two!.getByRole("heading", { level: 1 })).toHaveText("This browser has not been let in.");
  await expect(own).toBeVisible();
  const listed = await running.command("session", "list");
  expect(listed.status).toBe(0);
  expect(await running.command("session", "end", "nobody")).toMatchObject({ status: 3 });
  expect(await running.command("session", "end", "all")).toMatchObject({ status: 0, out: expect.stringContaining("shut out") });
  await expect(one!.getByRole("heading", { level: 1 })).toHaveText("This browser has not been let in.");
  expect((await running.command("session", "list")).out).toContain("No browser is let in.");
});

test("nine open pages answer as one does, and hear what happens", async ({ context }) => {
  // More than a browser has connections to one place.
  const pages: Page[] = [];
  for (let n = 0; n < 9; n++) {
    const page = await context.newPage();
    await page.goto(`${running.base}/quiet`);
    await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
    pages.push(page);
  }
  const streams = await Promise.all(
    pages.map((page) =>
      page.evaluate(() => performance.getEntriesByType("resource").filter((e) => e.name.includes("/api/events")).length),
    ),
  );
  const foot = (n: number) => pages[n]!.getByRole("contentinfo");
  await pages[8]!.bringToFront();
  await pages[8]!.keyboard.press("q");
  for (const n of [8, 0, 4]) await expect(foot(n), String(n)).toContainText(/\d+ out of sight/);
  // The page that listens is closed; the next one goes on.
  await pages[0]!.close();
  await pages[8]!.keyboard.press("q");
  for (const n of [8, 1, 4]) await expect(foot(n), String(n)).toContainText("icons shown");
  expect(streams.filter((count) => count > 0).length).toBeLessThanOrEqual(1);
});

test("every page hears of it when Vuoto was restarted, and keeps no job that is over", async ({ page }) => {
  await page.goto(`${running.base}/ledger`);
  await running.again();
  expect((await running.command("stay", fs.readdirSync(path.join(running.account, "Bureau"))[0]!)).status).toBe(0);
  await expect(page.getByRole("contentinfo")).toContainText(/Left .+ where it lies/);
  expect((await running.command("undo")).status).toBe(0);
});

/** Whether a process is the server of a data folder. */
function isServerOf(pid: number, data: string): boolean {
  try {
    const [words, settings] = ["cmdline", "environ"].map((what) => fs.readFileSync(`/proc/${pid}/${what}`, "utf8"));
    return words!.includes("dist/serve.mjs") && settings!.split("\0").includes(`VUOTO_DATA=${data}`);
  } catch {
    return false;
  }
}

test("vuoto open starts it where it does not run, and leads in by a page that only the person can read", async ({ page }) => {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-open-")));
  const account = path.join(folder, "account");
  fs.mkdirSync(account);
  makeRandomAccount(account, 9, 4);
  // The desktop's own way of opening a page, which here only writes down what it was given.
  fs.writeFileSync(path.join(folder, "xdg-open"), `#!/bin/sh\necho "$@" > ${folder}/opened\n`, { mode: 0o755 });
  const data = path.join(folder, "data");
  const open = () =>
    spawnSync(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", data, "open"], {
      env: { ...process.env, PATH: `${folder}:${process.env.PATH}` },
      encoding: "utf8",
    });
  let pid = 0;
  try {
    expect(open()).toMatchObject({ status: 0, stdout: "" });
    const { port } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8"));
    pid = fs
      .readdirSync("/proc")
      .filter((name) => /^\d+$/.test(name))
      .map(Number)
      .find((one) => isServerOf(one, data))!;
    expect(pid).toBeGreaterThan(0);
    const opened = fs.readFileSync(path.join(folder, "opened"), "utf8").trim();
    expect(opened).toBe(`file://${data}/open.html`);
    expect(fs.statSync(path.join(data, "open.html")).mode & 0o777).toBe(0o600);
    await page.goto(opened);
    await page.getByRole("button", { name: "Let this browser in" }).click();
    await expect(page).toHaveURL(`http://127.0.0.1:${port}/survey`);
    // Once more, it runs already.
    expect(open().status).toBe(0);
    expect(JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")).port).toBe(port);
  } finally {
    if (pid) process.kill(pid, "SIGTERM");
    fs.rmSync(folder, { recursive: true, force: true });
  }
});

test("pages carry a strict policy with a nonce of their own", async () => {
  const cookie = await cookieOf(running);
  const one = await request("GET", "/survey", { cookie });
  const two = await request("GET", "/survey", { cookie });
  const policy = String(one.headers["content-security-policy"]);
  expect(policy).toMatch(/default-src 'none'; script-src 'nonce-[^']+' 'strict-dynamic'/);
  expect(policy).toContain("frame-ancestors 'none'");
  expect(policy).not.toMatch(/unsafe-eval|script-src[^;]*unsafe-inline/);
  expect(policy).not.toBe(String(two.headers["content-security-policy"]));
  expect(one.headers["referrer-policy"]).toBe("no-referrer");
  expect(one.headers["x-content-type-options"]).toBe("nosniff");
});

test("without the cookie no page is shown, and a foreign host is refused, against rebinding", async () => {
  for (const path of ["/survey", "/ledger", "/screen"]) {
    const { status, headers } = await request("GET", path);
    expect(status).toBe(307);
    expect(headers.location).toContain("/enter");
  }
  expect((await request("GET", "/enter")).text).toContain("has not been let in");
  const cookie = await cookieOf(running);
  const { port } = new URL(running.base);
  const hosts = ["evil.example", `evil.example:${port}`, "127.0.0.1", `localhost:${port}`, `[::1]:${port}`];
  for (const host of hosts)
    for (const path of ["/survey", "/enter"]) expect((await request("GET", path, { host, cookie })).status, host).toBe(403);
});

test("what opens accounts for the tests lies in nothing that people run", () => {
  const holding = (folder: string) =>
    fs
      .readdirSync(path.join(root, folder), { recursive: true, encoding: "utf8" })
      .filter((name) => /\.(m?js|json)$/.test(name) && !name.startsWith("cache/"))
      .filter((name) => fs.readFileSync(path.join(root, folder, name), "utf8").includes(markOfTests));
  expect(holding(path.relative(root, process.env.VUOTO_E2E_APPLICATION!))).toEqual(["application.mjs"]);
  for (const folder of ["dist", ".next"]) expect(holding(folder), folder).toEqual([]);
});
