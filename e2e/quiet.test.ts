import fs from "node:fs";
import path from "node:path";
import type { Response } from "@playwright/test";
import { expect, settled, test } from "./vuoto";

test("some kinds go out of sight, seen before it is done; one comes back by itself, then all; the page's title says so", async ({
  page,
  vuoto,
}) => {
  const before = vuoto.tree();
  await page.goto(`${vuoto.base}/quiet`);
  await settled(page);
  const screen = page.getByRole("img", { name: /^the screen/ });
  const inSight = async () => Number(/: (\d+) icons/.exec((await screen.getAttribute("aria-label")) ?? "")?.[1]);
  const all = await inSight();
  const drawn = () => page.evaluate(() => document.querySelector("canvas")!.toDataURL());
  // Its pictures come one by one.
  await expect(screen).toHaveAttribute("aria-busy", "false");
  const pixels = await drawn();
  await expect(page).toHaveTitle("quiet · Vuoto");

  await page.getByRole("button", { name: /^some kinds/ }).click();
  await page.getByRole("checkbox", { name: /^shortcuts/ }).check();
  const take = page.getByRole("button", { name: /^Take \d+ icons? away$/ });
  const shortcuts = Number(/\d+/.exec(await take.innerText())![0]);
  expect(shortcuts).toBeGreaterThan(1);
  await expect(page.getByText(`Like this, ${all - shortcuts} icons of ${all} would be in sight.`)).toBeVisible();
  expect(await inSight()).toBe(all - shortcuts);
  await expect(page.getByRole("heading", { name: "Everything is in sight" })).toBeVisible();
  await take.click();
  await expect(page.getByRole("heading", { name: `${shortcuts} out of sight` })).toBeVisible();
  await expect(page).toHaveTitle(`${shortcuts} out of sight · quiet · Vuoto`);
  await expect(screen).toHaveAttribute("aria-label", new RegExp(`: ${all - shortcuts} icons`));

  const list = page.getByRole("group", { name: "what is out of sight" });
  const name = (await list
    .getByRole("button", { name: /^show / })
    .first()
    .getAttribute("aria-label"))!.slice("show ".length);
  await page.getByRole("searchbox", { name: "narrow by a word of the name" }).fill(name);
  await list.getByRole("button", { name: `show ${name}`, exact: true }).click();
  await expect(page.getByRole("heading", { name: `${shortcuts - 1} out of sight` })).toBeVisible();
  expect(await inSight()).toBe(all - shortcuts + 1);

  // What was taken away and brought back is drawn at the very same pixels.
  await page.getByRole("button", { name: /^Bring everything back/ }).click();
  await expect(page.getByRole("heading", { name: "Everything is in sight" })).toBeVisible();
  expect(await inSight()).toBe(all);
  await expect(page).toHaveTitle("quiet · Vuoto");
  await page.mouse.move(0, 0);
  await expect.poll(async () => (await drawn()) === pixels).toBe(true);
  expect(vuoto.changes(before)).toEqual([]);
});

test("a key of one's own: the line that is shown works as it stands, and its arrival is said", async ({ page, vuoto }) => {
  await page.goto(`${vuoto.base}/quiet`);
  await page.getByRole("link", { name: "a key of your own" }).click();
  await expect(page.getByText("Press your key now.")).toBeVisible();
  const line = await page.locator("code").innerText();
  const { execFileSync } = await import("node:child_process");
  execFileSync("sh", ["-c", line], { stdio: "ignore" });
  await expect(page.getByText(/^It arrived, at /)).toBeVisible();
  await expect(page.getByText(/icons out of sight\. Press it again/)).toBeVisible();
  execFileSync("sh", ["-c", line], { stdio: "ignore" });
  await expect(page.getByText(/back in sight\. Press it again/)).toBeVisible();
  await expect(page.getByRole("contentinfo")).toContainText("icons shown");
});

