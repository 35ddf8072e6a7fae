import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { makeRandomAccount } from "../fixtures/accounts";
import { enter, expect, type Opened, type Running, type Started, settled, startVuoto, test } from "./vuoto";

const foot = (page: Page) => page.getByRole("contentinfo");
const trashOf = (running: Running) => path.join(running.account, ".local/share/Trash/files");
const trashed = (running: Running) => (fs.existsSync(trashOf(running)) ? fs.readdirSync(trashOf(running)).length : 0);

/** From a cluttered desktop to a bare one and back, by mouse and keys, on real files. */
async function wholeJob(page: Page, running: Opened | Started): Promise<void> {
  const before = running.tree();
  const wasTrashed = trashed(running);
  await enter(page, running.enter);
  await settled(page);

  // Survey: the sentence, the plan, the findings.
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/\d+ things lie on the desktop\./);
  const plan = page.getByRole("listbox");
  const lying = await plan.getByRole("option").count();
  expect(lying).toBeGreaterThan(60);
  await expect(page.getByText(/shortcuts? leads? nowhere/)).toBeVisible();
  await page
    .getByRole("button", { name: /choose these \d+|choose it|choose the (\d+|one) here/ })
    .first()
    .click();
  const dead = Number(/(\d+) things? chosen/.exec(await page.getByLabel("what is chosen").innerText())?.[1] ?? 1);
  await page.keyboard.press("l");
  await expect(foot(page)).toContainText(/Let go of/);
  await expect(plan.getByRole("option")).toHaveCount(lying - dead);
  expect(trashed(running)).toBe(wasTrashed + dead);

  // A sweep of at least ten into the home that has the most.
  await page.keyboard.press("h");
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/belongs? to/);
  const take = page.getByRole("button", { name: /^Take \d+/ });
  for (let n = 0; n < 60; n++) {
    const taking = Number(/\d+/.exec(await take.innerText())![0]);
    if (taking <= 10) break;
    await page.keyboard.press("ArrowLeft");
  }
  const taken = Number(/\d+/.exec(await take.innerText())![0]);
  expect(taken).toBeGreaterThan(4);
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText(new RegExp(`Took (${taken} things|.+) into`));

  // Ten verdicts of all five kinds.
  await page.keyboard.press("o");
  await expect(page.getByText(/lie ahead/)).toBeVisible();
  const verdicts = [..."salwalswa"];
  const seen = new Set<string>();
  for (const key of verdicts) {
    seen.add(await page.getByRole("heading", { level: 1 }).innerText());
    await page.keyboard.press(key);
  }
  expect(seen.size).toBe(verdicts.length);
  await page.keyboard.press("/");
  await page.getByPlaceholder("type a home, or a new one").fill("Made in passing / deeper");
  await page.getByText("make “Made in passing / deeper”").click();
  await expect(foot(page)).toContainText(/Put .+ into .*Made in passing \/ deeper/);
  await expect(page.getByText("10 settled")).toBeVisible();
  // Z takes the last one back, and it is there again; then it goes after all.
  const next = await page.getByRole("heading", { level: 1 }).innerText();
  await page.keyboard.press("z");
  await expect(page.getByText("9 settled")).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).not.toHaveText(next);
  await page.keyboard.press("l");
  await expect(page.getByText("10 settled")).toBeVisible();
  await expect(foot(page)).toContainText(/Let go of/);

  // A parcel: a visible state while not sent; then sent, proven, and the originals gone.
  await page.getByRole("link", { name: /^depots/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("One parcel is not sent yet.");
  const depot = path.join(running.folder, "depot");
  fs.mkdirSync(depot, { recursive: true });
  await page.getByRole("button", { name: "Add a depot to send it to" }).click();
  await page.getByLabel("A folder, a drive, or the address of a cloud").fill(depot);
  await page.getByRole("button", { name: "Add it" }).click();
  await page.getByRole("button", { name: "Send to depot" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("One parcel arrived, whole.");
  const [bag] = fs.readdirSync(depot);
  expect(fs.readdirSync(path.join(depot, bag!, "data"))).toHaveLength(3);
  await page.getByRole("button", { name: "check it now" }).click();
  await expect(page.getByText(/It is whole: \d+ files?/)).toBeVisible();

  // Quiet, and back, by one key; it lasts over a restart.
  await page.getByRole("link", { name: /^quiet/ }).click();
  await page.getByRole("button", { name: /^bare/ }).click();
  await expect(foot(page)).toContainText(/\d+ out of sight/);
  // The browser is still let in.
  await running.again();
  await page.goto(running.base);
  await expect(foot(page)).toContainText(/\d+ out of sight/);
  await page.keyboard.press("q");
  await expect(foot(page)).toContainText("icons shown");

  // Everything is undone.
  await page.getByRole("link", { name: "ledger" }).click();
  await page.getByRole("button", { name: "undo everything, the latest first" }).click();
  await page.getByRole("button", { name: "Take them back" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Everything is as it was.");
  expect(running.changes(before)).toEqual([]);
  expect(fs.readdirSync(depot)).toEqual([bag]);
}

test("the whole job on the sample account", async ({ page }) => {
  const running = await startVuoto();
  try {
    await wholeJob(page, running);
  } finally {
    await running.stop();
  }
});

test("the whole job on an account that shares no name with the sample", async ({ page, open }) => {
  await wholeJob(page, await open((account) => void makeRandomAccount(account, 77)));
});
