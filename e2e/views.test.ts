import fs from "node:fs";
import path from "node:path";
import type { Page } from "@playwright/test";
import { violations } from "./axe";
import { expect, settled, test } from "./vuoto";

test.describe.configure({ mode: "parallel" });

const views = [
  "/survey",
  "/survey?sheet=downloads",
  "/homes",
  "/homes?sheet=overlooked",
  "/homes?sheet=finer",
  "/homes?sheet=prepare",
  "/homes?sheet=plan",
  "/homes?sheet=gather",
  "/sitting",
  "/sitting?sheet=undecided",
  "/sitting?sheet=projects",
  "/depots",
  "/quiet",
  "/quiet?sheet=key",
  "/quiet?sheet=straighten",
  "/quiet?sheet=layouts",
  "/quiet?sheet=hollows",
  "/ledger",
  "/ledger?sheet=trash",
  "/settings",
  "/screen",
];

const dialog = "[role=dialog]";

/** How far the frame around the view was scrolled, or could be: it never is. */
const scrolled = (page: Page) =>
  page.evaluate(() => {
    // As a focus, or a link to a place in the page, would.
    window.scrollTo(0, 1000);
    document.body.scrollTop = 1000;
    const root = document.scrollingElement!;
    const frame = document.body.firstElementChild?.getBoundingClientRect().top ?? 0;
    return [root.scrollTop, document.body.scrollTop, Math.max(0, root.scrollHeight - root.clientHeight), frame];
  });

test.describe("every view", () => {
  test.use({ changesNothing: true });
  for (const view of views)
    test(`${view} is accessible in light and dark, and says nothing on the console`, async ({ page, vuoto }) => {
      const said: string[] = [];
      page.on("console", (message) => message.type() !== "log" && message.type() !== "info" && said.push(message.text()));
      page.on("pageerror", (error) => said.push(error.message));
      await page.goto(vuoto.base + view);
      // The bare screen has no course.
      if (view !== "/screen") await settled(page);
      await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
      expect(await scrolled(page)).toEqual([0, 0, 0, 0]);
      expect(await violations(page)).toEqual([]);
      expect(said).toEqual([]);
    });
});

test("the dialogs of the survey and of homes are accessible", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "The keys" })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press("Escape");

  await page.getByRole("listbox").focus();
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Space");
  await expect(page.getByLabel("what is chosen")).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog")).toBeVisible();
  expect(await violations(page, dialog)).toEqual([]);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "as a list" }).click();
  expect(await violations(page)).toEqual([]);
  await page.keyboard.press("p");
  await expect(page.getByPlaceholder("type a home, or a new one")).toBeFocused();
  expect(await violations(page, dialog)).toEqual([]);
  await page.keyboard.press("Escape");

  await page.goto(`${vuoto.base}/homes`);
  await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
  await page.keyboard.press("m");
  await expect(page.getByRole("dialog", { name: /^New titles for/ })).toBeVisible();
  await expect(page.getByText(/get a new title/)).toBeVisible();
  expect(await violations(page, dialog)).toEqual([]);
});

test("the dialogs of depots, quiet, the ledger and the sitting are accessible", async ({ page, vuoto }) => {
  await page.goto(`${vuoto.base}/quiet`);
  await page.getByRole("button", { name: "add one" }).click();
  await page.getByLabel("It begins and ends by itself").check();
  expect(await violations(page, dialog)).toEqual([]);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^some kinds/ }).click();
  await expect(page.getByRole("group", { name: "The kinds that go out of sight" })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.goto(`${vuoto.base}/depots`);
  await page.getByRole("button", { name: "add a depot" }).click();
  await expect(page.getByRole("dialog", { name: "Add a depot" })).toBeVisible();
  expect(await violations(page, dialog)).toEqual([]);
  await page.goto(`${vuoto.base}/ledger?sheet=trash`);
  await page.getByRole("button", { name: "empty the trash" }).click();
  await expect(page.getByRole("dialog", { name: "Empty the trash" })).toBeVisible();
  await expect(page.getByRole("button", { name: /^Erase \d+ things?$/ })).toBeVisible();
  expect(await violations(page, dialog)).toEqual([]);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
  for (const [key, name] of [
    ["d", "Wait until"],
    ["b", "Stay until, or while"],
    ["k", "In which home do your notes lie?"],
    ["j", /^Archive /],
    ["m", /^Put .+ away$/],
    [";", "Find a thing in the pile"],
  ] as const) {
    await page.keyboard.press(key);
    await expect(page.getByRole("dialog", { name })).toBeVisible();
    expect(await violations(page, dialog)).toEqual([]);
    await page.keyboard.press("Escape");
  }
});