test("a thousand things of an account are taken out of sight and come back exactly; one by command, also by its old place", async ({
  page,
  open,
}) => {
  const vuoto = await open((account) => {
    fs.mkdirSync(path.join(account, "Desktop/folder/deep"), { recursive: true });
    fs.writeFileSync(path.join(account, "Desktop/folder/deep/file"), "deep");
    for (let n = 0; n < 1000; n++) {
      const file = path.join(account, "Desktop", n % 50 === 0 ? `tide · ${n} 'm'.txt` : `thing-${n}.txt`);
      fs.writeFileSync(file, `${n}`, { mode: n % 2 ? 0o644 : 0o600 });
      fs.utimesSync(file, 1_600_000_000 + n, 1_600_000_000.123 + n);
    }
  });
  const seen = () => fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => !name.startsWith("."));
  const foot = page.getByRole("contentinfo");
  const before = vuoto.tree();
  await page.goto(vuoto.base);
  await expect(page.getByRole("link", { name: "survey 1,001" })).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toBeAttached();
  await page.keyboard.press("q");
  await expect(foot).toContainText("1001 out of sight");
  expect(seen()).toEqual([]);
  await page.keyboard.press("q");
  await expect(foot).toContainText("icons shown");
  expect(vuoto.changes(before)).toEqual([]);

  expect(await vuoto.command("hide", "thing-7.txt", path.join(vuoto.account, "Desktop/folder"))).toMatchObject({ status: 0 });
  expect(seen()).toHaveLength(999);
  const status = JSON.parse((await vuoto.command("--json", "quiet", "status")).out) as { outOfSight: { name: string }[] };
  expect(status).toMatchObject({ hidden: true, since: null, until: null, arrived: 0, inUse: 0 });
  expect(status.outOfSight.map(({ name }) => name).sort()).toEqual(["folder", "thing-7.txt"]);
  expect(await vuoto.command("show", path.join(vuoto.account, "Desktop/thing-7.txt"))).toMatchObject({ status: 0 });
  expect(await vuoto.command("show", "folder")).toMatchObject({ status: 0 });
  expect(vuoto.changes(before)).toEqual([]);
  // Of so many only what changed is sent, and the page says it all the same.
  await page.goto(`${vuoto.base}/survey`);
  await page.getByRole("button", { name: "as a list" }).click();
  let sent = 0;
  const count = async (response: Response) => {
    sent += (await response.body().catch(() => Buffer.alloc(0))).length;
  };
  page.on("response", count);
  const fresh = path.join(vuoto.account, "Desktop/just come.txt");
  fs.writeFileSync(fresh, "just come");
  await expect(page.getByRole("link", { name: "survey 1,002" })).toBeVisible();
  await page.getByPlaceholder("a word or a kind").fill("just come");
  await expect(page.getByText("just come.txt").first()).toBeVisible();
  expect(sent).toBeGreaterThan(0);
  expect(sent).toBeLessThan(40_000);
  page.off("response", count);
  fs.rmSync(fresh);
  await expect(page.getByRole("link", { name: "survey 1,001" })).toBeVisible();
  await expect(page.getByText("just come.txt").first()).toBeHidden();
  const wrong = await vuoto.command("quiet", "on", "--hide", "gadgets");
  expect([wrong.status, wrong.err]).toEqual([2, expect.stringContaining("gadgets is no kind. There are: drive, shortcut")]);
  expect((await vuoto.command("quiet", "on", "--hide", "folders", "--until", "2h")).out).toContain("Took 1 icon out of sight");
  expect((await vuoto.command("quiet", "status")).out).toMatch(
    /All but some kinds is to be in sight\. 1 thing is out of sight; 0 arrived since\. It ends /,
  );
  expect((await vuoto.command("quiet", "off")).status).toBe(0);
  expect(vuoto.changes(before)).toEqual([]);

  // On a screen that reads a list nothing moves.
  expect((await vuoto.command("screen", "use", "listed")).out).toContain("From now on icons go out of sight by a list of names");
  expect((await vuoto.command("hide", "thing-7.txt")).status).toBe(0);
  expect(fs.readFileSync(path.join(vuoto.account, "Desktop/.hidden"), "utf8")).toBe("thing-7.txt\n");
  expect(vuoto.changes(before)).toEqual(["new: Desktop/.hidden"]);
  expect((await vuoto.command("at-login", "on")).out).toContain("Vuoto is started at log-in");
  expect((await vuoto.command("at-login", "status")).out).toBe("It is started at log-in.\n");
  expect((await vuoto.command("occasion", "add", "Dusk", "--hide", "folders")).status).toBe(0);
  const left = await vuoto.command("leave");
  // What the person wrote stays theirs.
  expect((await vuoto.command("occasion", "list")).out).toMatch(/^Dusk +without folder +when you begin it$/m);
  expect([left.status, left.out]).toEqual([
    0,
    expect.stringMatching(/Brought 1 icon back in sight.*\n.*no longer started at log-in/),
  ]);
  expect(vuoto.changes(before).filter((line) => !/^new: \.config/.test(line))).toEqual([]);
});

