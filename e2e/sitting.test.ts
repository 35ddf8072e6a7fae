import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { violations } from "./axe";
import { expect, test } from "./vuoto";

const foot = (page: Page) => page.getByRole("contentinfo");
/** So many things lie on the pile. */
const lie = (page: Page, count: number) =>
  expect(page.getByRole("navigation").getByRole("link", { name: `sitting ${count}`, exact: true })).toBeVisible();

test("keys in quick succession: each verdict on its own thing, each undo its own verdict, whatever else is done", async ({
  page,
  open,
}) => {
  const names = ["a.txt", "b.txt", "c.txt", "d.txt", "e.txt", "f.txt"];
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    fs.mkdirSync(path.join(account, "Documents/Kept"), { recursive: true });
    for (const [n, name] of names.entries()) {
      fs.writeFileSync(path.join(account, "Desktop", name), name);
      fs.utimesSync(path.join(account, "Desktop", name), 1.6e9 + n, 1.6e9 + n);
    }
  });
  const lying = () => fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => !name.startsWith("."));
  const heading = page.getByRole("heading", { level: 1 });
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await lie(page, names.length);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(heading).toHaveText(/^[a-f]\.txt$/);
  const first = await heading.innerText();
  for (const key of ["l", "l", "s"]) await page.keyboard.press(key);
  await expect.poll(() => lying().length).toBe(names.length - 2);
  await expect(page.getByText("3 settled,")).toBeVisible();
  // Meanwhile somebody puts another thing away by command.
  const left = lying().at(-1)!;
  expect((await vuoto.command("put", "Documents / Kept", path.join(vuoto.account, "Desktop", left))).status).toBe(0);
  for (let n = 0; n < 3; n++) await page.keyboard.press("z");
  await expect(page.getByText("0 settled,")).toBeVisible();
  await expect(heading).toHaveText(first);
  await expect.poll(() => lying().sort()).toEqual(names.filter((name) => name !== left));
  expect(fs.readdirSync(path.join(vuoto.account, "Documents/Kept"))).toEqual([left]);
  // Given again, in the order in which they were given at first, and taken back once more.
  for (let n = 0; n < 2; n++) await page.keyboard.press("y");
  await expect(page.getByText("2 settled,")).toBeVisible();
  expect(lying()).toHaveLength(names.length - 3);
  await foot(page).getByRole("button", { name: /^undo/ }).click();
  await page.keyboard.press("z");
  await expect(page.getByText("0 settled,")).toBeVisible();
  await expect(heading).toHaveText(first);
  // Only then is it the turn of what was done elsewhere.
  await page.keyboard.press("z");
  await expect(foot(page)).toContainText(`Undone: Put ${left}`);
  expect(vuoto.changes(before)).toEqual([]);
});

test("what a program has open is passed over, said, and comes up again once it is free; its undo touches nothing else", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    for (const name of ["a.txt", "b.txt"]) fs.writeFileSync(path.join(account, "Desktop", name), name);
  });
  const heading = page.getByRole("heading", { level: 1 });
  await page.goto(vuoto.base);
  await lie(page, 2);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(heading).toHaveText(/^[ab]\.txt$/);
  const first = await heading.innerText();
  // It is open in a program just now, as its lock file says.
  fs.writeFileSync(path.join(vuoto.account, "Desktop", `.~lock.${first}#`), "");
  await page.keyboard.press("l");
  const inUse = page.getByRole("region", { name: "in use" });
  await expect(inUse).toContainText(/its lock file .+ lies beside it/);
  await expect(heading).not.toHaveText(first);
  await expect(page.getByText("0 settled,")).toBeVisible();
  expect(fs.existsSync(path.join(vuoto.account, "Desktop", first))).toBe(true);
  await page.keyboard.press("s");
  await expect(heading).toHaveText("What is left is in use.");
  expect(await violations(page)).toEqual([]);
  fs.rmSync(path.join(vuoto.account, "Desktop", `.~lock.${first}#`));
  await expect(heading).toHaveText(first);
  await page.keyboard.press("l");
  await expect.poll(() => fs.existsSync(path.join(vuoto.account, "Desktop", first))).toBe(false);
});

test("a sitting is undone as a whole from the ledger, and by command", async ({ page, open }) => {
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    for (const name of ["a.txt", "b.txt", "c.txt", "d.txt"]) fs.writeFileSync(path.join(account, "Desktop", name), name);
  });
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await lie(page, 4);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^[a-d]\.txt$/);
  for (const key of ["l", "w", "l"]) await page.keyboard.press(key);
  await expect(page.getByText("3 settled,")).toBeVisible();
  await expect.poll(async () => (await vuoto.command("trash", "list")).out.trim().split("\n").length).toBe(2);
  await page.goto(`${vuoto.base}/ledger`);
  const list = page.getByRole("list", { name: "acts" });
  await expect(list).toContainText(/A sitting, .+: 3 acts, none undone/);
  await list.getByRole("button", { name: "undo the sitting" }).click();
  // Shown first, and asked once.
  await expect(page.getByRole("dialog").getByRole("list")).toBeVisible();
  await page.getByRole("button", { name: /^Take (it|them) back$/ }).click();
  await expect(list).toContainText(/3 acts, all undone/);
  expect(vuoto.changes(before)).toEqual([]);
  // Given again by its key, and taken back by command, by any entry of it.
  await page.keyboard.press("y");
  await page.keyboard.press("y");
  await expect(list).toContainText(/3 acts, 1 undone/);
  expect(await vuoto.command("undo", "--sitting", "1")).toMatchObject({
    status: 0,
    out: expect.stringContaining("Undid 2 acts"),
  });
  expect(vuoto.changes(before)).toEqual([]);
  expect(await vuoto.command("undo", "--sitting", "99")).toMatchObject({ status: 3, err: expect.stringContaining("99") });
});

test("sixty verdicts given quickly and the page left: every one is done, and after a reload ten are taken back by ten keys", async ({
  page,
  open,
}) => {
  const things = 80;
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    for (let n = 0; n < things; n++) {
      fs.writeFileSync(path.join(account, "Desktop", `thing-${n}.txt`), `${n}`);
      fs.utimesSync(path.join(account, "Desktop", `thing-${n}.txt`), 1.6e9 + n, 1.6e9 + n);
    }
  });
  const lying = () => fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => !name.startsWith(".")).length;
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await lie(page, things);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByText("0 settled,")).toBeVisible();
  await expect(page).toHaveURL(/\?of=/);
  const sitting = page.url();
  // As fast as they are shown; at that very moment the window goes elsewhere.
  const keys = page.evaluate(async () => {
    for (let n = 0; n < 60; n++) {
      window.dispatchEvent(new KeyboardEvent("keydown", { key: "l", bubbles: true }));
      await new Promise(requestAnimationFrame);
      await new Promise(requestAnimationFrame);
    }
    window.location.href = "about:blank";
  });
  // What was evaluated ends with its page.
  await Promise.all([keys.catch(() => {}), page.waitForURL("about:blank")]);
  await expect.poll(lying).toBe(things - 60);
  await page.goto(sitting);
  await expect(page.getByText("60 settled,")).toBeVisible();
  for (let n = 0; n < 10; n++) await page.keyboard.press("z");
  await expect(page.getByText("50 settled,")).toBeVisible();
  await expect.poll(lying).toBe(things - 50);
  await page.reload();
  await expect(page.getByText("50 settled,")).toBeVisible();
  expect((await vuoto.command("undo", "all")).status).toBe(0);
  expect(vuoto.changes(before)).toEqual([]);
});
