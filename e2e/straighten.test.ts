import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { violations } from "./axe";
import { expect, type Running, settled, test } from "./vuoto";

const foot = (page: Page) => page.getByRole("contentinfo");

const pixelsIn = (text: string | null) => Number(/([\d,]+) pixels in all/.exec(text ?? "")![1]!.replaceAll(",", ""));

test("icons are straightened near their places, drawn before it is done, with the way that this saves; undone to the pixel", async ({
  page,
  vuoto,
}) => {
  expect((await vuoto.command("layout", "keep", "at first")).status).toBe(0);
  const isAsBefore = async () => (await vuoto.command("layout", "compare", "at first")).out === "All of it is as it was.\n";
  await page.goto(`${vuoto.base}/quiet`);
  await page.getByRole("link", { name: "straighten" }).click();
  const status = page.getByRole("main").getByRole("status");
  await expect(status).toContainText("this saves");
  expect(await violations(page)).toEqual([]);
  const near = pixelsIn(await status.textContent());
  await page.getByRole("radio", { name: /^by name/ }).check();
  await expect(status).not.toContainText("this saves");
  await expect(status).toContainText("pixels in all");
  expect(near).toBeLessThan(pixelsIn(await status.textContent()) / 3);
  await page.getByRole("radio", { name: /^like beside like/ }).check();
  await expect(status).toContainText("would move");
  expect(await isAsBefore()).toBe(true);
  await page.getByRole("radio", { name: /^each near its place/ }).check();
  await expect(status).toContainText("this saves");
  await page.getByRole("button", { name: "Straighten them" }).click();
  await expect(foot(page)).toContainText("each near its place");
  await expect(page.getByRole("button", { name: "They already lie like this" })).toBeDisabled();
  expect(await isAsBefore()).toBe(false);
  await page.keyboard.press("z");
  await expect(foot(page)).toContainText("Undone: Straightened");
  expect(await isAsBefore()).toBe(true);
  expect((await vuoto.command("layout", "remove", "at first")).status).toBe(0);
});

test("by hand an icon goes to the nearest place on the grid, by pointer and by arrows", async ({ page, vuoto }) => {
  await page.goto(`${vuoto.base}/quiet?sheet=straighten`);
  await settled(page);
  await page.getByRole("radio", { name: /^by hand/ }).check();
  const screen = page.getByRole("listbox");
  await screen.focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Alt+ArrowDown");
  await expect(foot(page)).toContainText("Moved 1 icon on the screen");
  await page.keyboard.press("z");
  await expect(foot(page)).toContainText("Undone: Moved 1 icon");
  expect(await violations(page)).toEqual([]);
});

test("a layout is kept, compared, brought back; saved as a file, and brought in another account by name and content", async ({
  page,
  vuoto,
  openSample,
}) => {
  await page.goto(`${vuoto.base}/quiet?sheet=layouts`);
  await settled(page);
  await expect(page.getByText("None is kept yet.")).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.getByLabel("Keep how it is now, as").fill("Before the season");
  await page.getByRole("button", { name: "Keep", exact: true }).click();
  const row = page.getByRole("list", { name: "layouts" }).getByRole("button", { name: /Before the season/ });
  await expect(row).toContainText("just as it is now");
  expect((await vuoto.command("straighten", "--by", "name", "--margin", "0")).status).toBe(0);
  await expect(row).toContainText("lie elsewhere");
  await expect(page.getByRole("main").getByRole("status")).toContainText("would move");
  expect(await violations(page)).toEqual([]);
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "save as a file" }).click(),
  ]);
  expect(download.suggestedFilename()).toBe("layout Before the season.json");
  const file = test.info().outputPath("layout.json");
  await download.saveAs(file);
  expect(fs.readFileSync(file, "utf8")).not.toContain(vuoto.account);
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(row).toContainText("just as it is now");
  await expect(page.getByRole("main").getByRole("status")).toContainText("No icon would move.");

  // Another computer, where the same things lie.
  const other = await openSample();
  expect((await other.command("straighten", "--by", "date", "--margin", "0")).status).toBe(0);
  await page.goto(`${other.base}/quiet?sheet=layouts`);
  await settled(page);
  await page.getByLabel("take one from another computer").setInputFiles(file);
  const theirs = page.getByRole("list", { name: "layouts" }).getByRole("button", { name: /Before the season/ });
  await expect(theirs).toContainText("lie elsewhere");
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(theirs).toContainText("just as it is now");
  await page.getByLabel("take one from another computer").setInputFiles({
    name: "notes.json",
    mimeType: "application/json",
    buffer: Buffer.from("no layout"),
  });
  await expect(foot(page)).toContainText("That is no layout");
  // Taken off by a command while it is looked at, it is gone from the list, and nothing more is said of it.
  expect((await other.command("layout", "remove", "Before the season")).status).toBe(0);
  await expect(page.getByText("None is kept yet.")).toBeVisible();
  await expect(foot(page)).not.toContainText("There is no layout");
});

test("a layout of a larger screen is brought on a smaller one: nothing is off it, nothing overlaps, and a corner is a corner", async ({
  page,
  openSample,
}) => {
  // As many as have room on the smaller one, too.
  const thinOut = (account: string) => {
    const desktop = path.join(account, "Desktop");
    const all = fs.readdirSync(desktop).filter((name) => !name.startsWith("."));
    for (const name of all.sort().slice(70)) fs.rmSync(path.join(desktop, name), { recursive: true });
  };
  type Items = { worktops: { items: { name: string; position: { x: number; y: number } }[] }[] };
  const placesOn = async (of: Running) =>
    new Map(
      (JSON.parse((await of.command("--json", "survey", "desktop")).out) as Items).worktops[0]!.items.map((i) => [
        i.name,
        i.position,
      ]),
    );
  const large = await openSample(thinOut);
  expect((await large.command("straighten", "--by", "name")).status).toBe(0);
  const name = [...(await placesOn(large)).keys()].find((one) => /^[a-z]/.test(one));
  expect((await large.command("place", name!, "1830", "960")).status).toBe(0);
  expect((await large.command("layout", "keep", "Large")).status).toBe(0);
  const file = test.info().outputPath("large.json");
  fs.writeFileSync(file, (await large.command("layout", "export", "Large")).out);

  const small = await openSample(thinOut);
  expect((await small.command("screen", "size", "1280", "800")).status).toBe(0);
  await page.goto(`${small.base}/quiet?sheet=layouts`);
  await expect(page.getByText("None is kept yet.")).toBeVisible();
  await page.getByLabel("take one from another computer").setInputFiles(file);
  await expect(page.getByRole("main").getByRole("status")).toContainText("would move");
  await page.getByRole("button", { name: "Bring it back" }).click();
  await expect(foot(page)).toContainText("Large");
  await expect
    .poll(async () => [...(await placesOn(small)).values()].every(({ x, y }) => x + 64 <= 1280 && y + 104 <= 800))
    .toBe(true);
  const after = await placesOn(small);
  const boxes = [...after.values()];
  expect(boxes.every(({ x, y }) => x >= 0 && y >= 0)).toBe(true);
  expect(boxes.some((a, n) => boxes.slice(n + 1).some((b) => Math.abs(a.x - b.x) < 64 && Math.abs(a.y - b.y) < 74))).toBe(false);
  // As near to its corner as a cell is large: so full it is put onto cells.
  const corner = after.get(name!)!;
  expect([corner.x + 2 * 96 > 1280, corner.y + 2 * 104 > 800]).toEqual([true, true]);
  await expect(page.getByRole("img", { name: /^the screen/ })).toBeVisible();
});
