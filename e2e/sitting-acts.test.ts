import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { violations } from "./axe";
import { expect, type Running, test } from "./vuoto";

const heading = (page: Page) => page.getByRole("heading", { level: 1 });
const foot = (page: Page) => page.getByRole("contentinfo");
const settledNow = (page: Page, n: number) => expect(page.getByText(new RegExp(`(?<!\\d)${n} settled,`))).toBeVisible();

/** Takes a thing up by letters of its name. */
async function find(page: Page, name: string) {
  await page.keyboard.press(";");
  await page.getByPlaceholder("letters of its name").fill(name);
  await page.keyboard.press("Enter");
  await expect(heading(page)).toHaveText(name);
}

/** So many things lie on the pile, and the sitting is open. */
async function sit(page: Page, vuoto: Running, count: number) {
  await page.goto(vuoto.base);
  await expect(page.getByRole("navigation").getByRole("link", { name: `sitting ${count}`, exact: true })).toBeVisible();
  await page.goto(`${vuoto.base}/sitting`);
  await settledNow(page, 0);
}

function lay(account: string, names: string[]) {
  for (const folder of ["Desktop", "Documents/Kept", "Documents/Notes"])
    fs.mkdirSync(path.join(account, folder), { recursive: true });
  for (const [n, name] of names.entries()) {
    fs.mkdirSync(path.dirname(path.join(account, "Desktop", name)), { recursive: true });
    fs.writeFileSync(path.join(account, "Desktop", name), `content of ${name}\n`);
    fs.utimesSync(path.join(account, "Desktop", name), 1.6e9 + n, 1.6e9 + n);
  }
}

test("each verdict in its variants, by keyboard alone, and each undone", async ({ page, open }) => {
  const vuoto = await open((account) => lay(account, ["a.txt", "b.txt", "c.txt", "d.txt", "e.txt", "f.txt"]));
  const before = vuoto.tree();
  await sit(page, vuoto, 6);
  // Waiting until a day in words: what it means is shown before Enter.
  await find(page, "a.txt");
  await page.keyboard.press("d");
  await page.getByPlaceholder("friday, in two weeks, 1 march").fill("1 march 2041");
  await expect(page.getByText("That is 1 March 2041.")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText("Let a.txt wait until 1 March 2041");
  // Staying for a project that begins with it.
  await find(page, "b.txt");
  await page.keyboard.press("b");
  await page.getByPlaceholder("its title").fill("Harvest");
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText("Left b.txt where it lies while “Harvest” is under way");
  await find(page, "c.txt");
  await page.keyboard.press("j");
  await page.getByPlaceholder("type a parcel, or a new one").fill("Season 12");
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText("Collected c.txt in the parcel “Season 12”");
  // Away with a new title, into a new home, by one act.
  await find(page, "d.txt");
  await page.keyboard.press("m");
  await page.getByLabel("its title there").fill("of the harbour");
  await page.getByPlaceholder("type a home, or a new one").fill("Documents / Tides");
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText(/Put .+ into Documents \/ Tides/);
  expect(fs.readdirSync(path.join(vuoto.account, "Documents/Tides"))).toEqual(["of the harbour.txt"]);
  // The first note asks for the home of notes.
  await find(page, "e.txt");
  await page.keyboard.press("k");
  await page.getByPlaceholder("type a home, or a new one").fill("Documents / Notes");
  await page.keyboard.press("Enter");
  await expect(foot(page)).toContainText("Made a note of e.txt");
  expect(fs.readFileSync(path.join(vuoto.account, "Documents/Notes/e.md"), "utf8")).toContain("content of e.txt");
  await settledNow(page, 5);

  await page.goto(`${vuoto.base}/sitting?sheet=undecided`);
  await expect(heading(page)).toHaveText("1 thing waits; none is due.");
  await page.getByRole("button", { name: "another date" }).click();
  await page.getByPlaceholder("friday, in two weeks, 1 march").fill("2 march 2041");
  await page.keyboard.press("Enter");
  await expect(page.getByText("until 2 March 2041", { exact: true })).toBeVisible();
  expect(JSON.parse((await vuoto.command("undecided", "--json")).out)).toMatchObject([{ name: "a.txt", due: false }]);
  await page.getByRole("link", { name: "projects 1" }).click();
  await expect(heading(page)).toHaveText("1 project is under way.");
  await page.getByRole("button", { name: "it has ended" }).click();
  await expect(heading(page)).toHaveText("No project is under way.");
  await expect(foot(page)).toContainText("Ended the project “Harvest”, whose 1 thing comes up again");
  expect((await vuoto.command("undo", "all")).status).toBe(0);
  expect(vuoto.changes(before)).toEqual([]);
});

test("the pile is turned, one is put off for later and fetched back, and what went out of sight comes back by undo", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) => {
    lay(account, ["old.txt", "middle.csv", "young.txt"]);
    fs.writeFileSync(path.join(account, "Desktop/middle.csv"), "x,y\n".repeat(500));
    fs.utimesSync(path.join(account, "Desktop/middle.csv"), 1.6e9 + 1, 1.6e9 + 1);
  });
  const hidden = path.join(vuoto.account, "Desktop/.out-of-sight");
  const before = vuoto.tree();
  await sit(page, vuoto, 3);
  const order = page.getByLabel("the order of the pile");
  await order.selectOption("newest first");
  await expect(heading(page)).toHaveText("young.txt");
  await order.selectOption("largest first");
  await expect(heading(page)).toHaveText("middle.csv");
  await order.selectOption("oldest first");
  await expect(heading(page)).toHaveText("old.txt");
  await page.getByRole("button", { name: "find ;" }).focus();
  await page.keyboard.press(".");
  await expect(heading(page)).toHaveText("middle.csv");
  await page.keyboard.press(".");
  await expect(heading(page)).toHaveText("young.txt");
  await page.keyboard.press(",");
  await expect(heading(page)).toHaveText("middle.csv");
  await page.keyboard.press(",");
  await expect(heading(page)).toHaveText("old.txt");
  await page.getByLabel("which worktops").selectOption("downloads");
  await expect(heading(page)).toHaveText("Everything there has a verdict.");
  await page.getByRole("button", { name: /go on with the other worktop: 3 lie there/ }).click();
  await page.keyboard.press("l");
  await expect(foot(page)).toContainText("Let go of old.txt");
  // Of the two that follow, undo takes back the later one first.
  await page.keyboard.press("c");
  await expect.poll(() => fs.existsSync(hidden) && fs.readdirSync(hidden)).toContain("middle.csv");
  await page.keyboard.press("z");
  await expect.poll(() => fs.existsSync(path.join(vuoto.account, "Desktop/middle.csv"))).toBe(true);
  await settledNow(page, 1);
  await page.keyboard.press("z");
  await settledNow(page, 0);
  await expect.poll(() => vuoto.changes(before)).toEqual([]);
});

