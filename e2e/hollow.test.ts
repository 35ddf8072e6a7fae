import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { isBlankName } from "@/core/hollow/blanks";
import { rawFromText } from "@/core/names/raw";
import { violations } from "./axe";
import { expect, settled, test } from "./vuoto";

const foot = (page: Page) => page.getByRole("contentinfo");

test("a hollow is made at a spot, seen as nothing on the screen, broken on purpose, checked, repaired, found, and opened", async ({
  page,
  vuoto,
}) => {
  const before = vuoto.tree();
  const bare = async () => {
    await page.goto(`${vuoto.base}/screen`);
    // Its pictures come one by one.
    await expect(page.locator("canvas").first()).toHaveAttribute("aria-busy", "false");
    return page.evaluate(() => document.querySelector("canvas")!.toDataURL());
  };
  const without = await bare();
  await page.goto(`${vuoto.base}/quiet`);
  await page.getByRole("link", { name: "hollows" }).click();
  await settled(page);
  await page.getByLabel("A note, by which you will know it").fill("Keys");
  const screen = page.getByRole("img", { name: /^the screen/ });
  const box = (await screen.boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.62, box.y + box.height * 0.42);
  await expect(page.getByLabel("from the left")).not.toHaveValue("");
  await page.getByRole("button", { name: "Make a hollow" }).click();
  const row = page.getByRole("list", { name: "hollows" }).getByRole("listitem");
  await expect(row).toContainText("Checked: where it lies the wallpaper is as it is without it, to the pixel.");
  expect(await violations(page)).toEqual([]);
  await page.getByRole("button", { name: "show where they lie" }).click();
  expect(await vuoto.command("hollow", "check", "Keys")).toMatchObject({
    status: 0,
    out: expect.stringContaining("draws its name, and its picture is clear."),
  });

  // The very same pixels as without it.
  expect((await bare()) === without).toBe(true);

  // In the survey it is no thing, and outlined only when that is asked for.
  await page.goto(`${vuoto.base}/survey`);
  await settled(page);
  const plan = page.getByRole("listbox", { name: "desktop, drawn" });
  await expect(plan.getByRole("option", { name: /^hollow: Keys/ })).toHaveCount(0);
  await expect(plan.locator(".border-dashed.border-ink")).toHaveCount(0);
  await page.getByRole("button", { name: "outline" }).click();
  await expect(plan.locator(".border-dashed.border-ink")).toHaveCount(1);
  await expect(page.getByRole("link", { name: "one hollow" })).toBeVisible();

  // Another program gives it a name.
  const blank = fs.readdirSync(path.join(vuoto.account, "Desktop")).find((name) => isBlankName(rawFromText(name)))!;
  fs.renameSync(path.join(vuoto.account, "Desktop", blank), path.join(vuoto.account, "Desktop/New folder"));
  fs.writeFileSync(path.join(vuoto.account, "Desktop/New folder/plan.txt"), "where the keys are");
  const broken = await vuoto.command("hollow", "check", "Keys");
  expect(broken).toMatchObject({ status: 1, out: expect.stringContaining("It has a name that is drawn.") });
  await page.goto(`${vuoto.base}/quiet?sheet=hollows`);
  await settled(page);
  await expect(row).toContainText("It has a name that is drawn.");
  await expect.poll(async () => (await bare()) === without).toBe(false);
  await page.goto(`${vuoto.base}/quiet?sheet=hollows`);
  await page.getByRole("button", { name: "repair it" }).click();
  await expect(foot(page)).toContainText("drawn as nothing again");
  await expect(row).toContainText("1 thing in it");
  await row.getByRole("button", { name: /^look into it/ }).click();
  await expect(row.getByRole("list", { name: "what lies in Keys" })).toContainText("plan.txt");
  expect((await bare()) === without).toBe(true);
  expect(fs.readFileSync(path.join(vuoto.data, "hollows.txt"), "utf8")).toContain("Keys");

  await page.goto(`${vuoto.base}/quiet?sheet=hollows`);
  await page.getByRole("button", { name: /make an ordinary folder of it/ }).click();
  await page.getByLabel("Its name then").fill("Keys");
  await page.getByRole("button", { name: "make it so" }).click();
  await expect(page.getByText("There is none yet.")).toBeVisible();
  expect(fs.readdirSync(path.join(vuoto.account, "Desktop/Keys"))).toEqual(["plan.txt"]);
  fs.rmSync(path.join(vuoto.account, "Desktop/Keys"), { recursive: true });
  expect(vuoto.changes(before)).toEqual([]);
});
