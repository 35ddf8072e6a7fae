import fs from "node:fs";
import path from "node:path";
import { expect, settled, test } from "./vuoto";

const trashed = (account: string) => fs.readdirSync(path.join(account, ".local/share/Trash/files")).length;

test("no key destroys by being pressed once more: Enter does what has the focus, and that keeps", async ({ page, vuoto }) => {
  const { worktops } = (await vuoto.ask("survey/survey", {})) as { worktops: { items: { id: string }[] }[] };
  await vuoto.ask("sitting/let-go", { items: worktops[0]!.items.slice(0, 3).map(({ id }) => id) });
  await page.goto(vuoto.base);
  await settled(page);
  await page.goto(`${vuoto.base}/ledger?sheet=trash`);
  await settled(page);
  const before = trashed(vuoto.account);
  expect(before).toBeGreaterThan(0);
  const empty = page.getByRole("button", { name: "empty the trash" });
  await empty.focus();
  await page.keyboard.press("Enter");
  const dialog = page.getByRole("dialog", { name: "Empty the trash" });
  await expect(dialog.getByRole("button", { name: "keep them in the trash" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(dialog).toBeHidden();
  expect(trashed(vuoto.account)).toBe(before);
  // The same with the key of the view behind it, and with the button that opened it.
  await expect(empty).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(dialog.getByRole("button", { name: "keep them in the trash" })).toBeFocused();
  await page.keyboard.press("Escape");
  await expect(empty).toBeFocused();
  expect(trashed(vuoto.account)).toBe(before);
  // Only with the focus on that very button.
  await page.keyboard.press("Enter");
  await dialog.getByRole("button", { name: /^Erase \d+ things?$/ }).focus();
  await page.keyboard.press("Enter");
  await expect(dialog).toBeHidden();
  await expect.poll(() => trashed(vuoto.account)).toBe(0);
});

test("what is taken into homes all at once is taken by the button that has the focus, and left by the other", async ({
  page,
  vuoto,
}) => {
  await page.goto(`${vuoto.base}/homes`);
  await settled(page);
  const lying = () => fs.readdirSync(path.join(vuoto.account, "Desktop")).length;
  const before = lying();
  await page.keyboard.press("e");
  const take = page.getByRole("dialog").getByRole("button", { name: /^Take \d+$/ });
  await expect(take).toBeFocused();
  await page.keyboard.press("Tab");
  await expect(page.getByRole("button", { name: "leave them all" })).toBeFocused();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toBeHidden();
  expect(lying()).toBe(before);
});
