import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { expect, settled, test } from "./vuoto";

const foot = (page: Page) => page.getByRole("contentinfo");
const acts = (page: Page) => page.getByRole("list", { name: "acts" }).getByRole("listitem");
const act = (page: Page, words: string) => acts(page).filter({ hasText: words });

test("an act that others depend on shows them, and is undone with them or left", async ({ page, vuoto }) => {
  const before = vuoto.tree();
  const disk = path.join(vuoto.folder, "disk");
  fs.mkdirSync(disk);
  const at = (name: string) => path.join(vuoto.account, "Desktop", name);
  const names = fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => name.endsWith(".csv"));
  expect((await vuoto.command("depot", "add", disk, "Disk")).status).toBe(0);
  const sent = await vuoto.command("archive", "--parcel", "Season", "--", "Disk", at(names[0]!), at(names[1]!));
  expect(sent.status, sent.err).toBe(0);
  expect((await vuoto.command("parcel", "restore", "Season")).status).toBe(0);
  await page.goto(vuoto.base);
  await settled(page);
  await page.goto(`${vuoto.base}/ledger`);
  await act(page, "Archived 2 things").getByRole("button", { name: /^undo/ }).click();
  const dialog = page.getByRole("dialog", { name: "Undo 2 acts" });
  const inOrder = dialog.getByRole("list", { name: "undone in this order" }).getByRole("listitem");
  await expect(inOrder).toHaveText([/Brought 2 things back from the parcel/, /Archived 2 things to Disk/]);
  await dialog.getByRole("button", { name: "leave them" }).click();
  await expect(act(page, "Archived 2 things")).toContainText("done");
  await act(page, "Archived 2 things").getByRole("button", { name: /^undo/ }).click();
  await dialog.getByRole("button", { name: "Undo both" }).click();
  await expect(act(page, "Archived 2 things to Disk").last()).toContainText("undone");
  await expect(act(page, "Undone: Archived 2 things")).toBeVisible();
  // What nothing depends on is undone at once.
  await act(page, "Made Disk a depot").getByRole("button", { name: /^undo/ }).click();
  await expect(act(page, "Undone: Made Disk a depot")).toBeVisible();
  // What is left of this is the collecting; the account may hold acts of others.
  expect(await vuoto.command("undo")).toMatchObject({ status: 0, out: expect.stringContaining("Undone: Collected 2 things") });
  expect(vuoto.changes(before)).toEqual([]);
});

test("a sitting of many acts is reached by pages, and the trash by a word", async ({ page, open }) => {
  const things = 106;
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    for (let n = 0; n < things; n++) fs.writeFileSync(path.join(account, "Desktop", `thing-${n}.txt`), `${n}`);
  });
  const before = vuoto.tree();
  // As a sitting asks for them, one thing at a time.
  for (let n = 0; n < things; n++)
    await vuoto.ask(`sitting/${n % 2 ? "let-go" : "stay"}`, {
      items: [{ path: btoa(`${vuoto.account}/Desktop/thing-${n}.txt`) }],
    });
  await page.goto(`${vuoto.base}/ledger`);
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(`${things} acts so far; each can be undone.`);
  await expect(acts(page)).toHaveCount(100);
  await page.getByRole("link", { name: "older acts" }).click();
  await expect(acts(page)).toHaveCount(things - 100);
  await acts(page).last().getByRole("button", { name: /^undo/ }).click();
  await expect(acts(page).last()).toContainText("undone");
  await page.getByRole("link", { name: "the latest acts" }).click();
  await expect(acts(page)).toHaveCount(100);
  await page.getByRole("link", { name: /^in the trash/ }).click();
  await page.getByPlaceholder("a word of the name or place").fill("thing-1");
  const found = page.getByRole("group", { name: "things in the trash" }).getByRole("listitem");
  const many = await found.count();
  await page.getByRole("checkbox", { name: / of / }).check();
  await page.getByRole("button", { name: `Bring ${many} back` }).click();
  await expect(foot(page)).toContainText(`Brought ${many} things back from the trash`);
  await expect(page.getByText("Nothing here has “thing-1” in it.")).toBeVisible();
  expect((await vuoto.command("undo", "all")).status).toBe(0);
  expect(vuoto.changes(before)).toEqual([]);
});