test("a folder is opened and decided thing by thing; a name that is taken in the home is shown with both, and three ways out", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) => {
    lay(account, ["box/in.txt", "box/too.txt"]);
    fs.writeFileSync(path.join(account, "Documents/Kept/in.txt"), "another\n");
    fs.writeFileSync(path.join(account, "Documents/Kept/too.txt"), "another one\n");
  });
  const kept = () => fs.readdirSync(path.join(vuoto.account, "Documents/Kept")).sort();
  const putInto = async (home: string) => {
    await page.keyboard.press("/");
    await page.getByPlaceholder("type a home, or a new one").fill(home);
    await page.keyboard.press("Enter");
  };
  const before = vuoto.tree();
  await sit(page, vuoto, 1);
  await expect(heading(page)).toHaveText("box");
  await expect(page.getByText("in.txt")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(heading(page)).toHaveText("in.txt");
  await expect(page.getByText("in Desktop / box")).toBeVisible();
  await putInto("Documents / Kept");
  const both = page.getByRole("dialog", { name: "in.txt is there twice" });
  await expect(both.getByRole("region", { name: "this one" })).toContainText("content of box/in.txt");
  await expect(both.getByRole("region", { name: "in Documents / Kept" })).toContainText("another");
  expect(kept()).toEqual(["in.txt", "too.txt"]);
  expect(await violations(page, "[role=dialog]")).toEqual([]);
  await both.getByLabel("or give this one a title of its own").fill("from the box");
  await page.keyboard.press("Enter");
  await expect.poll(kept).toEqual(["from the box.txt", "in.txt", "too.txt"]);
  await expect(heading(page)).toHaveText("too.txt");
  await putInto("Documents / Kept");
  await page.getByRole("button", { name: "Keep both: this one gets a number" }).click();
  await expect.poll(kept).toContain("too (2).txt");
  // At last the folder itself, which is empty now.
  await expect(heading(page)).toHaveText("box");
  await page.keyboard.press("l");
  await expect(heading(page)).toHaveText("Everything has a verdict.");
  await expect(page.getByRole("table", { name: "what was won" })).toContainText("things");
  await expect(page.getByText("The trash is no backup")).toBeVisible();
  expect(await violations(page)).toEqual([]);
  for (let n = 0; n < 3; n++) await page.keyboard.press("z");
  await expect.poll(() => vuoto.changes(before)).toEqual([]);
});