test("the sitting is accessible in its states: looks of every form, what is in use, undecided, projects", async ({
  page,
  vuoto,
}) => {
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByText(/lie ahead/)).toBeVisible();
  const find = async (name: string) => {
    await page.keyboard.press(";");
    await page.getByPlaceholder("letters of its name").fill(name);
    await page.keyboard.press("Enter");
    await expect(page.getByRole("heading", { level: 1 })).toHaveText(name);
    await expect(page.locator("[data-look]")).toBeVisible();
  };
  for (const name of [
    "ring-totals-2026.xlsx",
    "open-day-talk.pptx",
    "Re ringing on Thursday.eml",
    "gulls-at-the-gauge.webm",
    "read-logger.py",
    "handout-puffin-school.md",
    "call-survey-01.wav",
    "open day",
    "tide-plotter_4.2_amd64.deb",
    "grant-report-v7-final.pdf",
  ]) {
    await find(name);
    expect(await violations(page, "[data-look]"), name).toEqual([]);
  }
  // A program opens what would be the first: it is passed over.
  const oldest = () => page.getByLabel("the order of the pile").selectOption("oldest first");
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.locator("[data-look]")).toBeVisible();
  await oldest();
  const first = await page.getByRole("heading", { level: 1 }).innerText();
  const of = ["Desktop", "Downloads"]
    .map((folder) => path.join(vuoto.account, folder))
    .find((folder) => fs.existsSync(path.join(folder, first)))!;
  const lock = path.join(of, `.~lock.${first}#`);
  fs.writeFileSync(lock, "");
  // What programs have open is looked for every two seconds.
  await vuoto.pass(2000);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.locator("[data-look]")).toBeVisible();
  await oldest();
  await expect(page.getByRole("region", { name: "in use" })).toContainText(first);
  expect(await violations(page)).toEqual([]);
  fs.rmSync(lock);
  await vuoto.command("wait", "notes.txt", "--until", "2041-01-01");
  await vuoto.command("project", "start", "Season", "stores.txt~");
  for (const sheet of ["undecided", "projects"]) {
    await page.goto(`${vuoto.base}/sitting?sheet=${sheet}`);
    await expect(page.getByRole("heading", { level: 1 })).toHaveText(/^1 /);
    expect(await violations(page)).toEqual([]);
  }
  await vuoto.command("undo");
  await vuoto.command("undo");
});

test("by keyboard alone: choose in the plan, let go, undo, quiet, back", async ({ page, vuoto }) => {
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await settled(page);
  const plan = page.getByRole("listbox");
  const lying = await plan.getByRole("option").count();
  // Reached with Tab, never with the mouse.
  for (let n = 0; n < 40 && !(await plan.evaluate((e) => e === document.activeElement)); n++) await page.keyboard.press("Tab");
  await expect(plan).toBeFocused();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Space");
  await page.keyboard.press("ArrowRight");
  await page.keyboard.press("Space");
  await expect(page.getByText("2 things chosen")).toBeVisible();
  await page.keyboard.press("l");
  await expect(plan.getByRole("option")).toHaveCount(lying - 2);
  await page.keyboard.press("z");
  await expect(plan.getByRole("option")).toHaveCount(lying);
  await page.keyboard.press("q");
  await expect(page.getByRole("contentinfo")).toContainText(`${lying} out of sight`);
  await page.keyboard.press("q");
  await expect(page.getByRole("contentinfo")).toContainText("icons shown");
  expect(vuoto.changes(before)).toEqual([]);
});

