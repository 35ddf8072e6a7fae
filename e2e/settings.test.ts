import fs from "node:fs";
import path from "node:path";
import { expect, settled, test } from "./vuoto";

test("a key is given another meaning, does it, and says nothing else does", async ({ page, vuoto }) => {
  await page.goto(`${vuoto.base}/settings`);
  await page.getByRole("button", { name: "another key for undo the last act" }).click();
  const field = page.getByLabel("the new key for undo the last act");
  await field.press("y");
  await expect(page.getByRole("alert").filter({ hasText: "it is the one for “do again what was undone”" })).toBeVisible();
  await field.press("r");
  await expect(page.locator("footer")).toContainText("R is now the key for “undo the last act”");
  await page.goto(vuoto.base);
  await settled(page);
  await page.keyboard.press("v");
  await expect(page.getByRole("status").filter({ hasText: "does nothing here; elsewhere: what was overlooked" })).toBeVisible();
  await page.keyboard.press("q");
  await expect(page.locator("footer")).toContainText("out of sight");
  // The key it had does nothing any more.
  await page.keyboard.press("z");
  await expect(page.getByRole("status").filter({ hasText: "Z does nothing here" })).toBeVisible();
  await page.keyboard.press("q");
  await expect(page.locator("footer")).toContainText("icons shown");
  await page.keyboard.press("r");
  await expect(page.locator("footer")).toContainText("Undone: R is now the key");
});

test("a depot's folder is looked for in the window; what is wrong with it stands beside it", async ({ page, vuoto }) => {
  const disk = path.join(vuoto.folder, "disk to find");
  fs.mkdirSync(disk);
  await page.goto(`${vuoto.base}/depots`);
  await page.getByRole("button", { name: "add a depot" }).click();
  const dialog = page.getByRole("dialog", { name: "Add a depot" });
  await dialog.getByLabel("A folder, a drive, or the address of a cloud").fill("~/Documents");
  await dialog.getByRole("button", { name: "Add it" }).click();
  await expect(dialog.getByRole("alert").filter({ hasText: "~/Documents cannot be a depot" })).toBeVisible();
  await dialog.getByRole("button", { name: "look for it" }).click();
  const up = dialog.getByRole("button", { name: "the folder around it" });
  const above = dialog.getByRole("button", { name: path.basename(disk), exact: true });
  for (let n = 0; n < 4 && !(await above.isVisible()); n++) {
    const before = await dialog.getByLabel("A folder, a drive, or the address of a cloud").inputValue();
    await up.click();
    await expect(dialog.getByLabel("A folder, a drive, or the address of a cloud")).not.toHaveValue(before);
    await dialog.getByRole("list").first().waitFor();
  }
  await above.click();
  await expect(dialog.getByLabel("A folder, a drive, or the address of a cloud")).toHaveValue(disk);
  await dialog.getByRole("button", { name: "Add it" }).click();
  await expect(page.getByLabel("depot disk to find")).toBeVisible();
  expect((await vuoto.command("undo")).status).toBe(0);
});

test("an act is found by the name of a thing in it, on whichever page it stands", async ({ page, vuoto }) => {
  const [thing] = fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => name.endsWith(".csv"));
  expect((await vuoto.command("let-go", thing!)).status).toBe(0);
  expect((await vuoto.command("quiet", "on")).status).toBe(0);
  expect((await vuoto.command("quiet", "off")).status).toBe(0);
  await page.goto(`${vuoto.base}/ledger`);
  const acts = page.getByRole("list", { name: "acts" }).getByRole("listitem");
  await expect(acts.filter({ hasText: "out of sight" }).first()).toBeVisible();
  await page.getByRole("searchbox").fill(thing!.toUpperCase());
  await page.keyboard.press("Enter");
  await expect(acts.filter({ hasText: "out of sight" })).toHaveCount(0);
  await expect(acts.first()).toContainText(thing!);
  await page.getByRole("searchbox").fill("nothing is called so");
  await page.keyboard.press("Enter");
  await expect(page.getByText("No act has “nothing is called so” in its words")).toBeVisible();
  expect((await vuoto.command("undo", "all")).status).toBe(0);
});