test("two windows on one pile: each thing is decided once, and the other window says so", async ({ page, context, open }) => {
  const vuoto = await open((account) => lay(account, ["a.txt", "b.txt"]));
  await sit(page, vuoto, 2);
  const other = await context.newPage();
  await other.goto(`${vuoto.base}/sitting`);
  await settledNow(other, 0);
  await find(page, "a.txt");
  await find(other, "a.txt");
  await page.keyboard.press("s");
  await expect(foot(page)).toContainText("Left a.txt where it lies");
  // It is said before a key is pressed, and does not go from under the eyes; any verdict then takes up the next one.
  await expect(other.getByText(/a\.txt was decided already, in another window or by command: stays on purpose/)).toBeVisible();
  await expect(heading(other)).toHaveText("a.txt");
  await other.keyboard.press("w");
  await expect(heading(other)).toHaveText("b.txt");
  await settledNow(other, 0);
  // What has gone is told too, and leaves the pile.
  await find(page, "b.txt");
  await page.keyboard.press("l");
  await expect.poll(() => fs.existsSync(path.join(vuoto.account, "Desktop/b.txt"))).toBe(false);
  await expect(other.getByText("b.txt is no longer there.")).toBeVisible();
  expect(await violations(other)).toEqual([]);
  await other.getByRole("button", { name: "the next one" }).click();
  await expect(heading(other)).toHaveText("Nothing waits for a verdict.");
  expect((await vuoto.command("trash", "list")).out.trim().split("\n")).toHaveLength(1);
});

test("what is done elsewhere shows in an open sitting: parcels, projects, homes, what waits, and what lies in a folder", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) =>
    lay(account, ["a.txt", "b.txt", "box/nest 1.csv", "box/nest 2.csv", "box/nest 3.csv", "box/nest 4.csv", "c.txt"]),
  );
  const at = (name: string) => path.join(vuoto.account, "Desktop", name);
  await sit(page, vuoto, 4);
  await find(page, "a.txt");
  expect((await vuoto.command("project", "start", "Harvest", at("b.txt"))).status).toBe(0);
  const { worktops } = (await vuoto.ask("survey/survey", {})) as { worktops: { items: { id: string; name: string }[] }[] };
  const c = worktops[0]!.items.find(({ name }) => name === "c.txt")!;
  await vuoto.ask("sitting/archive", { items: [c.id], parcel: "Season" });
  await expect(page.getByRole("link", { name: /projects 1/ })).toBeVisible();
  await expect(page.getByText("2 lie ahead.")).toBeVisible();
  await page.keyboard.press("j");
  await expect(page.getByRole("option", { name: "Season" })).toBeVisible();
  await page.keyboard.press("Escape");
  // A home is made by hand while the list of them is open.
  await page.keyboard.press("/");
  const list = page.getByRole("dialog");
  fs.mkdirSync(path.join(vuoto.account, "Documents/By hand"));
  fs.writeFileSync(path.join(vuoto.account, "Documents/By hand/one.txt"), "one");
  await expect(list.getByRole("option", { name: /By hand/ })).toBeVisible();
  await page.keyboard.press("Escape");
  // A folder is opened: its families are said; once its things are decided it holds what it holds.
  await find(page, "box");
  await expect(page.getByText("4 entries")).toBeVisible();
  await page.keyboard.press("Enter");
  await expect(page.getByText("belong together: named “nest”")).toBeVisible();
  await page.keyboard.press("l");
  await page.keyboard.press("l");
  await find(page, "box");
  await expect(page.getByText("2 entries")).toBeVisible();
});

test("the server ends in the middle and is started again: the sitting goes on where it was", async ({ page, open }) => {
  const names = ["a", "b", "c", "d", "e", "f", "g", "h"].map((name) => `${name}.txt`);
  const vuoto = await open((account) => lay(account, names));
  await sit(page, vuoto, 8);
  await page.keyboard.press("s");
  await settledNow(page, 1);
  await expect(foot(page)).toContainText("Left ");
  const left = await heading(page).innerText();
  await vuoto.end();
  // On and on, to where nothing was looked at ahead: what cannot be asked for stays in the pile, and that is said.
  for (let settled = 2; settled <= 7; settled++) {
    await page.keyboard.press("l");
    await settledNow(page, settled);
  }
  await expect(page.getByRole("status").filter({ hasText: "Vuoto does not answer. This waits here" })).toBeVisible();
  const last = await heading(page).innerText();
  expect(names).toContain(last);
  await vuoto.again();
  // It goes on by itself.
  await expect(page.locator("[data-look]")).toBeVisible();
  await expect(heading(page)).toHaveText(last);
  await expect.poll(() => fs.existsSync(path.join(vuoto.account, "Desktop", left))).toBe(false);
  await page.reload();
  await settledNow(page, 7);
});