test("a letter typed into a field is a letter", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByText(/lie ahead/)).toBeVisible();
  const name = await page.getByRole("heading", { level: 1 }).innerText();
  await page.keyboard.press("/");
  await page.keyboard.type("zqlswa");
  await expect(page.getByPlaceholder("type a home, or a new one")).toHaveValue("zqlswa");
  await page.keyboard.press("Escape");
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(name);
});

test("what a page elsewhere did shows by itself", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  const plan = page.getByRole("listbox");
  const lying = await plan.getByRole("option").count();
  const done = await vuoto.command("let-go", "notes.txt");
  expect(done.status, done.err).toBe(0);
  await expect(plan.getByRole("option")).toHaveCount(lying - 1);
  await expect(page.getByRole("contentinfo")).toContainText("Let go of notes.txt");
  expect((await vuoto.command("undo")).status).toBe(0);
  await expect(plan.getByRole("option")).toHaveCount(lying);
});

test("what was done while a page was still loading shows by itself too", async ({ page, vuoto }) => {
  let listen = () => {};
  const mayListen = new Promise<void>((done) => {
    listen = done;
  });
  await page.route("**/api/events*", async (route) => {
    await mayListen;
    await route.continue();
  });
  await page.goto(vuoto.base);
  const plan = page.getByRole("listbox");
  await expect(plan).toBeVisible();
  const lying = await plan.getByRole("option").count();
  expect((await vuoto.command("let-go", "notes.txt")).status).toBe(0);
  expect(await plan.getByRole("option").count()).toBe(lying);
  listen();
  await expect(plan.getByRole("option")).toHaveCount(lying - 1);
  expect((await vuoto.command("undo")).status).toBe(0);
  await expect(plan.getByRole("option")).toHaveCount(lying);
});

test("a name with markup is shown as a name", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  await page.getByRole("button", { name: "as a list" }).click();
  await expect(page.getByText("100% sure? <b>.txt")).toBeVisible();
});

test("a finding is settled from its trial, one thing left out, and undone", async ({ page, vuoto }) => {
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await settled(page);
  const note = page.getByRole("article").filter({ hasText: /shortcuts lead nowhere/ });
  const count = Number(/\d+/.exec(await note.getByRole("heading").innerText())![0]);
  await note.getByRole("button", { name: `let go of these ${count}` }).click();
  const trial = page.getByRole("dialog", { name: `${count} shortcuts lead nowhere` });
  await expect(trial.getByRole("checkbox")).toHaveCount(count);
  await expect(trial.getByText(/was looked for and is not there/)).toHaveCount(count);
  expect(await violations(page)).toEqual([]);
  await trial.getByRole("checkbox").first().press("Space");
  await trial.getByRole("button", { name: `Let go of ${count - 1} things` }).click();
  await expect(page.getByRole("contentinfo")).toContainText(`Let go of ${count - 1} things: dead shortcut`);
  await expect(page.getByRole("heading", { name: "1 shortcut leads nowhere" })).toBeVisible();
  await page.keyboard.press("z");
  await expect(page.getByRole("heading", { name: `${count} shortcuts lead nowhere` })).toBeVisible();
  expect(vuoto.changes(before)).toEqual([]);
});

test("what would be lost is said once a place is marked as backed up", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  await expect(page.getByRole("heading", { level: 1 })).not.toContainText("nowhere else");
  await page.getByRole("button", { name: "say which are" }).click();
  const places = page.getByRole("dialog", { name: "Which places are protected?" });
  await places.getByRole("group", { name: "How Documents is protected" }).getByText("backed up", { exact: true }).click();
  await expect(
    places.getByRole("group", { name: "How Documents is protected" }).getByLabel("backed up", { exact: true }),
  ).toBeChecked();
  expect(await violations(page)).toEqual([]);
  await places.getByRole("button", { name: "Done" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/\d+ exist nowhere else/);
  await expect(page.getByRole("heading", { name: /things exist nowhere else/ })).toBeVisible();
  expect((await vuoto.command("undo")).status).toBe(0);
  await expect(page.getByRole("heading", { level: 1 })).not.toContainText("nowhere else");
});