test("an occasion is made, begun and ended, in the window and by command; one that is under way by its timetable holds at once", async ({
  page,
  vuoto,
}) => {
  const before = vuoto.tree();
  const foot = page.getByRole("contentinfo");
  await page.goto(`${vuoto.base}/quiet`);
  await settled(page);
  await page.getByRole("button", { name: "add one" }).click();
  const dialog = page.getByRole("dialog", { name: "An occasion" });
  await dialog.getByLabel("Its name").fill("Painting");
  await dialog.getByLabel("It takes out of sight").selectOption("the folders");
  await dialog.getByRole("button", { name: "Make it" }).click();
  await page.getByRole("button", { name: /^begin now.*Painting$/ }).click();
  await expect(foot).toContainText(/“Painting” began: took \d+ icons out of sight/);
  await expect(page.getByText("under way until you end it")).toBeVisible();
  // The same name twice is said beside the field.
  await page.getByRole("button", { name: "add one" }).click();
  await dialog.getByLabel("Its name").fill("Painting");
  await dialog.getByRole("button", { name: "Make it" }).click();
  await expect(dialog.getByRole("alert")).toContainText("There is already something called Painting");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: /^end.*Painting$/ }).click();
  await expect(foot).toContainText("icons shown");

  const week = "mo,tu,we,th,fr,sa,su";
  const all = await vuoto.command("occasion", "add", "Always", "--days", week, "--from", "00:00", "--to", "00:00");
  expect(all).toMatchObject({ status: 0 });
  await expect(foot).toContainText(/“Always” began: took \d+ icons out of sight/);
  expect((await vuoto.command("occasion", "list")).out).toMatch(/Always +bare +under way until/);
  expect(await vuoto.command("occasion", "add", "Half", "--days", "mo")).toMatchObject({ status: 2 });
  expect((await vuoto.command("occasion", "remove", "Always")).status).toBe(0);
  await expect(foot).toContainText("icons shown");
  expect((await vuoto.command("occasion", "remove", "Painting")).status).toBe(0);
  expect(vuoto.changes(before)).toEqual([]);
});

test("one thing is taken out of sight from the plan by its key, and is drawn as such until it is back", async ({
  page,
  vuoto,
}) => {
  await page.goto(vuoto.base);
  await settled(page);
  const plan = page.getByRole("listbox");
  await plan.focus();
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("Space");
  await page.keyboard.press("c");
  const away = plan.getByRole("option", { name: /, out of sight$/ });
  await expect(away).toHaveCount(1);
  await expect(page.getByRole("contentinfo")).toContainText("1 out of sight");
  await away.click();
  await page.getByRole("button", { name: /^back in sight/ }).click();
  await expect(away).toHaveCount(0);
  await expect(page.getByRole("contentinfo")).toContainText("icons shown");
});

test("while the screen is shared no page gets a name or a picture: not drawn, not asked for, not over the stream; then all is back", async ({
  page,
  vuoto,
}) => {
  const before = vuoto.tree();
  await page.goto(`${vuoto.base}/survey`);
  await settled(page);
  const names = fs.readdirSync(path.join(vuoto.account, "Desktop")).filter((name) => !name.startsWith(".") && name.length > 6);
  expect(names.length).toBeGreaterThan(40);
  // A look at a picture whose address is known from before.
  const [asking] = await Promise.all([page.waitForRequest(/\/api\/looks\/picture/), page.goto(`${vuoto.base}/quiet`)]);
  const picture = asking.url();
  await settled(page);
  await page
    .getByRole("listitem")
    .filter({ hasText: "sharing the screen" })
    .getByRole("button", { name: /^begin now/ })
    .click();
  await expect(page.getByRole("heading", { name: /^“sharing the screen” is under way/ })).toBeVisible();

  const bodies: string[] = [];
  const coming: Promise<void>[] = [];
  page.on("response", (response) => {
    const type = response.headers()["content-type"] ?? "";
    if (/json|html|x-component/.test(type))
      coming.push(
        response.text().then(
          (text) => void bodies.push(text),
          () => {},
        ),
      );
  });
  for (const view of ["survey", "homes", "sitting", "depots", "quiet", "ledger", "ledger?sheet=trash", "settings", "screen"]) {
    await page.goto(`${vuoto.base}/${view}`);
    await expect(
      page.getByRole(view === "screen" ? "listbox" : "heading", { name: /under way|the screen/ }).first(),
    ).toBeVisible();
  }
  // What is brought back meanwhile is drawn without its name, also where the page is loaded anew.
  const broken: string[] = [];
  page.on("pageerror", ({ message }) => broken.push(message));
  await page.keyboard.press("q");
  await expect(page.getByText("icons shown")).toBeVisible();
  await page.reload();
  await expect(page.getByRole("listbox", { name: /the screen/ })).toBeVisible();
  await page.getByRole("listbox", { name: /the screen/ }).focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByText("icons shown").or(page.getByText("1 icon chosen"))).toBeVisible();
  await page.keyboard.press("q");
  await expect(page.getByText(/out of sight; nothing is deleted/)).toBeVisible();
  expect(broken).toEqual([]);
  // From view to view without loading the page anew, too.
  await page.goto(`${vuoto.base}/survey`);
  for (const view of ["homes", "sitting", "quiet"]) {
    await page.getByRole("navigation").getByRole("link", { name: view }).click();
    await page.waitForURL(`**/${view}*`);
    await expect(page.getByRole("heading", { name: /under way/ })).toBeVisible();
  }
  await Promise.all(coming);
  const whole = bodies.join("\n") + (await page.content());
  expect(bodies.length).toBeGreaterThan(8);
  expect(names.filter((name) => whole.includes(name) || whole.includes(name.replace(/\.[a-z0-9]+$/i, "")))).toEqual([]);
  const asked = await page.evaluate(async (src) => {
    const post = (path: string) =>
      fetch(`/api/${path}`, { method: "POST", headers: { "content-type": "application/json" }, body: "{}" }).then(
        (a) => a.status,
      );
    return [
      (await fetch(src, { cache: "no-store" })).status,
      await post("survey/survey"),
      await post("ledger/list"),
      await post("quiet/status"),
    ];
  }, picture);
  expect(asked).toEqual([403, 403, 403, 403]);

  await page.getByRole("button", { name: "End it" }).click();
  await expect(page.getByRole("heading", { name: "Everything is in sight" })).toBeVisible();
  expect(vuoto.changes(before)).toEqual([]);
});

test("the screen, full size: icons are dragged, moved by key, looked at, hidden and shown; each is taken back, and no rule of the page is broken", async ({
  page,
  vuoto,
}) => {
  const broken: string[] = [];
  page.on("console", (message) => message.type() === "error" && broken.push(message.text()));
  const before = vuoto.tree();
  const placeOf = async (name: string) => {
    const { worktops } = JSON.parse((await vuoto.command("--json", "survey", "desktop")).out) as {
      worktops: { items: { name: string; position: { x: number; y: number } }[] }[];
    };
    return worktops[0]!.items.find((item) => item.name === name)!.position;
  };
  await page.goto(`${vuoto.base}/screen`);
  const desktop = page.getByRole("listbox", { name: /^the screen, full size: \d+ icons in sight$/ });
  const inSight = async () => Number(/: (\d+) icons/.exec((await desktop.getAttribute("aria-label")) ?? "")![1]);
  const all = await inSight();
  const box = (await desktop.boundingBox())!;
  const scale = box.width / 1920;
  // Its first icon by keyboard, and what it is called.
  await desktop.focus();
  await page.keyboard.press("ArrowRight");
  const [name] = (await desktop.getByRole("option").innerText()).split(", ");
  const first = await placeOf(name!);
  const at = (place: { x: number; y: number }) => [box.x + (place.x + 32) * scale, box.y + (place.y + 30) * scale] as const;
  await page.mouse.move(...at(first));
  await page.mouse.down();
  await page.mouse.move(...at({ x: first.x + 240, y: first.y + 90 }), { steps: 6 });
  await page.mouse.up();
  await expect.poll(() => placeOf(name!)).toEqual({ x: first.x + 240, y: first.y + 90 });
  // A drag that was given up moves nothing.
  await page.mouse.move(...at({ x: first.x + 240, y: first.y + 90 }));
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 3 });
  await page.keyboard.press("Escape");
  await page.mouse.up();
  await desktop.focus();
  await page.keyboard.press("Alt+ArrowDown");
  await expect.poll(() => placeOf(name!)).toEqual({ x: first.x + 240, y: first.y + 98 });
  await page.keyboard.press("z");
  await page.keyboard.press("z");
  await expect.poll(() => placeOf(name!)).toEqual(first);

  await desktop.focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("dialog", { name: name! })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.press("c");
  await expect.poll(inSight).toBe(all - 1);
  await page.getByRole("button", { name: "1 out of sight" }).click();
  await page.getByRole("button", { name: `show ${name}`, exact: true }).click();
  await expect(page.getByRole("heading", { name: "Everything is in sight" })).toBeVisible();
  await page.keyboard.press("Escape");
  await expect.poll(inSight).toBe(all);
  // A frame around some chooses them.
  await page.mouse.move(box.x + 2, box.y + 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width - 2, box.y + box.height / 2, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByText(/^\d+ icons chosen$/)).toBeVisible();
  // A command is followed.
  expect((await vuoto.command("quiet", "toggle")).status).toBe(0);
  await expect.poll(inSight).toBe(0);
  expect((await vuoto.command("quiet", "toggle")).status).toBe(0);
  await expect.poll(inSight).toBe(all);
  expect(await placeOf(name!)).toEqual(first);
  expect(await vuoto.command("place", name!, "abc", "1")).toMatchObject({ status: 2 });
  expect(vuoto.changes(before)).toEqual([]);
  expect(broken).toEqual([]);
});