test("the table sorts, narrows and groups with true counts; the tide line chooses what is older", async ({ page, vuoto }) => {
  await page.goto(vuoto.base);
  await settled(page);
  await page.getByRole("button", { name: "choose what is older than six months" }).click();
  const chosen = page.getByRole("region", { name: "what is chosen" });
  const older = await chosen.getByRole("heading").innerText();
  expect(older).toMatch(/^\d+ things chosen$/);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "as a list" }).click();
  const list = page.getByRole("group", { name: "things, listed" });
  await page.getByRole("button", { name: "sort by size" }).click();
  await page.getByRole("button", { name: /^sort by size, now/ }).click();
  const first = list.getByRole("listitem").first();
  const smallest = await first.innerText();
  await page.getByRole("button", { name: /^sort by size, now/ }).click();
  await expect(first).not.toHaveText(smallest);
  await page.getByRole("searchbox").fill("shortcut");
  await expect(page.getByRole("status").filter({ hasText: / of \d+$/ })).toBeVisible();
  const shown = Number(
    /^\d+/.exec(
      await page
        .getByRole("status")
        .filter({ hasText: / of \d+$/ })
        .innerText(),
    )![0],
  );
  await page.getByRole("group", { name: "grouped by" }).getByRole("button", { name: "kind" }).click();
  await expect(list.getByText(`${shown} things`)).toBeVisible();
  await page.getByRole("checkbox", { name: "choose shortcut", exact: true }).press("Space");
  await expect(chosen.getByRole("heading")).toHaveText(`${shown} things chosen`);
  expect(await violations(page)).toEqual([]);
});

test("quiet is accessible in each of its states: an occasion about to end, its dialogs, icons chosen, all out of sight, the screen shared", async ({
  page,
  vuoto,
}) => {
  await page.goto(`${vuoto.base}/quiet`);
  await settled(page);
  await page.getByRole("button", { name: /^change.*sharing/ }).click();
  await page.getByLabel("It begins and ends by itself").check();
  expect(await violations(page, dialog)).toEqual([]);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^some kinds/ }).click();
  await page.getByRole("checkbox", { name: /^shortcuts/ }).check();
  expect(await violations(page)).toEqual([]);
  expect((await vuoto.command("quiet", "on", "--until", "1m")).status).toBe(0);
  await expect(page.getByRole("contentinfo")).toContainText("half an hour longer");
  expect(await violations(page)).toEqual([]);
  await page.getByRole("contentinfo").getByRole("button", { name: "half an hour longer" }).click();
  await expect(page.getByRole("contentinfo")).toContainText("It goes on until");

  await page.goto(`${vuoto.base}/screen`);
  const desktop = page.getByRole("listbox", { name: /: 0 icons in sight$/ });
  await expect(desktop).toBeVisible();
  expect(await violations(page)).toEqual([]);
  await page.getByRole("button", { name: /out of sight$/ }).click();
  expect(await violations(page, dialog)).toEqual([]);
  await page.keyboard.press("Escape");
  await page.keyboard.press("q");
  await expect(page.getByRole("listbox", { name: /: [1-9]\d* icons in sight$/ })).toBeVisible();
  await page.getByRole("listbox").focus();
  await page.keyboard.press("Control+a");
  await expect(page.getByText(/^\d+ icons chosen$/)).toBeVisible();
  expect(await violations(page)).toEqual([]);

  expect((await vuoto.command("occasion", "start", "sharing the screen")).status).toBe(0);
  await page.goto(`${vuoto.base}/sitting`);
  await expect(page.getByRole("heading", { name: /under way/ })).toBeVisible();
  expect(await violations(page)).toEqual([]);
  expect((await vuoto.command("occasion", "end", "sharing the screen")).status).toBe(0);
});
